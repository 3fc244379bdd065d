import { contains, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';
import { allocationSteps } from './allocation.ts';
import { LossReader } from './loss-curve.ts';
import { lostTime } from './lost-time.ts';
import { rememberReading } from './remember.ts';
import { collectionsFrom, touching } from './row-orders.ts';

/**
 * What collecting costs, in equal slices of a span. Ratios are shares of the slice's time, rates are bytes per second.
 */
export interface CostSeries {
  readonly sliceMs: number;
  /** Left to the program by pauses, other stops and waits (analysis/lost-time.ts). */
  readonly throughputRatio: Float64Array;
  /** In which the collector worked beside the program. */
  readonly concurrentRatio: Float64Array;
  readonly allocBytesPerSec: Float64Array;
  readonly promotedBytesPerSec: Float64Array;
  readonly reclaimedBytesPerSec: Float64Array;
}

/**
 * The series over `slices` equal parts of the span; all zero (throughput 1) without a clock. Concurrent time of a cycle
 * is spread evenly over it, what a collection promoted or gave back counts at its start. Linear in the span's
 * collections, its allocation steps and slices, and in concurrent cycles.
 */
export function costSeries(recording: Recording, span: Span, slices: number): CostSeries {
  const sliceMs = spanLengthMs(span) / slices;
  const series = {
    sliceMs,
    throughputRatio: new Float64Array(slices).fill(1),
    concurrentRatio: new Float64Array(slices),
    allocBytesPerSec: new Float64Array(slices),
    promotedBytesPerSec: new Float64Array(slices),
    reclaimedBytesPerSec: new Float64Array(slices),
  };
  if (!(sliceMs > 0) || !recording.hasClock) return series;
  const perSec = 1000 / sliceMs;
  const lost = new LossReader(lostTime(recording, span).curve);
  for (let slice = 0; slice < slices; slice++) {
    const fromMs = span.fromMs + slice * sliceMs;
    series.throughputRatio[slice] = Math.max(0, 1 - lost.within({ fromMs, toMs: fromMs + sliceMs }) / sliceMs);
  }
  const steps = allocationSteps(recording);
  const [first, end] = touching(steps, span);
  for (let step = first; step < end; step++) {
    const fromMs = steps.fromMs[step]!;
    const toMs = steps.toMs[step]!;
    const amount = steps.bytes[step]! * perSec;
    const slice = fromMs >= span.fromMs && toMs < span.toMs ? sliceAt(span, series, fromMs) : -1;
    // As a rule it lies within one slice.
    if (slice >= 0 && slice === sliceAt(span, series, toMs)) series.allocBytesPerSec[slice]! += amount;
    else spread(series.allocBytesPerSec, span, { fromMs, toMs }, amount);
  }
  addCollections(recording, span, series, perSec);
  return series;
}

// Rows of the collections that worked beside the program, and for how long each did.
const besideProgram = rememberReading(({ tables: { collections } }) => {
  const { startMs, endMs, concurrentMs, flags } = collections.col;
  const rows = new Uint32Array(collections.length);
  const busyMs = new Float64Array(collections.length);
  let count = 0;
  for (let row = 0; row < collections.length; row++) {
    const isCycle = (flags[row]! & CollectionFlag.concurrentCycle) !== 0;
    const ms = concurrentMs[row]! > 0 ? concurrentMs[row]! : isCycle ? endMs[row]! - startMs[row]! : 0;
    if (!(ms > 0)) continue;
    busyMs[count] = ms;
    rows[count++] = row;
  }
  return { rows: rows.slice(0, count), busyMs: busyMs.slice(0, count) };
});

function addCollections(recording: Recording, span: Span, series: CostSeries, perSec: number): void {
  const { collections, releases } = recording.tables;
  const { startMs, endMs, promotedBytes, usedBeforeBytes, usedAfterBytes, flags } = collections.col;
  const rows = collectionsFrom(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    if (!contains(span, startMs[row]!) || flags[row]! & CollectionFlag.own) continue;
    const slice = sliceAt(span, series, startMs[row]!);
    if (promotedBytes[row]! > 0) series.promotedBytesPerSec[slice]! += promotedBytes[row]! * perSec;
    const gained = usedBeforeBytes[row]! - usedAfterBytes[row]!;
    // What a concurrent cycle gives back is told by its releases.
    if (gained > 0 && !(flags[row]! & CollectionFlag.concurrentCycle))
      series.reclaimedBytesPerSec[slice]! += gained * perSec;
  }
  const beside = besideProgram(recording);
  for (let at = 0; at < beside.rows.length; at++) {
    const row = beside.rows[at]!;
    const over = { fromMs: startMs[row]!, toMs: endMs[row]! };
    spread(series.concurrentRatio, span, over, beside.busyMs[at]! / series.sliceMs);
  }
  for (let row = 0; row < releases.length; row++) {
    const gained =
      releases.col.usedBeforeBytes[row]! + (releases.col.allocatedBytes[row]! || 0) - releases.col.usedAfterBytes[row]!;
    if (gained > 0 && contains(span, releases.col.startMs[row]!))
      series.reclaimedBytesPerSec[sliceAt(span, series, releases.col.startMs[row]!)]! += gained * perSec;
  }
}

function sliceAt(span: Span, series: CostSeries, tMs: number): number {
  return Math.min(series.throughputRatio.length - 1, Math.floor((tMs - span.fromMs) / series.sliceMs));
}

// Spreads an amount evenly over a stretch, into the slices of the span it lies in; a stretch without length falls into
// one.
function spread(into: Float64Array, span: Span, over: Span, amount: number): void {
  const sliceMs = spanLengthMs(span) / into.length;
  const lengthMs = over.toMs - over.fromMs;
  if (!(lengthMs > 0)) {
    if (contains(span, over.fromMs))
      into[Math.min(into.length - 1, Math.floor((over.fromMs - span.fromMs) / sliceMs))]! += amount;
    return;
  }
  const first = Math.max(0, Math.floor((over.fromMs - span.fromMs) / sliceMs));
  const last = Math.min(into.length - 1, Math.floor((over.toMs - span.fromMs) / sliceMs));
  for (let slice = first; slice <= last; slice++) {
    const fromMs = span.fromMs + slice * sliceMs;
    const insideMs = Math.min(over.toMs, fromMs + sliceMs) - Math.max(over.fromMs, fromMs);
    if (insideMs > 0) into[slice]! += (amount * insideMs) / lengthMs;
  }
}
