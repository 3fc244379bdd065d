import { NONE } from '../base/ids.ts';
import { orderBy } from '../base/order-by.ts';
import { contains, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { Z_95 } from '../stats/z-95.ts';
import { allocationBounds } from './allocation-bounds.ts';
import { bornWithin } from './birth-order.ts';
import { rememberReading, rememberSpan } from './remember.ts';
import { collectionsByStart, intervalsOf, lyingInside, placesWithin, touching } from './row-orders.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { RangeSums } from '../stats/range-sums.ts';

/**
 * Bytes allocated between one reading of the heap and the next: parallel columns, by heap in order of time, then what
 * was printed.
 */
export interface AllocationSteps {
  readonly fromMs: Float64Array;
  readonly toMs: Float64Array;
  readonly bytes: Float64Array;
  /** Variance from the rounding of the two printed sizes: q²/12 each. */
  readonly variance: Float64Array;
  /** True where both times rise. */
  readonly isRising: boolean;
}

/**
 * Allocation between collections: `usedBefore(n) − usedAfter(n−1)`, never below 0, heap by heap. Exact for collectors
 * that free memory in pauses only, a lower bound for others, unless the log prints what was allocated while a cycle
 * ran: that is added. The first reading counts from an empty heap, unless the recording began later. `heapId` takes one
 * heap alone.
 */
export function allocationSteps(recording: Recording, heapId: number = NONE): AllocationSteps {
  return heapId === NONE ? stepsOfAll(recording) : stepsOf(recording, heapId);
}

const stepsOfAll = rememberReading((recording) => stepsOf(recording, NONE));

function stepsOf(recording: Recording, heapId: number): AllocationSteps {
  const readings = pairedReadings(recording, heapId);
  const readingCount = readings.order.length;
  const printed = printedRows(recording, heapId);
  const count = readingCount + printed.length;
  const steps = {
    fromMs: new Float64Array(count),
    toMs: new Float64Array(count),
    bytes: new Float64Array(count),
    variance: new Float64Array(count),
  };
  const heaps = Math.max(1, recording.heaps.length);
  const lastAfter = new Float64Array(heaps);
  recording.heaps.forEach((told, id) => {
    if (!told.startsEmpty) lastAfter[id] = NaN;
  });
  const lastEnd = new Float64Array(heaps);
  for (let i = 0; i < readingCount; i++) {
    const at = readings.order[i]!;
    const heap = readings.heap[at]!;
    const q = readings.resolution[at]!;
    steps.fromMs[i] = lastEnd[heap]!;
    // A start worked out from a rounded stamp may lie before the last end: then it counts at that.
    steps.toMs[i] = Math.max(lastEnd[heap]!, readings.startMs[at]!);
    // NaN when the heap was not empty at the start: nothing is known before the first collection.
    const grown = readings.before[at]! - lastAfter[heap]!;
    steps.bytes[i] = Number.isNaN(grown) ? 0 : Math.max(0, grown);
    steps.variance[i] = (2 * q * q) / 12;
    lastAfter[heap] = readings.after[at]!;
    lastEnd[heap] = readings.endMs[at]!;
  }
  printed.forEach((row, n) => addPrinted(recording, row, steps, readingCount + n));
  return { ...steps, ...intervalsOf(steps.fromMs, steps.toMs) };
}

// Cycles of which the log says how much was allocated while they ran: the readings around them do not see it.
function printedRows(recording: Recording, heapId: number): number[] {
  const { releases } = recording.tables;
  const rows: number[] = [];
  for (let row = 0; row < releases.length; row++) {
    if ((heapId === NONE || releases.col.heapId[row] === heapId) && releases.col.allocatedBytes[row]! >= 0)
      rows.push(row);
  }
  return rows;
}

function addPrinted(recording: Recording, row: number, steps: Omit<AllocationSteps, 'isRising'>, at: number): void {
  const { col } = recording.tables.releases;
  steps.fromMs[at] = col.startMs[row]!;
  steps.toMs[at] = col.endMs[row]!;
  steps.bytes[at] = col.allocatedBytes[row]!;
  steps.variance[at] = col.resolutionBytes[row]! ** 2 / 12;
}

/** Pauses and releases that tell used memory on both sides: parallel columns, and their rows in order of their ends. */
interface PairedReadings {
  readonly startMs: Float64Array;
  readonly endMs: Float64Array;
  readonly before: Float64Array;
  readonly after: Float64Array;
  readonly resolution: Float64Array;
  readonly heap: Uint16Array;
  readonly order: Uint32Array;
}

function pairedReadings(recording: Recording, wanted: number): PairedReadings {
  const { pauses, releases } = recording.tables;
  const most = pauses.length + releases.length;
  const made = {
    startMs: new Float64Array(most),
    endMs: new Float64Array(most),
    before: new Float64Array(most),
    after: new Float64Array(most),
    resolution: new Float64Array(most),
    heap: new Uint16Array(most),
  };
  let count = 0;
  for (const { length, col } of [pauses, releases]) {
    const durationMs = 'durationMs' in col ? col.durationMs : null;
    const endMs = 'endMs' in col ? col.endMs : null;
    for (let row = 0; row < length; row++) {
      if ((wanted !== NONE && col.heapId[row] !== wanted) || Number.isNaN(col.usedBeforeBytes[row]!)) continue;
      made.startMs[count] = col.startMs[row]!;
      made.endMs[count] = durationMs === null ? endMs![row]! : col.startMs[row]! + durationMs[row]!;
      made.before[count] = col.usedBeforeBytes[row]!;
      made.after[count] = col.usedAfterBytes[row]!;
      made.resolution[count] = col.resolutionBytes[row]!;
      made.heap[count++] = col.heapId[row]!;
    }
  }
  // By their ends: a log stamps the end, and a start worked out from it is only as exact as the stamp's last digit.
  return { ...made, order: orderBy(made.endMs, count) };
}

/** What was allocated in a span: bytes, their bounds, and the rate over the time that was seen. */
export interface AllocationFigures {
  readonly totalBytes: number;
  readonly totalBytesSe: number;
  /** NaN when the source has no clock. */
  readonly bytesPerSec: number;
  /**
   * What was allocated at least and at most (analysis/allocation-bounds.ts); `highBytes` NaN where nothing limits it.
   */
  readonly lowBytes: number;
  readonly highBytes: number;
  /** True when more was allocated than could be seen. */
  readonly lowerBound: boolean;
  /** What the figure rests on: sizes around collections, or sampled objects and flows. */
  readonly basis: 'collections' | 'samples';
}

/**
 * Bytes allocated in the span, by the sizes around collections where there are any, else by samples; null when neither
 * is known.
 */
export const allocationFigures = rememberSpan((recording: Recording, span: Span): AllocationFigures | null => {
  const steps = allocationSteps(recording);
  const byCollections = steps.bytes.length > 0;
  if (!byCollections && recording.tables.objects.length + recording.tables.flows.length === 0) return null;
  const { total, variance } = byCollections ? sumSteps(steps, span, stepSums(recording)) : sumSamples(recording, span);
  const seconds = spanLengthMs(span) / 1000;
  const se = Math.sqrt(variance);
  const bounds = byCollections
    ? allocationBounds(recording, span, { totalBytes: total, se })
    : { lowBytes: Math.max(0, total - Z_95 * se), highBytes: total + Z_95 * se };
  return {
    totalBytes: total,
    totalBytesSe: se,
    ...bounds,
    bytesPerSec: recording.hasClock && seconds > 0 ? total / seconds : NaN,
    lowerBound: recording.freesConcurrently,
    basis: byCollections ? 'collections' : 'samples',
  };
});

/** Bytes that one heap allocated in the span, by the sizes around its collections; 0 when it told none. */
export function heapAllocationBytes(recording: Recording, span: Span, heapId: number): number {
  return sumSteps(allocationSteps(recording, heapId), span, null).total;
}

/** What steps come to, and its variance. */
export interface StepSums {
  readonly bytes: RangeSums;
  readonly variance: RangeSums;
}

/** The sums of all heaps' steps. */
export const stepSums = rememberReading((recording): StepSums => {
  const { bytes, variance } = stepsOfAll(recording);
  return {
    bytes: new RangeSums(bytes.length, (step) => bytes[step]!),
    variance: new RangeSums(variance.length, (step) => variance[step]!),
  };
});

function sumSteps(steps: AllocationSteps, span: Span, sums: StepSums | null): { total: number; variance: number } {
  let total = 0;
  let variance = 0;
  const addEach = (first: number, end: number): void => {
    for (let step = first; step < end; step++) {
      const share = insideShare(steps.fromMs[step]!, steps.toMs[step]!, span);
      total += share * steps.bytes[step]!;
      variance += share * share * steps.variance[step]!;
    }
  };
  const [first, end] = touching(steps, span);
  // Those that lie inside count whole.
  const [from, to] = sums === null ? [end, end] : lyingInside(steps, span);
  addEach(first, from);
  total += sums?.bytes.within(from, to).sum ?? 0;
  variance += sums?.variance.within(from, to).sum ?? 0;
  addEach(to, end);
  return { total, variance };
}

/** Share of `[fromMs, toMs]` inside the span; an interval without length counts by its instant. */
export function insideShare(fromMs: number, toMs: number, span: Span): number {
  if (toMs <= fromMs) return contains(span, fromMs) ? 1 : 0;
  return Math.max(0, Math.min(toMs, span.toMs) - Math.max(fromMs, span.fromMs)) / (toMs - fromMs);
}

function sumSamples(recording: Recording, span: Span): { total: number; variance: number } {
  const { objects, flows } = recording.tables;
  let total = 0;
  let variance = 0;
  const { sizeBytes, probability } = objects.col;
  const rows = bornWithin(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const size = sizeBytes[rows[place]!]!;
    const p = probability[rows[place]!]!;
    total += estimatedBytes(size, p);
    if (p !== 1) variance += bytesVariance(size, p);
  }
  for (let row = 0; row < flows.length; row++) {
    const share = insideShare(flows.col.fromMs[row]!, flows.col.toMs[row]!, span);
    total += share * flows.col.bytes[row]!;
    variance += (share * flows.col.seBytes[row]!) ** 2;
  }
  return { total, variance };
}

// Of collections in order of their starts, the bytes that each promoted.
const promotedSums = rememberReading((recording): RangeSums => {
  const { promotedBytes } = recording.tables.collections.col;
  const { rows } = collectionsByStart(recording);
  return new RangeSums(rows.length, (place) => promotedBytes[rows[place]!]!);
});

/** Bytes promoted at the span's young and mixed collections; null when no collection tells. */
export function promotionFigures(recording: Recording, span: Span): { totalBytes: number; bytesPerSec: number } | null {
  const { sum: totalBytes, known: told } = promotedSums(recording).within(
    ...placesWithin(collectionsByStart(recording), span.fromMs, span.toMs),
  );
  const seconds = spanLengthMs(span) / 1000;
  return told === 0
    ? null
    : { totalBytes, bytesPerSec: recording.hasClock && seconds > 0 ? totalBytes / seconds : NaN };
}
