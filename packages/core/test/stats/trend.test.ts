import { averageRanks, kendallTau, mannKendall } from '../../src/stats/mann-kendall.ts';
import { slopeCount, slopeRanks } from '../../src/stats/slope-ranks.ts';
import { theilSen } from '../../src/stats/theil-sen.ts';
import { tieCorrectedVariance } from '../../src/stats/tie-variance.ts';
import { erfc, twoSidedP } from '../../src/stats/normal.ts';
import { normals, seeded } from '../seeded.ts';

const f = (...values: number[]): Float64Array => Float64Array.from(values);
const count = (n: number): Float64Array => Float64Array.from({ length: n }, (_, i) => i);

describe('Theil–Sen', () => {
  // Sen (1968), section 6: t = 1, 2, 3, 4, 10, 12, 18 and y = 9, 15, 19, 20, 45, 55, 78 give b* = 4.
  test("answers 4 on Sen's example, inside its interval", () => {
    const line = theilSen(f(1, 2, 3, 4, 10, 12, 18), f(9, 15, 19, 20, 45, 55, 78));
    if (line.kind !== 'slope') throw new Error('expected a slope');
    expect(line.slope).toBeCloseTo(4, 12);
    // Sen's 93 % interval is (26/7, 35/8); a 95 % interval holds it.
    expect(line.low).toBeLessThanOrEqual(26 / 7);
    expect(line.high).toBeGreaterThanOrEqual(35 / 8 - 0.1);
  });

  test('equals the median of all pair slopes on seeded input, and moves with shift and scale', () => {
    const noise = normals(seeded(1));
    const x = count(41);
    const y = x.map((t) => 3 * t + 5 * noise());
    const slopes: number[] = [];
    for (let i = 0; i < 41; i++) for (let j = i + 1; j < 41; j++) slopes.push((y[j]! - y[i]!) / (x[j]! - x[i]!));
    slopes.sort((a, b) => a - b);
    const middle = (slopes[slopes.length / 2 - 1]! + slopes[slopes.length / 2]!) / 2;
    const line = theilSen(x, y);
    const moved = theilSen(
      x.map((t) => t + 100),
      y.map((v) => 7 * v - 3),
    );
    if (line.kind !== 'slope' || moved.kind !== 'slope') throw new Error('expected slopes');
    expect(line.slope).toBe(middle);
    expect(moved.slope).toBeCloseTo(7 * line.slope, 9);
    expect(line.low).toBeLessThan(3);
    expect(line.high).toBeGreaterThan(3);
  });

  test('the 95 % interval holds the true slope in about 95 of 100 series', () => {
    const noise = normals(seeded(2));
    let held = 0;
    for (let run = 0; run < 400; run++) {
      const line = theilSen(
        count(30),
        count(30).map((t) => 0.5 * t + noise()),
      );
      if (line.kind === 'slope' && line.low <= 0.5 && line.high >= 0.5) held++;
    }
    expect(held / 400).toBeGreaterThan(0.92);
    expect(held / 400).toBeLessThan(0.99);
  });

  // Above a few thousand pairs not all slopes are looked at.
  test.each([
    ['noise', 300, (n: number, noise: () => number) => [n, 1e6 * noise()]],
    ['steps', 200, (n: number) => [n, 1000 * Math.floor(n / 40)]],
    ['all equal', 150, (n: number) => [n, 5]],
    ['few values', 240, (n: number, noise: () => number) => [n / 3, Math.round(noise())]],
    ['many at one time', 260, (n: number, noise: () => number) => [Math.floor(n / 30), noise()]],
    ['times in no order', 180, (n: number, noise: () => number) => [(n * 71) % 180, n + noise()]],
    ['far apart and close', 220, (n: number, noise: () => number) => [n ** 3, 1e-9 * noise()]],
  ] as const)('its ranks are those of all slopes put in order: %s', (_, length, point) => {
    const noise = normals(seeded(5));
    const points = Array.from({ length }, (_unused, n) => point(n, noise));
    const [x, y] = [Float64Array.from(points, ([t]) => t!), Float64Array.from(points, ([, v]) => v!)];
    const slopes: number[] = [];
    for (let i = 0; i < length; i++)
      for (let j = i + 1; j < length; j++) if (x[i] !== x[j]) slopes.push((y[j]! - y[i]!) / (x[j]! - x[i]!));
    slopes.sort((a, b) => a - b);
    expect(slopeCount(x)).toBe(slopes.length);
    const ranks = [0.02, 0.45, 0.5, 0.51, 0.97].map((share) => Math.floor(share * slopes.length));
    for (const some of [ranks, ranks.slice(1, 4), ranks.slice(0, 1), [0, slopes.length - 1]]) {
      const found = slopeRanks(x, y, slopes.length, some);
      // A zero of either sign stands at any place among zeros.
      expect(some.map((rank) => found.get(rank)! + 0)).toEqual(some.map((rank) => slopes[rank]! + 0));
    }
  });

  test('needs two different times', () => {
    expect(theilSen(f(1), f(2))).toEqual({ kind: 'insufficient-data', needed: 2, had: 1 });
    expect(theilSen(f(3, 3), f(1, 2)).kind).toBe('insufficient-data');
  });
});

