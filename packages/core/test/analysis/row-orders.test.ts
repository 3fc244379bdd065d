import { intervalsOf, touching } from '../../src/analysis/row-orders.ts';
import { seeded } from '../seeded.ts';

test('outside of the range no interval touches the span, in whatever order they are', () => {
  const random = seeded(11);
  const pick = (most: number): number => Math.floor(random() * most);
  let narrow = 0;
  for (let tries = 0; tries < 2000; tries++) {
    const count = pick(12);
    const fromMs = Float64Array.from({ length: count }, () => pick(20));
    // Some are told to end before they begin, some not to end.
    const toMs = fromMs.map((from) => (random() < 0.02 ? NaN : from + pick(6) - 1));
    if (random() < 0.8) {
      fromMs.sort();
      toMs.sort();
    }
    const span = { fromMs: pick(20), toMs: 0 };
    span.toMs = span.fromMs + pick(8);
    const intervals = intervalsOf(fromMs, toMs);
    const [first, end] = touching(intervals, span);
    expect([0 <= first, first <= end, end <= count]).toEqual([true, true, true]);
    for (let row = 0; row < count; row++) {
      const isInside = fromMs[row]! >= span.fromMs && fromMs[row]! <= span.toMs;
      const touches = isInside || (fromMs[row]! <= span.toMs && toMs[row]! >= span.fromMs);
      if (touches) expect(row >= first && row < end).toBe(true);
    }
    if (end - first < count) narrow++;
  }
  expect(narrow).toBeGreaterThan(500);
});

test('what does not rise, or has no time, is looked at as a whole', () => {
  const rising = Float64Array.from([1, 2, 2, 9]);
  expect(intervalsOf(rising, rising).isRising).toBe(true);
  expect(intervalsOf(rising, Float64Array.from([1, 3, 2, 9])).isRising).toBe(false);
  expect(intervalsOf(rising, Float64Array.from([NaN, 3, 4, 9])).isRising).toBe(false);
  expect(intervalsOf(Float64Array.from([NaN]), Float64Array.from([NaN])).isRising).toBe(false);
  const { length } = rising;
  expect(touching(intervalsOf(rising, Float64Array.from([1, 3, 2, 9])), { fromMs: 5, toMs: 6 })).toEqual([0, length]);
});
