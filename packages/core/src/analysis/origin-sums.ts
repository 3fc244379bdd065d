import type { Span } from '../base/span.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { ObjectIndex } from './object-index.ts';

/** Places of an origin's sums in its stretch of `SUMS` numbers. */
export const Sum = {
  allocBytes: 0, allocVariance: 1, allocCount: 2, samples: 3,
  keptBytes: 4, keptVariance: 5, keptCount: 6, keptSamples: 7,
  keptOfSpanBytes: 8,
  /** Σ bytes · age of what is kept. */
  keptByteMs: 9,
  recentSamples: 10,
  keptOfSpanVariance: 11, keptOfSpanCount: 12,
  /** Born in the span, alive at its end, and younger than the settle time. */
  recentOfSpanBytes: 13, recentOfSpanVariance: 14, recentOfSpanCount: 15,
} as const;
/** Numbers an origin takes: a power of two, so that few cache lines are touched a row. */
export const SUMS = 16;

/**
 * What each origin allocated in the span, and what of it is kept at the span's end (alive and older than the settle time):
 * `sums[originId · SUMS + Sum.…]`; counts are NaN where the source gives estimates of bytes only. From the index's running sums
 * and long-lived objects, and the objects born near the span's edges.
 */
export function originSums(index: ObjectIndex, span: Span, settleMs: number): Float64Array {
  index.update();
  const sums = new Float64Array(index.recording.tables.origins.length * SUMS);
  addAllocated(index, span, sums);
  const { bornMs, endMs, bytes, variance, count, originId } = index.long.col;
  const { fromMs, toMs } = span;
  for (let at = 0; at < index.long.length; at++) {
    const born = bornMs[at]!;
    // NaN, for what is still followed, is not below.
    if (born >= toMs || endMs[at]! < toMs || endMs[at]! <= born + index.boundMs) continue;
    addLiving(sums, originId[at]! * SUMS, (toMs - born < settleMs ? YOUNG : 0) | (born >= fromMs ? OF_SPAN : 0), bytes[at]!, variance[at]!, count[at]!, toMs - born);
  }
  addShort(index, span, settleMs, sums);
  return sums;
}

// Chunks inside the span by their running sums, those across an edge row by row.
function addAllocated(index: ObjectIndex, span: Span, sums: Float64Array): void {
  let inside = -1;
  for (let chunk = 0; chunk <= index.chunks; chunk++) {
    const isPast = chunk === index.chunks;
    const [first, last] = isPast ? [Infinity, Infinity] : index.birthsOf(chunk);
    const isInside = !isPast && first >= span.fromMs && last < span.toMs;
    if (isInside && inside < 0) inside = chunk;
    if (isInside) continue;
    if (inside >= 0) index.addChunks(inside, chunk, sums, SUMS);
    inside = -1;
    if (first < span.toMs && last >= span.fromMs) addRows(index, chunk, span, sums);
  }
}

function addRows(index: ObjectIndex, chunk: number, { fromMs, toMs }: Span, sums: Float64Array): void {
  const { bornMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const [from, to] = index.rowsOf(chunk);
  for (let row = from; row < to; row++) {
    const born = bornMs[row]!;
    if (born < fromMs || born >= toMs) continue;
    const p = probability[row]!;
    const at = originId[row]! * SUMS;
    sums[at]! += estimatedBytes(sizeBytes[row]!, p);
    sums[at + 1]! += p === 1 ? 0 : bytesVariance(sizeBytes[row]!, p);
    sums[at + 2]! += 1 / p;
    sums[at + 3]!++;
  }
}

// Those that live at the span's end and will not live longer than the bound were born at most that bound before it.
function addShort(index: ObjectIndex, { fromMs, toMs }: Span, settleMs: number, sums: Float64Array): void {
  const { bornMs, endMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const { boundMs } = index;
  for (let chunk = 0; chunk < index.chunks; chunk++) {
    const [first, last] = index.birthsOf(chunk);
    if (first >= toMs || last < toMs - boundMs) continue;
    const [from, to] = index.rowsOf(chunk);
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      if (born >= toMs || endMs[row]! < toMs || !(endMs[row]! <= born + boundMs)) continue;
      const p = probability[row]!;
      const what = (toMs - born < settleMs ? YOUNG : 0) | (born >= fromMs ? OF_SPAN : 0);
      addLiving(sums, originId[row]! * SUMS, what, estimatedBytes(sizeBytes[row]!, p), bytesVariance(sizeBytes[row]!, p), 1 / p, toMs - born);
    }
  }
}

const YOUNG = 1;
const OF_SPAN = 2;

// A kernel of plain numbers: an object for them would be one allocation a row.
// eslint-disable-next-line max-params -- a private kernel
function addLiving(sums: Float64Array, at: number, what: number, bytes: number, variance: number, count: number, ageMs: number): void {
  if (what & YOUNG) {
    sums[at + 10]!++;
    if (!(what & OF_SPAN)) return;
    sums[at + 13]! += bytes;
    sums[at + 14]! += variance;
    sums[at + 15]! += count;
    return;
  }
  sums[at + 4]! += bytes;
  sums[at + 5]! += variance;
  sums[at + 6]! += count;
  sums[at + 7]!++;
  if (what & OF_SPAN) {
    sums[at + 8]! += bytes;
    sums[at + 11]! += variance;
    sums[at + 12]! += count;
  }
  sums[at + 9]! += bytes * ageMs;
}
