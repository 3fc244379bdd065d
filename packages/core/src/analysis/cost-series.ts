import { contains, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';
import { firstPlaceFrom } from '../base/binary-search.ts';
import { RangeSums } from '../stats/range-sums.ts';
import { allocationSteps, stepSums } from './allocation.ts';
import { LossReader } from './loss-curve.ts';
import { lostTime } from './lost-time.ts';
import { rememberReading } from './remember.ts';
import { collectionsByStart, lyingInside, placesWithin, touching } from './row-orders.ts';

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
 * is spread evenly over it, what a collection promoted or gave back counts at its start. O(log n) a slice once all
 * collections and allocation steps are added up, and linear in concurrent cycles and releases.
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
  addAllocation(recording, span, series, perSec);
  addCollections(recording, span, series, perSec);
  return series;
}

function addAllocation(recording: Recording, span: Span, series: CostSeries, perSec: number): void {
  const steps = allocationSteps(recording);
  const { bytes } = stepSums(recording);
  const addEach = (first: number, end: number): void => {
    for (let step = first; step < end; step++) {
      const over = { fromMs: steps.fromMs[step]!, toMs: steps.toMs[step]! };
      spread(series.allocBytesPerSec, span, over, steps.bytes[step]! * perSec);
    }
  };
  const [first, end] = touching(steps, span);
  const [from, to] = lyingInside(steps, span);
  addEach(first, from);
  // Of those inside, the ones that begin in a slice lie within it, but for the last.
  const sliceOf = (tMs: number): number => sliceAt(span, series, tMs);
  for (let step = from; step < to;) {
    const slice = sliceOf(steps.fromMs[step]!);
    const next = step + firstPlaceFrom(to - step, (at) => sliceOf(steps.fromMs[step + at]!), slice + 1);
    const whole = step + firstPlaceFrom(next - step, (at) => sliceOf(steps.toMs[step + at]!), slice + 1);
    series.allocBytesPerSec[slice]! += bytes.within(step, whole).sum * perSec;
    addEach(whole, next);
    step = next;
  }
  addEach(to, end);
}

// What the program's collections promoted and gave back, in order of their starts. What a concurrent cycle gives back
// is told by its releases.
const movedSums = rememberReading((recording): { promoted: RangeSums; reclaimed: RangeSums } => {
  const { promotedBytes, usedBeforeBytes, usedAfterBytes, flags } = recording.tables.collections.col;
  const { rows } = collectionsByStart(recording);
  return {
    promoted: new RangeSums(rows.length, (place) => {
      const row = rows[place]!;
      return flags[row]! & CollectionFlag.own ? 0 : Math.max(0, promotedBytes[row]!);
    }),
    reclaimed: new RangeSums(rows.length, (place) => {
      const row = rows[place]!;
      if (flags[row]! & (CollectionFlag.own | CollectionFlag.concurrentCycle)) return 0;
      return Math.max(0, usedBeforeBytes[row]! - usedAfterBytes[row]!);
    }),
  };
});

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
  const { startMs, endMs } = collections.col;
  const order = collectionsByStart(recording);
  const [first, end] = placesWithin(order, span.fromMs, span.toMs);
  const { promoted, reclaimed } = movedSums(recording);
  for (let place = first; place < end;) {
    const slice = sliceAt(span, series, order.tMs[place]!);
    const next = place + firstPlaceFrom(end - place, (at) => sliceAt(span, series, order.tMs[place + at]!), slice + 1);
    series.promotedBytesPerSec[slice]! += promoted.within(place, next).sum * perSec;
    series.reclaimedBytesPerSec[slice]! += reclaimed.within(place, next).sum * perSec;
    place = next;
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
