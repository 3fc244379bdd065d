import { firstPlaceFrom, firstPlaceNear } from '../../src/base/binary-search.ts';
import { RangeCounts } from '../../src/stats/range-counts.ts';
import { RangeLargest } from '../../src/stats/range-largest.ts';
import { RangeSums } from '../../src/stats/range-sums.ts';
import { seeded } from '../seeded.ts';

const SIZES = [0, 1, 7, 8, 63, 64, 65, 200, 5000];

function* ranges(count: number, random: () => number): Generator<[number, number]> {
  yield [0, count];
  yield [0, 0];
  for (let n = 0; n < 300; n++) {
    const first = Math.floor(random() * (count + 1));
    yield [first, first + Math.floor(random() ** 3 * (count + 1 - first))];
  }
}

test.each(SIZES)('sums of any range of %d amounts are those of its places', (count) => {
  const random = seeded(51 + count);
  const amounts = Array.from({ length: count }, () => (random() < 0.1 ? NaN : Math.floor(random() * 2 ** 38)));
  const sums = new RangeSums(count, (place) => amounts[place]!);
  for (const [first, end] of ranges(count, random)) {
    const told = amounts.slice(first, end).filter((amount) => !Number.isNaN(amount));
    expect(sums.within(first, end)).toEqual({ sum: told.reduce((a, b) => a + b, 0), known: told.length });
  }
});

test.each(SIZES)('counts of any range of %d places by class', (count) => {
  const random = seeded(52 + count);
  const classOf = Uint8Array.from({ length: count }, () => Math.floor(random() ** 2 * 5));
  const counts = new RangeCounts(classOf, 5);
  for (const [first, end] of ranges(count, random)) {
    const told = Array.from({ length: 5 }, (_, of) => classOf.subarray(first, end).filter((own) => own === of).length);
    expect(Array.from(counts.within(first, end))).toEqual(told);
  }
});

test.each(SIZES)('the largest of any range of %d values is the first of the largest', (count) => {
  const random = seeded(53 + count);
  // Many are equal, some none, and for a while none is one.
  const values = Array.from({ length: count }, (_, at) =>
    random() < 0.2 || (at > 100 && at < 300) ? NaN : Math.floor(random() * 12) - 6,
  );
  if (count > 2) values[1] = -Infinity;
  const largest = new RangeLargest(count, (place) => values[place]!);
  for (const [first, end] of ranges(count, random)) {
    const told = values.slice(first, end);
    const most = told.reduce((a, b) => (b > a ? b : a), -Infinity);
    const at = told.indexOf(most);
    expect(largest.within(first, end)).toBe(at < 0 ? -1 : first + at);
  }
});

test('a place is found from wherever one begins to look', () => {
  const random = seeded(54);
  const values = Float64Array.from({ length: 500 }, () => Math.floor(random() * 80)).sort();
  const valueAt = (place: number): number => values[place]!;
  for (let n = 0; n < 2000; n++) {
    const value = Math.floor(random() * 84) - 2;
    const guess = Math.floor(random() * 540) - 20;
    expect(firstPlaceNear(500, valueAt, value, guess)).toBe(firstPlaceFrom(500, valueAt, value));
  }
});