describe('Mann–Kendall', () => {
  // Gilbert, Statistical Methods for Environmental Pollution Monitoring (1987), section 16.4.1: 5, 6, 11, 8, 10 has S =
  // 6.
  test('S is concordant minus discordant pairs', () => {
    const test = mannKendall(count(5), f(5, 6, 11, 8, 10));
    expect(test).toMatchObject({ kind: 'trend-test', s: 6, tau: 0.6 });
  });

  test('pairs are counted as one by one', () => {
    const noise = normals(seeded(6));
    for (const length of [0, 1, 2, 3, 64, 129]) {
      const y = count(length).map(() => Math.round(2 * noise()));
      let s = 0;
      for (let i = 0; i < length; i++) for (let j = i + 1; j < length; j++) s += Math.sign(y[j]! - y[i]!);
      expect(kendallTau(y)).toBe(length < 2 ? 0 : (2 * s) / (length * (length - 1)));
    }
  });

  // Without ties n(n−1)(2n+5)/18; Kendall (1975): n = 10 gives 125. Two tied pairs take 2·(2·1·9)/18 = 2 away.
  test('the variance is corrected for ties', () => {
    expect(tieCorrectedVariance(count(10))).toBe(125);
    expect(tieCorrectedVariance(f(1, 1, 2, 2, 3, 4, 5, 6, 7, 8))).toBe(123);
  });

  test('white noise is called a trend no more often than the level says, autocorrelated noise not wildly so', () => {
    const noise = normals(seeded(3));
    let white = 0;
    let red = 0;
    for (let run = 0; run < 400; run++) {
      const y = count(60).map(() => noise());
      const ar = new Float64Array(60);
      for (let i = 0; i < 60; i++) ar[i] = (i > 0 ? 0.6 * ar[i - 1]! : 0) + noise();
      if ((mannKendall(count(60), y) as { pValue: number }).pValue < 0.01) white++;
      if ((mannKendall(count(60), ar) as { pValue: number }).pValue < 0.01) red++;
    }
    expect(white / 400).toBeLessThan(0.025);
    // Without the correction an AR(1) series of 0.6 is called a trend in about one of six.
    expect(red / 400).toBeLessThan(0.08);
  });

  test('constant and single series have no trend', () => {
    expect(mannKendall(count(6), f(2, 2, 2, 2, 2, 2))).toMatchObject({ s: 0, z: 0, pValue: 1 });
    expect(mannKendall(f(1), f(1)).kind).toBe('insufficient-data');
  });

  test('equal values share their rank', () => {
    expect([...averageRanks(f(10, 20, 20, 5))]).toEqual([2, 3.5, 3.5, 1]);
  });
});

test('the normal tail agrees with the tables', () => {
  expect(erfc(0)).toBeCloseTo(1, 6);
  expect(twoSidedP(1.959963984540054)).toBeCloseTo(0.05, 6);
  expect(twoSidedP(-2.5758293035489)).toBeCloseTo(0.01, 6);
});
