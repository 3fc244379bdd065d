import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import { overlapMs, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { losesBesidePauses, lostTime } from './lost-time.ts';
import { rememberReading, rememberSpan } from './remember.ts';
import { pausesByStart } from './row-orders.ts';
import { PauseFlag } from '../model/tables.ts';
import { nearestRank } from '../stats/quantile.ts';

/** The program's pauses that begin or reach into a span, in order of start: parallel columns, shared. */
export interface PauseSelection {
  readonly rows: Uint32Array;
  readonly startMs: Float64Array;
  readonly durationMs: Float64Array;
  /** Where each stands among all of the program's pauses in order of start: a range of places, and some before it. */
  readonly places: { readonly first: number; readonly end: number; readonly before: readonly number[] };
}

// All of them, in order of start.
const allPauses = rememberReading((recording: Recording) => {
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

// All of them from the shortest to the longest.
const byDuration = rememberReading((recording: Recording) => orderBy(allPauses(recording).durationMs));

const sorted = new WeakMap<PauseSelection, { order: Uint32Array; durationMs: Float64Array }>();

/** Indexes into a selection of this recording from its shortest pause to its longest. Linear in all pauses; shared. */
export function durationOrder(recording: Recording, selection: PauseSelection): Uint32Array {
  return sortedOf(recording, selection).order;
}

/** The durations of a selection in ascending order; shared. */
export function sortedDurations(recording: Recording, selection: PauseSelection): Float64Array {
  return sortedOf(recording, selection).durationMs;
}

function sortedOf(recording: Recording, selection: PauseSelection): { order: Uint32Array; durationMs: Float64Array } {
  const known = sorted.get(selection);
  if (known !== undefined) return known;
  const { first, end, before } = selection.places;
  const all = byDuration(recording);
  const order = new Uint32Array(selection.rows.length);
  let count = 0;
  for (let at = 0; at < all.length; at++) {
    const place = all[at]!;
    if (place >= first && place < end) order[count++] = place - first + before.length;
    else if (before.length > 0 && before.includes(place)) order[count++] = before.indexOf(place);
  }
  const durationMs = new Float64Array(count);
  for (let at = 0; at < count; at++) durationMs[at] = selection.durationMs[order[at]!]!;
  const both = { order, durationMs };
  sorted.set(selection, both);
  return both;
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

/** Figures of the program's pauses in a span. */
export const spanPauses = rememberSpan((recording: Recording, span: Span): PauseFigures =>
  pauseFigures(recording, programPauses(recording, span), span),
);

/** Pauses counted and added up, in milliseconds. */
export interface PauseTotals {
  readonly count: number;
  readonly totalMs: number;
  readonly maxMs: number;
}

/** Pauses of a span: how many, how long, how they are distributed; NaN where there are none. */
export interface PauseFigures extends PauseTotals {
  readonly p50Ms: number;
  readonly p95Ms: number;
  readonly p99Ms: number;
  /**
   * Share of the span's time left to the program, by what pauses, other stops and waits for memory took
   * (analysis/lost-time.ts); NaN when the source has no clock or tells no pauses.
   */
  readonly throughputRatio: number;
  /** By the runtime's own label. */
  readonly byName: ReadonlyMap<string, PauseTotals>;
}

/**
 * Count, sum, greatest and nearest-rank percentiles of the pauses, and the throughput of the span. A pause over the
 * span's edge counts whole in the sums and by its part inside in the throughput. NaN figures for no pauses.
 */
export function pauseFigures(recording: Recording, selection: PauseSelection, span: Span): PauseFigures {
  const { pauses } = recording.tables;
  const sorted = sortedDurations(recording, selection);
  const kinds = new Map<number, number>();
  const [counts, totalsMs, longestMs]: [number[], number[], number[]] = [[], [], []];
  let [label, kind, totalMs, insideMs] = [-1, -1, 0, 0];
  const { rows, startMs, durationMs } = selection;
  const { labelId } = pauses.col;
  for (let at = 0; at < rows.length; at++) {
    const ms = durationMs[at]!;
    totalMs += ms;
    insideMs += overlapMs(span, startMs[at]!, startMs[at]! + ms);
    const next = labelId[rows[at]!]!;
    // Most pauses are like the one before.
    if (next !== label || kind < 0) {
      label = next;
      kind = kinds.get(label) ?? counts.push(0) - 1;
      kinds.set(label, kind);
    }
    counts[kind]!++;
    totalsMs[kind] = (totalsMs[kind] ?? 0) + ms;
    if (!(longestMs[kind]! >= ms)) longestMs[kind] = ms;
  }
  const byName = new Map(
    [...kinds].map(([id, at]) => [
      recording.strings.text(id),
      { count: counts[at]!, totalMs: totalsMs[at]!, maxMs: longestMs[at]! },
    ]),
  );
  const lengthMs = spanLengthMs(span);
  const lostMs = losesBesidePauses(recording) ? lostTime(recording, span).lostMs : insideMs;
  return {
    count: sorted.length,
    totalMs,
    maxMs: sorted.length === 0 ? NaN : sorted[sorted.length - 1]!,
    p50Ms: nearestRank(sorted, 0.5),
    p95Ms: nearestRank(sorted, 0.95),
    p99Ms: nearestRank(sorted, 0.99),
    throughputRatio:
      recording.hasClock && lengthMs > 0 && pausesAreTold(recording) ? Math.max(0, 1 - lostMs / lengthMs) : NaN,
    byName,
  };
}
