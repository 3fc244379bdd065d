import { bytesVariance, estimatedBytes, inclusionProbability } from '../../src/stats/horvitz-thompson.ts';
import { median, nearestRank } from '../../src/stats/quantile.ts';
import { selectRank } from '../../src/stats/select-rank.ts';
import { blockMinima } from '../../src/stats/block-minima.ts';
import { seeded } from '../seeded.ts';

test('sampled sums are unbiased and their error is the one that is stated', () => {
  const random = seeded(11);
  const interval = 4096;
  const sizes = Array.from({ length: 3000 }, (_, i) => 16 + 32 * (i % 50));
  const truth = sizes.reduce((sum, size) => sum + size, 0);
  let sum = 0;
  let squares = 0;
  let stated = 0;
  const runs = 300;
  for (let run = 0; run < runs; run++) {
    let estimate = 0;
    for (const size of sizes) {
      const p = inclusionProbability(size, interval);
      if (random() >= p) continue;
      estimate += estimatedBytes(size, p);
      stated += bytesVariance(size, p) / runs;
    }
    sum += estimate;
    squares += (estimate - truth) ** 2;
  }
  expect(Math.abs(sum / runs / truth - 1)).toBeLessThan(0.01);
  expect(Math.sqrt(squares / runs) / Math.sqrt(stated)).toBeGreaterThan(0.9);
  expect(Math.sqrt(squares / runs) / Math.sqrt(stated)).toBeLessThan(1.1);
});

test('an unsampled object is exact, a scaled estimate is bounded by itself', () => {
  expect([estimatedBytes(100, 1), bytesVariance(100, 1)]).toEqual([100, 0]);
  expect([estimatedBytes(100, NaN), bytesVariance(100, NaN)]).toEqual([100, 10_000]);
});

test('a nearest-rank quantile is one of the values', () => {
  const sorted = Float64Array.from({ length: 100 }, (_, i) => i + 1);
  expect([0.5, 0.95, 0.99, 1, 0.001].map((q) => nearestRank(sorted, q))).toEqual([50, 95, 99, 100, 1]);
  expect(nearestRank(Float64Array.of(), 0.5)).toBeNaN();
  expect(
    nearestRank(
      Float64Array.from({ length: 100 }, (_, i) => i),
      0.07,
    ),
  ).toBe(6);
});

test('medians of even and odd numbers, and of none', () => {
  expect([median([3, 1, 2]), median([4, 1, 2, 3])]).toEqual([2, 2.5]);
  expect(median([])).toBeNaN();
});

test('block minima keep the place of each least value', () => {
  const { x, y } = blockMinima(Float64Array.of(0, 1, 2, 3), Float64Array.of(5, 4, 9, 8), 2);
  expect([[...x], [...y]]).toEqual([
    [1, 3],
    [4, 8],
  ]);
});

test('a rank is found where parting around the middle of three gets nowhere', () => {
  // Musser, Introspective sorting and selection algorithms (1997): the order that is worst for it.
  const half = 2000;
  const values = new Float64Array(2 * half);
  for (let at = 0; at < half; at++) {
    values[at] = at % 2 === 0 ? at + 1 : half + at;
    values[half + at] = 2 * (at + 1);
  }
  const sorted = values.slice().sort();
  for (const rank of [0, 7, half, 2 * half - 1]) expect(selectRank(values.slice(), rank)).toBe(sorted[rank]);
  expect(median([3, NaN, 1])).toBe(3);
  expect(median(values)).toBe((sorted[half - 1]! + sorted[half]!) / 2);
});

test('a selected rank is the one that sorting gives, with ties, in any order', () => {
  const random = seeded(31);
  for (let run = 0; run < 60; run++) {
    const values = Float64Array.from({ length: 1 + Math.floor(random() * 200) }, () =>
      Math.floor(random() * (run % 3 === 0 ? 5 : 1000)),
    );
    const sorted = values.slice().sort();
    for (const rank of [0, values.length >> 1, values.length - 1])
      expect(selectRank(values.slice(), rank)).toBe(sorted[rank]);
  }
  expect([
    selectRank(Float64Array.of(), 0),
    selectRank(Float64Array.of(1), 1),
    selectRank(Float64Array.of(1), -1),
  ]).toEqual([NaN, NaN, NaN]);
});
