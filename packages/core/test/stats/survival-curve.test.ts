import { logRank, type RankTable } from '../../src/stats/log-rank.ts';
import { shareBand, survivalCurve } from '../../src/stats/survival-curve.ts';
import { seeded } from '../seeded.ts';

// Freireich et al. (1963), weeks in remission, as tabulated by Kalbfleisch & Prentice.
const TREATED = { died: [6, 6, 6, 7, 10, 13, 16, 22, 23], left: [6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35] };
const PLACEBO = { died: [1, 1, 2, 2, 3, 4, 4, 5, 5, 8, 8, 8, 8, 11, 11, 12, 12, 15, 17, 22, 23], left: [] };
const WEEKS = 40;

function tableOf(
  { died, left }: { died: readonly number[]; left: readonly number[] },
  entries: readonly number[] = [...died, ...left].map(() => 0),
) {
  const column = (at: readonly number[]): Float64Array => {
    const counts = new Float64Array(WEEKS);
    for (const each of at) counts[each]!++;
    return counts;
  };
  return { entered: column(entries), died: column(died), left: column(left) };
}

test('published remission times give the published curve and its Greenwood errors', () => {
  const { survival, hazard } = survivalCurve(tableOf(TREATED));
  for (const [week, expected, error] of [
    [6, 0.857, 0.076],
    [7, 0.807, 0.087],
    [10, 0.753, 0.096],
    [13, 0.69, 0.107],
    [16, 0.627, 0.114],
    [22, 0.538, 0.128],
    [23, 0.448, 0.135],
  ] as const) {
    expect(survival[week]).toBeCloseTo(expected, 3);
    expect(survival[week]! * Math.sqrt(hazard[week]!)).toBeCloseTo(error, 2);
  }
});

test('who comes into sight late counts from then on alone', () => {
  // Five seen from birth, of whom one dies at 2; three that come into sight at 3, when one of all seven dies.
  const { survival, atRisk } = survivalCurve({
    entered: Float64Array.of(5, 0, 0, 3, 0),
    died: Float64Array.of(0, 0, 1, 1, 0),
    left: Float64Array.of(0, 0, 0, 0, 6),
  });
  expect([...atRisk]).toEqual([5, 5, 5, 7, 6]);
  expect(survival[2]).toBeCloseTo(4 / 5, 12);
  expect(survival[3]).toBeCloseTo((4 / 5) * (6 / 7), 12);
  expect(survival[4]).toBe(survival[3]);
});

test('when all at risk have died the curve ends at nothing, and stays there', () => {
  const { survival, hazard } = survivalCurve({
    entered: Float64Array.of(2, 0, 1),
    died: Float64Array.of(0.5, 1.5, 0),
    left: Float64Array.of(0, 0, 1),
  });
  expect([...survival]).toEqual([0.75, 0, 0]);
  expect(hazard[1]).toBe(Infinity);
});

test('a band needs a variance or a number of samples, and is a point without either', () => {
  expect(shareBand(0.4, 0, Infinity)).toEqual({ low: 0.4, high: 0.4 });
  expect(shareBand(1, NaN, 0)).toEqual({ low: 0, high: 1 });
  // Wilson (1927) for 4 of 10.
  const band = shareBand(0.4, 0.024, Infinity);
  expect(band.low).toBeCloseTo(0.1682, 4);
  expect(band.high).toBeCloseTo(0.6873, 4);
  // Nothing has died of thirty: the rule of three, about.
  expect(shareBand(1, 0, 30).low).toBeCloseTo(0.8865, 3);
});

interface ComparedLife {
  readonly isFirst: boolean;
  readonly entry: number;
  readonly end: number;
  readonly dead: boolean;
  readonly weight: number;
}

function rankTable(lives: readonly ComparedLife[]): RankTable {
  const column = (): Float64Array => new Float64Array(WEEKS);
  const table = {
    ...{ entered: column(), died: column(), left: column() },
    ...{ diedSquare: column(), came: column(), gone: column() },
  };
  for (const { entry, end, dead, weight } of lives) {
    table.entered[entry]! += weight;
    table.came[entry]! += 1;
    table.gone[end]! += 1;
    table[dead ? 'died' : 'left'][end]! += weight;
    if (dead) table.diedSquare[end]! += weight * weight;
  }
  return table;
}

const compared = (lives: readonly ComparedLife[]) =>
  logRank(rankTable(lives.filter(({ isFirst }) => isFirst)), rankTable(lives.filter(({ isFirst }) => !isFirst)));

function livesOf(group: typeof TREATED, isFirst: boolean): ComparedLife[] {
  const life = (end: number, dead: boolean) => ({ isFirst, entry: 0, end, dead, weight: 1 });
  return [...group.died.map((week) => life(week, true)), ...group.left.map((week) => life(week, false))];
}

test('the remission times differ by as much as published', () => {
  // The log-rank chi-square of these is 16.79; the treated die later.
  const { z, pValue } = compared([...livesOf(TREATED, true), ...livesOf(PLACEBO, false)]);
  expect(z).toBeLessThan(0);
  expect(z * z).toBeCloseTo(16.79, 2);
  expect(pValue).toBeLessThan(0.001);
});

test('two draws from one distribution differ by chance as often as they should', () => {
  const random = seeded(17);
  let clear = 0;
  const runs = 600;
  for (let run = 0; run < runs; run++) {
    const lives = Array.from({ length: 120 }, (_, n): ComparedLife => {
      const weight = 1 + 4 * random();
      const entry = Math.floor(6 * random());
      const lived = entry + 1 + Math.floor(-12 * Math.log(1 - random()));
      const end = Math.min(lived, 30);
      return { isFirst: n % 3 === 0, entry, end, dead: lived <= 30, weight };
    });
    if (compared(lives).pValue < 0.05) clear++;
  }
  expect(clear / runs).toBeGreaterThan(0.03);
  expect(clear / runs).toBeLessThan(0.085);
});

test('nothing to compare is no difference that is told', () => {
  expect(compared([])).toEqual({ z: NaN, pValue: NaN });
  expect(compared(livesOf({ died: [], left: [3, 4] }, true)).z).toBeNaN();
});
