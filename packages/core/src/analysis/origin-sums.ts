import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { lastLooksMs } from './last-looks.ts';
import type { LongLived, ObjectIndex } from './object-index.ts';

/**
 * Places of an origin's sums in its stretch of `SUMS` numbers. At `alloc`, `kept`, `keptOfSpan`, `recentOfSpan` and
 * `lostOfSpan` stand
 * four numbers each: bytes, their variance, objects, and the variance of these. The first five are the index's running
 * sums.
 */
export const Sum = {
  /** Born in the span, whatever became of it. */
  alloc: 0,
  samples: 4,
  keptSamples: 5,
  /** Σ bytes · age of what is kept. */
  keptByteMs: 6,
  recentSamples: 7,
  /** Alive at the span's end, older than the settle time and looked at since, whenever it was born. */
  kept: 8,
  keptOfSpan: 12,
  /** Born in the span, alive at its end, and younger than the settle time or never looked at. */
  recentOfSpan: 16,
  /** Born in the span and lost from sight before its end: what became of it is not known. */
  lostOfSpan: 20,
} as const;
/** Numbers an origin takes: whole cache lines. */
export const SUMS = 24;

/**
 * What each origin allocated in the span, and what of it is kept at the span's end (alive, older than the settle
 * time, and looked at by a collection or poll since it was born):
 * `sums[originId · SUMS + Sum.…]`; counts are NaN where the source gives estimates of bytes only. From the index's
 * running sums and long-lived objects, and the objects born near the span's edges.
 */
export function originSums(index: ObjectIndex, span: Span, settleMs: number): Float64Array {
  index.update();
  const sums = new Float64Array(index.recording.tables.origins.length * SUMS);
  addAllocated(index, span, sums);
  const lookedMs = looksByOrigin(index.recording);
  for (const part of index.longLived(span.toMs, span.toMs, true))
    addLongLived(part, { span, settleMs, boundMs: index.boundMs, lookedMs }, sums);
  addShort(index, span, settleMs, sums);
  return sums;
}

interface Counting {
  readonly span: Span;
  readonly settleMs: number;
  readonly boundMs: number;
  readonly lookedMs: Float64Array;
}

function addLongLived(
  { col, from, to: end }: LongLived,
  { span: { fromMs, toMs }, settleMs, boundMs, lookedMs }: Counting,
  sums: Float64Array,
): void {
  const { bornMs, endMs, lost, sizeBytes, probability, originId } = col;
  for (let at = from; at < end; at++) {
    const born = bornMs[at]!;
    if (born >= toMs) continue;
    const isOfSpan = born >= fromMs;
    // NaN, for what is still followed, is not below.
    const isOver = endMs[at]! < toMs;
    if (isOver ? lost[at] === 0 || !isOfSpan : endMs[at]! <= born + boundMs) continue;
    const to = originId[at]! * SUMS;
    const p = probability[at]!;
    const bytes = estimatedBytes(sizeBytes[at]!, p);
    if (isOver) {
      addFour(sums, to + Sum.lostOfSpan, bytes, varianceOf(sizeBytes[at]!, p), 1 / p, countsOff(p));
      continue;
    }
    const isYoung = toMs - born < settleMs || (born > lookedMs[originId[at]!]! && Number.isNaN(endMs[at]!));
    addLiving(
      sums,
      to,
      (isYoung ? YOUNG : 0) | (isOfSpan ? OF_SPAN : 0),
      bytes,
      varianceOf(sizeBytes[at]!, p),
      1 / p,
      countsOff(p),
      toMs - born,
    );
  }
}

/** By origin: what was born later, and was not noticed dead, was never looked at (analysis/last-looks.ts). */
function looksByOrigin(recording: Recording): Float64Array {
  const { length, col } = recording.tables.origins;
  const looks = lastLooksMs(recording);
  const looked = new Float64Array(length);
  for (let origin = 0; origin < length; origin++) looked[origin] = looks[col.heapId[origin]!]!;
  return looked;
}

