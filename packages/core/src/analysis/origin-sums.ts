import { firstAtOrAfter } from '../base/binary-search.ts';
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
  /** Variance of the bytes that settled after the first of the moments. */
  settledVariance: 11,
} as const;
/** Numbers an origin takes: a power of two, so that few cache lines are touched a row. */
export const SUMS = 16;

/** What the objects of each origin add up to over a span. */
export interface OriginSums {
  readonly span: Span;
  readonly settleMs: number;
  readonly momentsMs: Float64Array;
  /** `sums[originId · SUMS + Sum.…]`; counts are NaN where the source gives estimates of bytes only. */
  readonly sums: Float64Array;
  /**
   * Settled live bytes and objects of the moments: `liveBytes[liveRowOf[originId] · (moments + 1) + moment]`, as changes from one
   * moment to the next; `liveRowOf` is −1 for origins of which nothing settled.
   */
  readonly liveRowOf: Int32Array;
  readonly liveBytes: Float64Array;
  readonly liveCount: Float64Array;
}

/**
 * What each origin allocated in the span, what of it is kept at the span's end (alive and older than the settle time), and what
 * had settled at each of the ascending moments, all inside the span. From the index's running sums and long-lived objects, and
 * the objects born near the span's edges: a settle time below the index's bound widens those edges by that bound.
 */
export function originSums(index: ObjectIndex, span: Span, settleMs: number, momentsMs: Float64Array): OriginSums {
  index.update();
  const origins = index.recording.tables.origins.length;
  const sums = new Float64Array(origins * SUMS);
  const live = new LiveRows(origins, momentsMs);
  addAllocated(index, span, sums);
  addLong(index, { span, settleMs, sums, live });
  addShort(index, { span, settleMs, sums, live });
  return { span, settleMs, momentsMs, sums, liveRowOf: live.rowOf, liveBytes: live.bytes, liveCount: live.count };
}

/** What a pass adds to, and by which bounds. */
interface Pass {
  readonly span: Span;
  readonly settleMs: number;
  readonly sums: Float64Array;
  readonly live: LiveRows;
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

function addLong({ boundMs, long }: ObjectIndex, pass: Pass): void {
  const { bornMs, endMs, bytes, variance, count, originId } = long.col;
  const { fromMs, toMs } = pass.span;
  for (let at = 0; at < long.length; at++) {
    const born = bornMs[at]!;
    const end = endMs[at]!;
    // Followed when it was packed, and dead since at a younger age: the pass over short lives has it.
    if (born >= toMs || end < fromMs || end <= born + boundMs) continue;
    addLife(pass, born, end, originId[at]!, bytes[at]!, variance[at]!, count[at]!);
  }
}

// Of the others only those born at most their bound before the span can reach into it; when they can settle at all.
function addShort(index: ObjectIndex, pass: Pass): void {
  const { bornMs, endMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const { boundMs } = index;
  const { fromMs, toMs } = pass.span;
  // With a settle time above the bound they are at most recent at the span's end.
  const reachMs = pass.settleMs >= boundMs ? toMs - boundMs : fromMs - boundMs;
  for (let chunk = 0; chunk < index.chunks; chunk++) {
    const [first, last] = index.birthsOf(chunk);
    if (first >= toMs || last < reachMs) continue;
    const [from, to] = index.rowsOf(chunk);
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      const end = endMs[row]!;
      if (born >= toMs || born < reachMs || end < fromMs || !(end <= born + boundMs)) continue;
      const p = probability[row]!;
      addLife(pass, born, end, originId[row]!, estimatedBytes(sizeBytes[row]!, p), bytesVariance(sizeBytes[row]!, p), 1 / p);
    }
  }
}

// A kernel of seven numbers: an object for them would be one allocation a row.
// eslint-disable-next-line max-params -- a private kernel
function addLife({ span: { fromMs, toMs }, settleMs, sums, live }: Pass, born: number, end: number, origin: number, bytes: number, variance: number, count: number): void {
  // NaN, for what is still followed, is not below.
  if (!(end < toMs)) {
    const at = origin * SUMS;
    const ageMs = toMs - born;
    if (ageMs < settleMs) sums[at + 10]!++;
    else {
      sums[at + 4]! += bytes;
      sums[at + 5]! += variance;
      sums[at + 6]! += count;
      sums[at + 7]!++;
      if (born >= fromMs) sums[at + 8]! += bytes;
      sums[at + 9]! += bytes * ageMs;
    }
  }
  if (end <= born + settleMs) return;
  if (born + settleMs > live.firstMs && !(end <= live.firstMs)) sums[origin * SUMS + 11]! += variance;
  live.add(origin, born + settleMs, end, bytes, count);
}

/** Rows of changes from moment to moment for those origins that have any. */
class LiveRows {
  readonly rowOf: Int32Array;
  private readonly momentsMs: Float64Array;
  /** The first of the moments; ∞ when there are none. */
  readonly firstMs: number;
  private readonly width: number;
  private readonly lastMs: number;
  bytes: Float64Array;
  count: Float64Array;
  private rows = 0;
  // The gap between moments into which the last object fell: objects come nearly in order of birth, so the next falls there as well.
  private first = 0;
  private afterMs = -Infinity;
  private nextMs: number;

  constructor(origins: number, momentsMs: Float64Array) {
    this.rowOf = new Int32Array(origins).fill(-1);
    this.momentsMs = momentsMs;
    this.width = momentsMs.length + 1;
    this.lastMs = momentsMs[momentsMs.length - 1] ?? -Infinity;
    this.nextMs = this.firstMs = momentsMs[0] ?? Infinity;
    this.bytes = new Float64Array(this.width * 16);
    this.count = new Float64Array(this.width * 16);
  }

  /** An object that counts from one instant to before another; `endMs` is NaN for one that is still followed. */
  add(originId: number, fromMs: number, endMs: number, bytes: number, count: number): void {
    if (fromMs > this.lastMs) return;
    if (fromMs <= this.afterMs || fromMs > this.nextMs) {
      this.first = firstAtOrAfter(this.momentsMs, fromMs);
      this.afterMs = this.first === 0 ? -Infinity : this.momentsMs[this.first - 1]!;
      this.nextMs = this.momentsMs[this.first]!;
    }
    if (endMs <= this.nextMs) return;
    const last = endMs <= this.lastMs ? firstAtOrAfter(this.momentsMs, endMs) : this.width - 1;
    const at = this.begin(originId);
    this.bytes[at + this.first]! += bytes;
    this.bytes[at + last]! -= bytes;
    this.count[at + this.first]! += count;
    this.count[at + last]! -= count;
  }

  // Where an origin's row begins; it is added when new.
  private begin(originId: number): number {
    const known = this.rowOf[originId]!;
    if (known >= 0) return known * this.width;
    if ((this.rows + 1) * this.width > this.bytes.length) {
      this.bytes = doubled(this.bytes);
      this.count = doubled(this.count);
    }
    this.rowOf[originId] = this.rows;
    return this.rows++ * this.width;
  }
}

function doubled(column: Float64Array): Float64Array {
  const next = new Float64Array(column.length * 2);
  next.set(column);
  return next;
}
