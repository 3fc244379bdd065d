import { overlapMs, spanLengthMs, type Span } from '../base/span.ts';
import { firstAtOrAfter } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Recording } from '../model/recording.ts';
import { PauseFlag } from '../model/tables.ts';
import type { PauseSelection } from './program-pauses.ts';

/**
 * What collecting and stopping took from the program over a span: pauses and other stops of every thread, and what
 * single threads waited for memory or were slowed down for, as a share of the threads that the source names as waiting.
 * Of others nothing is known: where there are any, less was lost.
 */
export interface LostTime {
  /**
   * Instants at which what is lost changes, ascending, the span's ends among them, and the milliseconds lost until
   * then.
   */
  readonly tMs: Float64Array;
  readonly untilMs: Float64Array;
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
const STOP = 0;
const WAIT = 1;

interface Changes {
  readonly tMs: Float64Array;
  readonly amount: Float64Array;
  readonly kind: Uint8Array;
  count: number;
}

/** Sums what was lost in a span; pauses that overlap count once. O(n log n) in pauses, stops and waits. */
export function lostTime(recording: Recording, selection: PauseSelection, span: Span): LostTime {
  const { stalls, pacing, safepoints } = recording.tables;
  const most = 2 * (selection.rows.length + stalls.length + pacing.length + safepoints.length);
  const changes: Changes = {
    tMs: new Float64Array(most),
    amount: new Float64Array(most),
    kind: new Uint8Array(most),
    count: 0,
  };
  for (let at = 0; at < selection.rows.length; at++)
    add(
      changes,
      span,
      { fromMs: selection.startMs[at]!, toMs: selection.startMs[at]! + selection.durationMs[at]! },
      STOP,
    );
  let swept = sweep(changes, span);
  const pausedMs = swept.lostMs;
  const isOwn = ownStops(recording);
  for (let row = 0; row < safepoints.length; row++)
    if (!isOwn(row))
      add(
        changes,
        span,
        { fromMs: safepoints.col.startMs[row]!, toMs: safepoints.col.startMs[row]! + safepoints.col.totalMs[row]! },
        STOP,
      );
  // Nothing was added where there are no other stops, nor waits below.
  if (safepoints.length > 0) swept = sweep(changes, span);
  const stoppedMs = swept.lostMs;
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
  const threads = byThread.size;
  for (let row = 0; row < stalls.length && threads > 0; row++)
    add(
      changes,
      span,
      { fromMs: stalls.col.startMs[row]!, toMs: stalls.col.startMs[row]! + stalls.col.durationMs[row]! },
      WAIT,
      1 / threads,
    );
  for (let row = 0; row < pacing.length && threads > 0; row++) {
    const [fromMs, toMs] = [pacing.col.fromMs[row]!, pacing.col.toMs[row]!];
    if (toMs > fromMs) add(changes, span, { fromMs, toMs }, WAIT, pacing.col.pacedMs[row]! / (toMs - fromMs) / threads);
  }
  const [worst, worstMs] = [...byThread].reduce((a, b) => (b[1] > a[1] ? b : a), [-1, 0]);
  return {
    ...(threads > 0 ? sweep(changes, span) : swept),
    pausedMs,
    otherStopsMs: stoppedMs - pausedMs,
    waitedMs,
    pacedMs,
    threads,
    worstThread: worst < 0 ? '' : recording.strings.text(worst),
    worstRatio: Math.min(1, (stoppedMs + worstMs) / Math.max(1e-9, spanLengthMs(span))),
  };
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

function add(changes: Changes, span: Span, over: Span, kind: number, amount = 1): void {
  const { fromMs, toMs } = over;
  if (toMs <= span.fromMs || fromMs >= span.toMs) return;
  const { count } = changes;
  changes.tMs[count] = Math.max(span.fromMs, fromMs);
  changes.amount[count] = amount;
  changes.kind[count] = kind;
  changes.tMs[count + 1] = Math.min(span.toMs, toMs);
  changes.amount[count + 1] = -amount;
  changes.kind[count + 1] = kind;
  changes.count += 2;
}

// While all are stopped all is lost; else the share of those that wait.
function sweep({ tMs, amount, kind, count }: Changes, span: Span): Pick<LostTime, 'tMs' | 'untilMs' | 'lostMs'> {
  const order = orderBy(tMs, count);
  const times = new Float64Array(count + 2);
  const until = new Float64Array(count + 2);
  times[0] = span.fromMs;
  let [stopped, waiting, lostMs] = [0, 0, 0];
  for (let place = 0; place < count; place++) {
    const at = order[place]!;
    lostMs += (tMs[at]! - times[place]!) * (stopped > 0 ? 1 : Math.min(1, Math.max(0, waiting)));
    times[place + 1] = tMs[at]!;
    until[place + 1] = lostMs;
    if (kind[at] === STOP) stopped += amount[at]!;
    else waiting += amount[at]!;
  }
  times[count + 1] = span.toMs;
  until[count + 1] = lostMs;
  return { tMs: times, untilMs: until, lostMs };
}

/** True when something beside pauses may have been lost. */
export function losesBesidePauses({ tables: { stalls, pacing, safepoints } }: Recording): boolean {
  return stalls.length + pacing.length + safepoints.length > 0;
}