// Blocks inside the span by their running sums, those across an edge row by row.
function addAllocated(index: ObjectIndex, span: Span, sums: Float64Array): void {
  let inside = -1;
  for (let block = 0; block <= index.blocks; block++) {
    const isPast = block === index.blocks;
    const [first, last] = isPast ? [Infinity, Infinity] : index.birthsOf(block);
    const isInside = !isPast && first >= span.fromMs && last < span.toMs;
    if (isInside && inside < 0) inside = block;
    if (isInside) continue;
    if (inside >= 0) addInside(index, inside, block, span, sums);
    inside = -1;
    if (first < span.toMs && last >= span.fromMs) addRows(index, block, span, sums);
  }
}

function addInside(index: ObjectIndex, from: number, to: number, span: Span, sums: Float64Array): void {
  const [first, last] = index.addBlocks(from, to, sums, SUMS);
  for (let block = from; block < first; block++) addRows(index, block, span, sums);
  for (let block = last; block < to; block++) addRows(index, block, span, sums);
}

function addRows(index: ObjectIndex, block: number, { fromMs, toMs }: Span, sums: Float64Array): void {
  const { bornMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const [from, to] = index.rowsOf(block);
  for (let row = from; row < to; row++) {
    const born = bornMs[row]!;
    if (born < fromMs || born >= toMs) continue;
    const p = probability[row]!;
    const at = originId[row]! * SUMS;
    addFour(
      sums,
      at + Sum.alloc,
      estimatedBytes(sizeBytes[row]!, p),
      varianceOf(sizeBytes[row]!, p),
      1 / p,
      countsOff(p),
    );
    sums[at + Sum.samples]!++;
  }
}

// Those that live at the span's end and will not live longer than the bound were born at most that bound before it.
function addShort(index: ObjectIndex, { fromMs, toMs }: Span, settleMs: number, sums: Float64Array): void {
  const { bornMs, endMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const { boundMs } = index;
  for (let block = 0; block < index.blocks; block++) {
    const [first, last] = index.birthsOf(block);
    if (first >= toMs || last < toMs - boundMs) continue;
    const [from, to] = index.rowsOf(block);
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      if (born >= toMs || endMs[row]! < toMs || !(endMs[row]! <= born + boundMs)) continue;
      const p = probability[row]!;
      const what = (toMs - born < settleMs ? YOUNG : 0) | (born >= fromMs ? OF_SPAN : 0);
      addLiving(
        sums,
        originId[row]! * SUMS,
        what,
        estimatedBytes(sizeBytes[row]!, p),
        varianceOf(sizeBytes[row]!, p),
        1 / p,
        countsOff(p),
        toMs - born,
      );
    }
  }
}

// Of what is surely seen nothing is off.
function varianceOf(size: number, p: number): number {
  return p === 1 ? 0 : bytesVariance(size, p);
}

function countsOff(p: number): number {
  return p === 1 ? 0 : countVariance(p);
}

const YOUNG = 1;
const OF_SPAN = 2;

// Kernels of plain numbers: an object for them would be one allocation a row.
// eslint-disable-next-line max-params -- a private kernel
function addLiving(
  sums: Float64Array,
  at: number,
  what: number,
  bytes: number,
  variance: number,
  count: number,
  countsOff: number,
  ageMs: number,
): void {
  if (what & YOUNG) {
    sums[at + Sum.recentSamples]!++;
    if (what & OF_SPAN) addFour(sums, at + Sum.recentOfSpan, bytes, variance, count, countsOff);
    return;
  }
  addFour(sums, at + Sum.kept, bytes, variance, count, countsOff);
  if (what & OF_SPAN) addFour(sums, at + Sum.keptOfSpan, bytes, variance, count, countsOff);
  sums[at + Sum.keptSamples]!++;
  sums[at + Sum.keptByteMs]! += bytes * ageMs;
}

// eslint-disable-next-line max-params -- a private kernel
function addFour(
  sums: Float64Array,
  at: number,
  bytes: number,
  variance: number,
  count: number,
  countsOff: number,
): void {
  sums[at]! += bytes;
  sums[at + 1]! += variance;
  sums[at + 2]! += count;
  sums[at + 3]! += countsOff;
}
