import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import { rememberReading } from './remember.ts';

/** Rows of a table in order of a time, and that time of each. */
export interface RowOrder {
  readonly rows: Uint32Array;
  readonly tMs: Float64Array;
}

/** Collections in order of their starts. */
export const collectionsByStart = rememberReading(({ tables: { collections } }) =>
  inOrder(collections.col.startMs, collections.length),
);

/** Collections in order of their ends. */
export const collectionsByEnd = rememberReading(({ tables: { collections } }) =>
  inOrder(collections.col.endMs, collections.length),
);

/** Pauses in order of their starts, and how long the longest is: so far back one may begin that reaches into a span. */
export const pausesByStart = rememberReading(({ tables: { pauses } }) => {
  const { durationMs } = pauses.col;
  let longestMs = 0;
  for (let row = 0; row < pauses.length; row++) if (durationMs[row]! > longestMs) longestMs = durationMs[row]!;
  return { ...inOrder(pauses.col.startMs, pauses.length), longestMs };
});

/** Places in an order whose times lie from one instant to before another, as a half-open range. O(log n). */
export function placesWithin({ tMs }: RowOrder, fromMs: number, beforeMs: number): readonly [number, number] {
  return [firstAtOrAfter(tMs, fromMs), firstAtOrAfter(tMs, beforeMs)];
}

function inOrder(column: Float64Array, count: number): RowOrder {
  const rows = orderBy(column, count);
  const tMs = new Float64Array(count);
  for (let place = 0; place < count; place++) tMs[place] = column[rows[place]!]!;
  return { rows, tMs };
}
