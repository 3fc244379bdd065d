import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';
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
export function placesWithin(
  { tMs }: Pick<RowOrder, 'tMs'>,
  fromMs: number,
  beforeMs: number,
): readonly [number, number] {
  return [firstAtOrAfter(tMs, fromMs), firstAtOrAfter(tMs, beforeMs)];
}

/** The same with those at the later instant. */
export function placesTouched({ tMs }: Pick<RowOrder, 'tMs'>, { fromMs, toMs }: Span): readonly [number, number] {
  let end = firstAtOrAfter(tMs, toMs);
  while (tMs[end] === toMs) end++;
  return [firstAtOrAfter(tMs, fromMs), end];
}

/** Intervals, and whether both their beginnings and their ends rise, as those of one heap do. */
export interface Intervals {
  readonly fromMs: Float64Array;
  readonly toMs: Float64Array;
  readonly isRising: boolean;
}

/** Intervals by parallel columns of their beginnings and ends. Linear. */
export function intervalsOf(fromMs: Float64Array, toMs: Float64Array): Intervals {
  return { fromMs, toMs, isRising: rises(fromMs) && rises(toMs) };
}

/** A half-open range outside of which no interval touches a span: all where they do not rise. O(log n). */
export function touching({ fromMs, toMs, isRising }: Intervals, span: Span): readonly [number, number] {
  if (!isRising) return [0, fromMs.length];
  let end = firstAtOrAfter(fromMs, span.toMs);
  while (fromMs[end] === span.toMs) end++;
  // By either time: one that is told to end before it begins counts by its beginning.
  const first = Math.min(firstAtOrAfter(toMs, span.fromMs), firstAtOrAfter(fromMs, span.fromMs));
  return [Math.min(end, first), end];
}

/** A half-open range of intervals that lie inside a span, and end before it does: none where they do not rise. O(log n). */
export function lyingInside({ fromMs, toMs, isRising }: Intervals, span: Span): readonly [number, number] {
  if (!isRising) return [fromMs.length, fromMs.length];
  const first = firstAtOrAfter(fromMs, span.fromMs);
  // By either time: one may be told to end before it begins.
  const end = Math.min(firstAtOrAfter(toMs, span.toMs), firstAtOrAfter(fromMs, span.toMs));
  return [first, Math.max(first, end)];
}

// NaN rises nowhere.
function rises(times: Float64Array): boolean {
  for (let at = 1; at < times.length; at++) if (!(times[at]! >= times[at - 1]!)) return false;
  return times.length === 0 || times[0] === times[0];
}

function inOrder(column: Float64Array, count: number): RowOrder {
  const rows = orderBy(column, count);
  const tMs = new Float64Array(count);
  for (let place = 0; place < count; place++) tMs[place] = column[rows[place]!]!;
  return { rows, tMs };
}
