import { overlapMs, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { losesBesidePauses, lostTime } from './lost-time.ts';
import { rememberSpan } from './remember.ts';
import { pausesByStart, placesWithin } from './row-orders.ts';
import { PauseFlag } from '../model/tables.ts';
import { nearestRank } from '../stats/quantile.ts';

/** The program's pauses that begin or reach into a span, in order of start: parallel columns, copied. */
export interface PauseSelection {
  readonly rows: Uint32Array;
  readonly startMs: Float64Array;
  readonly durationMs: Float64Array;
}

/** Pauses of the program inside the span; those that the recorder forced are left out. O(n log n). */
export const programPauses = rememberSpan((recording: Recording, span: Span): PauseSelection => {
  const { pauses } = recording.tables;
  const { startMs, durationMs, flags } = pauses.col;
  const order = pausesByStart(recording);
  const [from, to] = placesWithin(order, span.fromMs - order.longestMs, span.toMs);
  const found = new Uint32Array(to - from);
  let count = 0;
  for (let place = from; place < to; place++) {
    const row = order.rows[place]!;
    if (startMs[row]! + durationMs[row]! >= span.fromMs && !(flags[row]! & PauseFlag.own)) found[count++] = row;
  }
  const rows = found.slice(0, count);
  const told = { rows, startMs: new Float64Array(count), durationMs: new Float64Array(count) };
  for (let at = 0; at < count; at++) {
    told.startMs[at] = startMs[rows[at]!]!;
    told.durationMs[at] = durationMs[rows[at]!]!;
  }
  return told;
});

/**
 * False for a source that tells collections and none of their pauses: ZGC at `-Xlog:gc`, say; and for one of which
 * nothing was heard for a while. Then nothing is known of what collecting cost the program, which is not the same as
 * nothing.
 */
export function pausesAreTold(recording: Recording): boolean {
  if (recording.tables.silences.length > 0) return false;
  return recording.tables.pauses.length > 0 || recording.tables.collections.length === 0;
}

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
  const sorted = selection.durationMs.slice().sort();
  const byName = new Map<string, { count: number; totalMs: number; maxMs: number }>();
  let totalMs = 0;
  let insideMs = 0;
  for (let i = 0; i < selection.rows.length; i++) {
    const durationMs = selection.durationMs[i]!;
    totalMs += durationMs;
    insideMs += overlapMs(span, selection.startMs[i]!, selection.startMs[i]! + durationMs);
    const name = recording.strings.text(pauses.col.labelId[selection.rows[i]!]!);
    let totals = byName.get(name);
    if (totals === undefined) byName.set(name, (totals = { count: 0, totalMs: 0, maxMs: 0 }));
    totals.count++;
    totals.totalMs += durationMs;
    totals.maxMs = Math.max(totals.maxMs, durationMs);
  }
  const lengthMs = spanLengthMs(span);
  const lostMs = losesBesidePauses(recording) ? lostTime(recording, selection, span).lostMs : insideMs;
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
