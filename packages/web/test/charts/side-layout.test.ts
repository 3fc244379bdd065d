import { barWidth, distribution, sharedWindows } from '../../src/questions/changes/side-layout.ts';

test('two recordings are shown whole on one scale, from their starts or at a mark of both', () => {
  const plain = sharedWindows([1000, 4000], [0, 0]);
  expect(plain).toEqual({ a: { fromMs: 0, toMs: 4000 }, b: { fromMs: 0, toMs: 4000 } });
  const marked = sharedWindows([1000, 4000], [300, 2000]);
  expect(marked).toEqual({ a: { fromMs: -1700, toMs: 2300 }, b: { fromMs: 0, toMs: 4000 } });
  // The marks stand at one place.
  expect(300 - marked.a.fromMs).toBe(2000 - marked.b.fromMs);
  expect(sharedWindows([0, 0], [0, 0]).a.toMs).toBeGreaterThan(0);
});

test('a distribution rises to all, and a bar is as wide as its share of the most', () => {
  expect(distribution(Float64Array.of(1, 2, 2, 9)).map(({ share }) => share)).toEqual([0.25, 0.5, 0.75, 1]);
  expect(distribution(new Float64Array())).toEqual([]);
  expect([barWidth(-5, 10, 40), barWidth(0.001, 10, 40), barWidth(NaN, 10, 40), barWidth(1, 0, 40)]).toEqual([
    20, 1, 0, 0,
  ]);
});
