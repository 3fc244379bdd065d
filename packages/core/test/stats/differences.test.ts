import { differenceOf, quotient, scaled, withError } from '../../src/stats/estimate.ts';
import { holm } from '../../src/stats/holm.ts';
import { quantileEstimate } from '../../src/stats/quantile-interval.ts';
import { seeded } from '../seeded.ts';

test('a difference of two estimates has the error of both, and signs turn with the sides', () => {
  const [a, b] = [withError(10, 3), withError(20, 4)];
  const one = differenceOf(a, b);
  expect(one.difference).toBe(10);
  expect(one.low).toBeCloseTo(10 - 1.96 * 5, 4);
  expect(one.high).toBeCloseTo(10 + 1.96 * 5, 4);
  expect(one.pValue).toBeCloseTo(0.0455, 3);
  const other = differenceOf(b, a);
  expect([other.difference, other.low, other.high]).toEqual([-10, -one.high, -one.low]);
  expect(other.pValue).toBeCloseTo(one.pValue, 10);
  expect(differenceOf(a, a)).toMatchObject({ difference: 0, pValue: 1 });
});

test('what is not known makes nothing clear, and what has no error is sure', () => {
  expect(differenceOf(withError(1, NaN), withError(5, 1)).pValue).toBeNaN();
  expect(differenceOf({ value: 1, low: 0, high: Infinity }, withError(5, 1)).pValue).toBe(1);
  expect(differenceOf(withError(1, 0), withError(2, 0)).pValue).toBe(0);
});

test('an estimate over another takes over its relative error', () => {
  const { value, low, high } = quotient(withError(100, 6), withError(50, 4));
  expect(value).toBe(2);
  expect((high - low) / 2 / 1.96).toBeCloseTo(2 * Math.hypot(0.06, 0.08), 5);
  expect(quotient(withError(1, 1), withError(0, 1)).value).toBeNaN();
  expect(scaled(withError(4, 1), 0.5).value).toBe(2);
});

test("Holm's procedure stops at the first that fails", () => {
  // The example of Holm (1979) as it is usually told: 0.01, 0.04, 0.03, 0.005 at 5 %.
  expect(holm([0.01, 0.04, 0.03, 0.005])).toEqual([true, false, false, true]);
  expect(holm([0.04])).toEqual([true]);
  expect(holm([NaN, 0.02, NaN, 0.04])).toEqual([false, true, false, true]);
  expect(holm([])).toEqual([]);
});

test('an interval of a quantile holds it as often as it says', () => {
  const random = seeded(3);
  for (const [q, n] of [
    [0.5, 80],
    [0.95, 400],
    [0.99, 1500],
  ] as const) {
    let hits = 0;
    for (let run = 0; run < 1000; run++) {
      const { low, high } = quantileEstimate(Float64Array.from({ length: n }, () => random()).sort(), q);
      if (low <= q && q <= high) hits++;
    }
    expect(hits).toBeGreaterThan(930);
    expect(hits).toBeLessThan(985);
  }
});

test('of few values the interval of a high quantile has no end', () => {
  const told = quantileEstimate(Float64Array.of(1, 2, 3, 4), 0.99);
  expect([told.value, told.high]).toEqual([4, Infinity]);
  expect(quantileEstimate(new Float64Array(), 0.5).value).toBeNaN();
});
