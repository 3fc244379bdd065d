import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { rememberReading, rememberSpan } from './remember.ts';
import { pausesByStart } from './row-orders.ts';
import { PauseFlag } from '../model/tables.ts';

/** The program's pauses that begin or reach into a span, in order of start: parallel columns, shared. */
export interface PauseSelection {
  readonly rows: Uint32Array;
  readonly startMs: Float64Array;
  readonly durationMs: Float64Array;
  /** Where each stands among all of the program's pauses in order of start: a range of places, and some before it. */
  readonly places: { readonly first: number; readonly end: number; readonly before: readonly number[] };
}

/** The program's pauses of the whole recording in order of start, and how long the longest of all is. Shared. */
export const allPauses = rememberReading((recording: Recording) => {
  const { pauses } = recording.tables;
  const order = pausesByStart(recording);
  const rows = order.rows.filter((row) => !(pauses.col.flags[row]! & PauseFlag.own));
  const told = { rows, startMs: new Float64Array(rows.length), durationMs: new Float64Array(rows.length) };
  for (let place = 0; place < rows.length; place++) {
    told.startMs[place] = pauses.col.startMs[rows[place]!]!;
    told.durationMs[place] = pauses.col.durationMs[rows[place]!]!;
  }
  return { ...told, longestMs: order.longestMs };
});

/** Pauses of the program inside the span; those that the recorder forced are left out. O(log n), once all are in order. */
export const programPauses = rememberSpan((recording: Recording, span: Span): PauseSelection => {
  const all = allPauses(recording);
  const { rows, startMs, durationMs } = all;
  const end = firstAtOrAfter(startMs, span.toMs);
  let first = firstAtOrAfter(startMs, span.fromMs);
  // Some that began before reach into it; as a rule the last one.
  const reaching: number[] = [];
  for (let place = firstAtOrAfter(startMs, span.fromMs - all.longestMs); place < first; place++)
    if (startMs[place]! + durationMs[place]! >= span.fromMs) reaching.push(place);
  while (reaching.length > 0 && reaching[reaching.length - 1] === first - 1) {
    reaching.pop();
    first--;
  }
  const places = { first, end: Math.max(first, end), before: reaching };
  return {
    rows: chosen(rows, places),
    startMs: chosen(startMs, places),
    durationMs: chosen(durationMs, places),
    places,
  };
});

function chosen<T extends Uint32Array | Float64Array>(column: T, { first, end, before }: PauseSelection['places']): T {
  const range = column.subarray(first, end) as T;
  if (before.length === 0) return range;
  const both = new (column.constructor as new (length: number) => T)(before.length + range.length);
  before.forEach((place, at) => (both[at] = column[place]!));
  both.set(range, before.length);
  return both;
}

/** Places of all of them from the shortest to the longest. Shared. */
export const byDuration = rememberReading((recording: Recording) => orderBy(allPauses(recording).durationMs));

const sorted = new WeakMap<PauseSelection, Float64Array>();

/** The durations of a selection in ascending order, by the order of all pauses. Linear in these; shared. */
export function sortedDurations(recording: Recording, selection: PauseSelection): Float64Array {
  const known = sorted.get(selection);
  if (known !== undefined) return known;
  const { first, end, before } = selection.places;
  const all = byDuration(recording);
  const { durationMs } = allPauses(recording);
  const found = new Float64Array(selection.rows.length);
  let count = 0;
  for (let at = 0; at < all.length; at++) {
    const place = all[at]!;
    if ((place >= first && place < end) || (before.length > 0 && before.includes(place)))
      found[count++] = durationMs[place]!;
  }
  sorted.set(selection, found);
  return found;
}

/**
 * False for a source that tells collections and none of their pauses: ZGC at `-Xlog:gc`, say; and for one of which
 * nothing was heard for a while. Then nothing is known of what collecting cost the program, which is not the same as
 * nothing.
 */
export function pausesAreTold(recording: Recording): boolean {
  if (recording.tables.silences.length > 0) return false;
  return recording.tables.pauses.length > 0 || recording.tables.collections.length === 0;
}
