import { orderBy } from '../../src/base/order-by.ts';
import { seeded } from '../seeded.ts';

const plainly = (values: Float64Array): number[] =>
  Array.from(values, (_, at) => at).sort((a, b) => {
    const [left, right] = [values[a]!, values[b]!];
    if (Number.isNaN(left) || Number.isNaN(right))
      return Number(Number.isNaN(left)) - Number(Number.isNaN(right)) || a - b;
    return left - right || a - b;
  });

const random = seeded(7);
test.each<[string, (at: number) => number]>([
  ['in order', (at) => at],
  ['almost in order', (at) => at + random() * 4],
  ['several stretches in order', (at) => at % 300],
  ['backwards', (at) => -at],
  ['at random, with many alike', () => Math.floor(random() * 50)],
  [
    'of either sign, zeros of both kinds and none',
    (at) =>
      [-0, 0, -Infinity, Infinity, NaN, 1e-310][at % 11] ?? (random() - 0.5) * 10 ** Math.floor(random() * 40 - 20),
  ],
  ['with gaps', (at) => (at % 7 === 3 ? NaN : at % 100)],
])('values %s are put in order, equal ones as they stand', (_, valueOf) => {
  for (const count of [0, 1, 2, 3, 1000, 70_000]) {
    const values = Float64Array.from({ length: count }, (__, at) => valueOf(at));
    expect(Array.from(orderBy(values))).toEqual(plainly(values));
  }
});
