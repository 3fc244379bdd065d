import { changePenalty, pelt } from '../../src/stats/pelt.ts';
import { normals, seeded } from '../seeded.ts';

// Annual flow of the Nile at Aswan 1871–1970 (Cobb, Biometrika 65, 1978): the level changes after 1898, the 28th year.
const NILE = Float64Array.of(
  1120,
  1160,
  963,
  1210,
  1160,
  1160,
  813,
  1230,
  1370,
  1140,
  995,
  935,
  1110,
  994,
  1020,
  960,
  1180,
  799,
  958,
  1140,
  1100,
  1210,
  1150,
  1250,
  1260,
  1220,
  1030,
  1100,
  774,
  840,
  874,
  694,
  940,
  833,
  701,
  916,
  692,
  1020,
  1050,
  969,
  831,
  726,
  456,
  824,
  702,
  1120,
  1100,
  832,
  764,
  821,
  768,
  845,
  864,
  862,
  698,
  845,
  744,
  796,
  1040,
  759,
  781,
  865,
  845,
  944,
  984,
  897,
  822,
  1010,
  771,
  676,
  649,
  846,
  812,
  742,
  801,
  1040,
  860,
  874,
  848,
  890,
  744,
  749,
  838,
  1050,
  918,
  986,
  797,
  923,
  975,
  815,
  1020,
  906,
  901,
  1170,
  912,
  746,
  919,
  718,
  714,
  740,
);

/** Optimal partitioning without pruning, the obvious way (Jackson et al. 2005). */
function optimalPartition(y: Float64Array, penalty: number): number[] {
  const cost = (from: number, to: number): number => {
    const part = y.subarray(from, to);
    const mean = part.reduce((sum, value) => sum + value, 0) / part.length;
    return part.reduce((sum, value) => sum + (value - mean) ** 2, 0);
  };
  const best = [-penalty];
  const last = [0];
  for (let end = 1; end <= y.length; end++) {
    let least = Infinity;
    for (let start = 0; start < end; start++) {
      const total = best[start]! + cost(start, end) + penalty;
      if (total < least) {
        least = total;
        last[end] = start;
      }
    }
    best[end] = least;
  }
  const changes: number[] = [];
  for (let at = last[y.length]!; at > 0; at = last[at]!) changes.push(at);
  return changes.reverse();
}

test('finds the one change of the Nile', () => {
  expect(pelt(NILE, changePenalty(NILE))).toEqual([28]);
});

test('equals optimal partitioning on seeded staircases', () => {
  const random = seeded(5);
  const noise = normals(random);
  for (let run = 0; run < 30; run++) {
    const y = Float64Array.from(
      { length: 80 },
      (_, i) => 10 * Math.floor(i / (10 + (run % 20))) + noise() * (1 + (run % 4)),
    );
    const penalty = changePenalty(y);
    expect(pelt(y, penalty)).toEqual(optimalPartition(y, penalty));
  }
});

test('short and constant series have no change', () => {
  expect(pelt(Float64Array.of(3), 1)).toEqual([]);
  expect(pelt(new Float64Array(50).fill(7), changePenalty(new Float64Array(50).fill(7)))).toEqual([]);
});

test('does not depend on where the values start', () => {
  const noise = normals(seeded(6));
  const y = Float64Array.from({ length: 60 }, (_, i) => (i < 30 ? 0 : 8) + noise());
  const shifted = y.map((value) => value + 4e9);
  expect(pelt(shifted, changePenalty(y))).toEqual(pelt(y, changePenalty(y)));
});
