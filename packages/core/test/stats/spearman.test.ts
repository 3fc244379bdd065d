import { spearman } from '../../src/stats/spearman.ts';
import { selectMedian } from '../../src/stats/select-rank.ts';
import { median } from '../../src/stats/quantile.ts';
import { kendallTau, mannKendall } from '../../src/stats/mann-kendall.ts';
import { seeded } from '../seeded.ts';

test('the textbook example of ten test results and hours: ρ = −29/165', () => {
  const results = Float64Array.of(106, 100, 86, 101, 99, 103, 97, 113, 112, 110);
  const hours = Float64Array.of(7, 27, 2, 50, 28, 29, 20, 12, 6, 17);
  expect(spearman(results, hours)).toBeCloseTo(-29 / 165, 12);
});

test('only the order counts, and ties share their rank', () => {
  const x = Float64Array.of(1, 2, 3, 4, 5);
  expect(
    spearman(
      x,
      x.map((value) => Math.exp(value)),
    ),
  ).toBeCloseTo(1, 12);
  expect(
    spearman(
      x,
      x.map((value) => -value),
    ),
  ).toBeCloseTo(-1, 12);
  expect(spearman(Float64Array.of(1, 1, 2), Float64Array.of(5, 5, 9))).toBeCloseTo(1, 12);
});

test('without change, or with too few values, there is no correlation to tell', () => {
  expect(spearman(Float64Array.of(1, 2, 3), Float64Array.of(4, 4, 4))).toBeNaN();
  expect(spearman(Float64Array.of(1, 2), Float64Array.of(1, 2))).toBeNaN();
  expect(spearman(new Float64Array(0), new Float64Array(0))).toBeNaN();
});

test('the selected median is that of the sorted values', () => {
  const random = seeded(3);
  for (let n = 0; n < 60; n++) {
    const values = Float64Array.from({ length: n }, () => Math.floor(random() * 20));
    expect(selectMedian(values.slice())).toBe(median(values));
  }
});

test("Kendall's τ alone is that of the trend test", () => {
  const random = seeded(4);
  const [x, y] = [
    Float64Array.from({ length: 40 }, (_, n) => n),
    Float64Array.from({ length: 40 }, (_, n) => n / 5 + Math.floor(random() * 8)),
  ];
  const whole = mannKendall(x, y);
  expect(whole.kind === 'trend-test' && whole.tau).toBe(kendallTau(y));
  expect(kendallTau(Float64Array.of(1))).toBe(0);
});
