import { firstAtOrAfter } from '../base/binary-search.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { ObjectIndex } from './object-index.ts';

/** Groups of origins whose objects are counted: `groupOf` by origin id; of `chosen` origins only, unless it is null. */
export interface SeriesGroups {
  readonly groupOf: Uint32Array;
  readonly groups: number;
  readonly chosen: Uint8Array | null;
}

/** Settled live bytes and objects of each group at each moment. */
export interface SettledSeries {
  /** Row of each group, −1 for those of which nothing settled: `bytes[rowOf[group] · (moments + 1) + moment]`. */
  readonly rowOf: Int32Array;
  /** Changes from one moment to the next; their running sum is the level. */
  readonly bytes: Float64Array;
  readonly count: Float64Array;
  /** Variance of the bytes that settled after the first moment, by group. */
  readonly settledVariance: Float64Array;
}

/**
 * Live objects older than the settle time at the ascending moments. Looks at the index's long-lived objects and, for a
 * settle time below the index's bound, at those born between the first moment less that bound and the last.
 */
export function settledSeries(
  index: ObjectIndex,
  settleMs: number,
  momentsMs: Float64Array,
  groups: SeriesGroups,
): SettledSeries {
  const series = new SeriesSums(groups, momentsMs);
  if (momentsMs.length === 0) return series;
  index.update();
  const { bornMs, endMs, bytes, variance, count, originId } = index.long.col;
  for (let at = 0; at < index.long.length; at++) {
    const born = bornMs[at]!;
    if (endMs[at]! <= born + settleMs || endMs[at]! <= born + index.boundMs) continue;
    series.add(originId[at]!, born + settleMs, endMs[at]!, bytes[at]!, variance[at]!, count[at]!);
  }
  if (settleMs < index.boundMs) addShort(index, settleMs, series);
  return series;
}

function addShort(index: ObjectIndex, settleMs: number, series: SeriesSums): void {
  const { bornMs, endMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const { boundMs } = index;
  for (let chunk = 0; chunk < index.chunks; chunk++) {
    const [first, last] = index.birthsOf(chunk);
    if (first > series.lastMs || last < series.firstMs - boundMs) continue;
    const [from, to] = index.rowsOf(chunk);
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      const end = endMs[row]!;
      if (end <= born + settleMs || !(end <= born + boundMs)) continue;
      const p = probability[row]!;
      series.add(
        originId[row]!,
        born + settleMs,
        end,
        estimatedBytes(sizeBytes[row]!, p),
        bytesVariance(sizeBytes[row]!, p),
        1 / p,
      );
    }
  }
}

class SeriesSums implements SettledSeries {
  readonly rowOf: Int32Array;
  readonly settledVariance: Float64Array;
  bytes: Float64Array;
  count: Float64Array;
  readonly firstMs: number;
  readonly lastMs: number;
  private readonly groupOf: Uint32Array;
  private readonly chosen: Uint8Array | null;
  private readonly momentsMs: Float64Array;
  private readonly width: number;
  private rows = 0;
  // The gap between moments into which the last object fell: objects come nearly in order of birth, so the next falls
  // there as well.
  private first = 0;
  private afterMs = -Infinity;
  private nextMs: number;

  constructor({ groupOf, groups, chosen }: SeriesGroups, momentsMs: Float64Array) {
    this.groupOf = groupOf;
    this.chosen = chosen;
    this.momentsMs = momentsMs;
    this.width = momentsMs.length + 1;
    this.nextMs = this.firstMs = momentsMs[0] ?? Infinity;
    this.lastMs = momentsMs[momentsMs.length - 1] ?? -Infinity;
    this.rowOf = new Int32Array(groups).fill(-1);
    this.settledVariance = new Float64Array(groups);
    this.bytes = new Float64Array(this.width * 16);
    this.count = new Float64Array(this.width * 16);
  }

  // An object that counts from one instant to before another; `endMs` is NaN for one that is still followed.
  // eslint-disable-next-line max-params -- a private kernel
  add(originId: number, fromMs: number, endMs: number, bytes: number, variance: number, count: number): void {
    if (fromMs > this.lastMs || (this.chosen !== null && this.chosen[originId] !== 1)) return;
    if (fromMs <= this.afterMs || fromMs > this.nextMs) {
      this.first = firstAtOrAfter(this.momentsMs, fromMs);
      this.afterMs = this.first === 0 ? -Infinity : this.momentsMs[this.first - 1]!;
      this.nextMs = this.momentsMs[this.first]!;
    }
    if (endMs <= this.nextMs) return;
    const last = endMs <= this.lastMs ? firstAtOrAfter(this.momentsMs, endMs) : this.width - 1;
    const group = this.groupOf[originId]!;
    const at = this.begin(group);
    this.bytes[at + this.first]! += bytes;
    this.bytes[at + last]! -= bytes;
    this.count[at + this.first]! += count;
    this.count[at + last]! -= count;
    if (this.first > 0) this.settledVariance[group]! += variance;
  }

  // Where a group's row begins; it is added when new.
  private begin(group: number): number {
    const known = this.rowOf[group]!;
    if (known >= 0) return known * this.width;
    if ((this.rows + 1) * this.width > this.bytes.length) {
      this.bytes = doubled(this.bytes);
      this.count = doubled(this.count);
    }
    this.rowOf[group] = this.rows;
    return this.rows++ * this.width;
  }
}

function doubled(column: Float64Array): Float64Array {
  const next = new Float64Array(column.length * 2);
  next.set(column);
  return next;
}
