import { overlapMs, spanLengthMs, type Span } from '../base/span.ts';
import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Recording } from '../model/recording.ts';
import { PauseFlag } from '../model/tables.ts';
import { type LossCurve, LossReader, LossSum } from './loss-curve.ts';
import { rememberReading, rememberSpan } from './remember.ts';

/**
 * What collecting and stopping took from the program over a span: pauses and other stops of every thread, and what
 * single threads waited for memory or were slowed down for, as a share of the threads that the source names as waiting.
 * Of others nothing is known: where there are any, less was lost.
 */
export interface LostTime {
  /** What was lost when; it may reach beyond the span. */
  readonly curve: LossCurve;
  readonly lostMs: number;
  /** Stops of every thread: the collector's pauses, and whatever else stopped them. */
  readonly pausedMs: number;
  readonly otherStopsMs: number;
  /** Milliseconds of single threads, summed: waits for memory, and slowing down. */
  readonly waitedMs: number;
  readonly pacedMs: number;
  /** Threads that waited at all, and the one that lost most, with its share of the span's time, stops included. */
  readonly threads: number;
  readonly worstThread: string;
  readonly worstRatio: number;
}

/** A log's stamps are this exact at least. */
const SAME_MS = 1;

/**
 * Sums what was lost in a span; pauses that overlap count once. O(log n) in pauses and stops once they are added up,
 * linear in waits.
 */
export const lostTime = rememberSpan((recording: Recording, span: Span): LostTime => {
  const { paused, stopped } = stopCurves(recording);
  const pausedMs = new LossReader(paused).within(span);
  const stoppedMs = new LossReader(stopped).within(span);
  const { waitedMs, pacedMs, byThread } = waitsOf(recording, span);
  const threads = byThread.size;
  const curve = threads > 0 ? withWaits(recording, span, threads) : stopped;
  const [worst, worstMs] = [...byThread].reduce((a, b) => (b[1] > a[1] ? b : a), [-1, 0]);
  return {
    curve,
    lostMs: threads > 0 ? new LossReader(curve).within(span) : stoppedMs,
    pausedMs,
    otherStopsMs: stoppedMs - pausedMs,
    waitedMs,
    pacedMs,
    threads,
    worstThread: worst < 0 ? '' : recording.strings.text(worst),
    worstRatio: Math.min(1, (stoppedMs + worstMs) / Math.max(1e-9, spanLengthMs(span))),
  };
});

/** The program's pauses of the whole recording, and its pauses and other stops. */
const stopCurves = rememberReading((recording: Recording): { paused: LossCurve; stopped: LossCurve } => {
  const { pauses, safepoints } = recording.tables;
  const sumOf = (withStops: boolean): LossCurve => {
    const sum = new LossSum(pauses.length + (withStops ? safepoints.length : 0));
    const { startMs, durationMs, flags } = pauses.col;
    for (let row = 0; row < pauses.length; row++)
      if (!(flags[row]! & PauseFlag.own)) sum.stop(startMs[row]!, startMs[row]! + durationMs[row]!);
    if (!withStops) return sum.curve();
    const isOwn = ownStops(recording);
    for (let row = 0; row < safepoints.length; row++)
      if (!isOwn(row))
        sum.stop(safepoints.col.startMs[row]!, safepoints.col.startMs[row]! + safepoints.col.totalMs[row]!);
    return sum.curve();
  };
  const paused = sumOf(false);
  return { paused, stopped: safepoints.length === 0 ? paused : sumOf(true) };
});

interface Waits {
  readonly waitedMs: number;
  readonly pacedMs: number;
  /** By the name of a thread. */
  readonly byThread: ReadonlyMap<number, number>;
}

function waitsOf({ tables: { stalls, pacing } }: Recording, span: Span): Waits {
  const byThread = new Map<number, number>();
  let [waitedMs, pacedMs] = [0, 0];
  for (let row = 0; row < stalls.length; row++) {
    const ms = overlapMs(span, stalls.col.startMs[row]!, stalls.col.startMs[row]! + stalls.col.durationMs[row]!);
    if (ms <= 0) continue;
    waitedMs += ms;
    byThread.set(stalls.col.threadId[row]!, (byThread.get(stalls.col.threadId[row]!) ?? 0) + ms);
  }
  for (let row = 0; row < pacing.length; row++) {
    const [fromMs, toMs] = [pacing.col.fromMs[row]!, pacing.col.toMs[row]!];
    const ms = toMs > fromMs ? (pacing.col.pacedMs[row]! * overlapMs(span, fromMs, toMs)) / (toMs - fromMs) : 0;
    if (ms <= 0) continue;
    pacedMs += ms;
    byThread.set(pacing.col.threadId[row]!, (byThread.get(pacing.col.threadId[row]!) ?? 0) + ms);
  }
  return { waitedMs, pacedMs, byThread };
}

// Threads are counted by the span: what one of them waited is a share of those that waited in it.
function withWaits(recording: Recording, span: Span, threads: number): LossCurve {
  const { stalls, pacing } = recording.tables;
  const { tMs, untilMs } = stopCurves(recording).stopped;
  const within = (atMs: number): number => Math.min(span.toMs, Math.max(span.fromMs, atMs));
  const sum = new LossSum(tMs.length + stalls.length + pacing.length);
  for (let at = 1; at < tMs.length; at++)
    if (untilMs[at]! > untilMs[at - 1]!) sum.stop(within(tMs[at - 1]!), within(tMs[at]!));
  for (let row = 0; row < stalls.length; row++) {
    const fromMs = stalls.col.startMs[row]!;
    sum.wait(within(fromMs), within(fromMs + stalls.col.durationMs[row]!), 1 / threads);
  }
  for (let row = 0; row < pacing.length; row++) {
    const [fromMs, toMs] = [pacing.col.fromMs[row]!, pacing.col.toMs[row]!];
    if (toMs > fromMs) sum.wait(within(fromMs), within(toMs), pacing.col.pacedMs[row]! / (toMs - fromMs) / threads);
  }
  return sum.curve();
}

// Stops for collections and inventories that the recorder asked for are its own cost, not the program's.
function ownStops({ tables: { pauses, safepoints } }: Recording): (row: number) => boolean {
  const { startMs, durationMs, flags } = pauses.col;
  const own: number[] = [];
  for (let row = 0; row < pauses.length; row++) if (flags[row]! & PauseFlag.own) own.push(row);
  const order = orderBy(Float64Array.from(own, (row) => startMs[row]!));
  const starts = new Float64Array(own.length);
  // How far those that began so far reach, at most.
  const untilMs = new Float64Array(own.length);
  let mostMs = -Infinity;
  for (let place = 0; place < own.length; place++) {
    const row = own[order[place]!]!;
    starts[place] = startMs[row]!;
    mostMs = Math.max(mostMs, startMs[row]! + durationMs[row]!);
    untilMs[place] = mostMs;
  }
  return (row) => {
    const fromMs = safepoints.col.startMs[row]!;
    const begun = firstAtOrAfter(starts, fromMs + safepoints.col.totalMs[row]! + SAME_MS);
    return begun > 0 && untilMs[begun - 1]! >= fromMs - SAME_MS;
  };
}

/** True when something beside pauses may have been lost. */
export function losesBesidePauses({ tables: { stalls, pacing, safepoints } }: Recording): boolean {
  return stalls.length + pacing.length + safepoints.length > 0;
}
