import { RangeRanks } from '../../src/stats/range-ranks.ts';
import { orderBy } from '../../src/base/order-by.ts';
import { median } from '../../src/stats/quantile.ts';
import { seeded } from '../seeded.ts';

test.each([
  ['few', 5, false],
  ['of one block', 1000, false],
  ['of many blocks', 30_000, false],
  ['of many blocks whose order is known', 30_000, true],
])('quantiles of any range of values, %s', (_, count, isOrdered) => {
  const random = seeded(31);
  const values = Float64Array.from({ length: count }, () => Math.floor(random() * count * 0.7));
  const ranks = isOrdered ? new RangeRanks(values, orderBy(values)) : new RangeRanks(values);
  for (let n = 0; n < 150; n++) {
    const first = Math.floor(random() * count);
    const end = n % 10 === 0 ? count : first + Math.floor(random() * (count - first + 1));
    const sorted = values.slice(first, end).sort();
    for (const rank of [0, Math.floor(random() * sorted.length), sorted.length - 1])
      expect(ranks.at(first, end, rank)).toBe(sorted[rank] ?? NaN);
    expect(ranks.median(first, end)).toBe(median(sorted));
  }
});

test('what no value has is not known', () => {
  const ranks = new RangeRanks(Float64Array.of(3, 1, 2));
  expect([ranks.at(0, 3, 3), ranks.at(0, 3, -1), ranks.at(1, 1, 0), ranks.median(2, 2)]).toEqual([NaN, NaN, NaN, NaN]);
  expect(new RangeRanks(new Float64Array(0)).median(0, 0)).toBeNaN();
});
