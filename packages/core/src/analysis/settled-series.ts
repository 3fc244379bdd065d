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
  for (const { col, from, to } of index.longLived(series.lastMs, series.firstMs)) {
    const { bornMs, endMs, sizeBytes, probability, originId } = col;
    for (let at = from; at < to; at++) {
      const born = bornMs[at]!;
      if (endMs[at]! <= born + settleMs || endMs[at]! <= born + index.boundMs) continue;
      series.add(originId[at]!, born + settleMs, endMs[at]!, sizeBytes[at]!, probability[at]!);
    }
  }
  if (settleMs < index.boundMs) addShort(index, settleMs, series);
  return series;
}

function addShort(index: ObjectIndex, settleMs: number, series: SeriesSums): void {
  const { bornMs, endMs, sizeBytes, probability, originId } = index.recording.tables.objects.col;
  const { boundMs } = index;
  for (let block = 0; block < index.blocks; block++) {
    const [first, last] = index.birthsOf(block);
    if (first > series.lastMs || last < series.firstMs - boundMs) continue;
    const [from, to] = index.rowsOf(block);
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      const end = endMs[row]!;
      if (end <= born + settleMs || !(end <= born + boundMs)) continue;
      series.add(originId[row]!, born + settleMs, end, sizeBytes[row]!, probability[row]!);
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
  private readonly width: number;
  private rows = 0;
  private readonly momentsMs: Float64Array;
  private readonly places: MomentPlaces;
  private first = 0;
  private afterMs = -Infinity;
  private nextMs = Infinity;

  constructor({ groupOf, groups, chosen }: SeriesGroups, momentsMs: Float64Array) {
    this.groupOf = groupOf;
    this.chosen = chosen;
    this.width = momentsMs.length + 1;
    this.firstMs = momentsMs[0] ?? Infinity;
    this.places = new MomentPlaces(momentsMs);
    this.momentsMs = momentsMs;
    this.nextMs = this.firstMs;
    this.lastMs = momentsMs[momentsMs.length - 1] ?? -Infinity;
    this.rowOf = new Int32Array(groups).fill(-1);
    this.settledVariance = new Float64Array(groups);
    this.bytes = new Float64Array(this.width * 16);
    this.count = new Float64Array(this.width * 16);
  }

  // An object that counts from one instant to before another; `endMs` is NaN for one that is still followed.
  add(originId: number, fromMs: number, endMs: number, size: number, p: number): void {
    if (fromMs > this.lastMs || (this.chosen !== null && this.chosen[originId] !== 1)) return;
    // Of one origin they come in order of birth: the next mostly falls between the same moments.
    if (!(fromMs > this.afterMs && fromMs <= this.nextMs)) this.goTo(this.places.of(fromMs));
    const { first } = this;
    if (endMs <= this.nextMs) return;
    const last = endMs <= this.lastMs ? this.places.of(endMs) : this.width - 1;
    const group = this.groupOf[originId]!;
    const at = this.begin(group);
    const bytes = estimatedBytes(size, p);
    const count = 1 / p;
    this.bytes[at + first]! += bytes;
    this.count[at + first]! += count;
    // Behind the last moment nobody looks.
    if (last < this.width - 1) {
      this.bytes[at + last]! -= bytes;
      this.count[at + last]! -= count;
    }
    if (first > 0) this.settledVariance[group]! += bytesVariance(size, p);
  }

  private goTo(place: number): void {
    this.first = place;
    this.afterMs = place === 0 ? -Infinity : this.momentsMs[place - 1]!;
    this.nextMs = this.momentsMs[place]!;
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

/** Parts of the time between the first moment and the last, many more than moments. */
const PARTS = 1024;

/** The place of the first moment at or after an instant, without a search: moments lie about evenly. */
class MomentPlaces {
  private readonly momentsMs: Float64Array;
  private readonly fromMs: number;
  private readonly partsAMs: number;
  /** Of each part the first moment that lies in it or behind it. */
  private readonly first = new Uint32Array(PARTS + 1);

  constructor(momentsMs: Float64Array) {
    this.momentsMs = momentsMs;
    this.fromMs = momentsMs[0] ?? 0;
    const lengthMs = (momentsMs[momentsMs.length - 1] ?? 0) - this.fromMs;
    this.partsAMs = lengthMs > 0 ? PARTS / lengthMs : 0;
    // A part earlier than it may be: rounding must not pass over one.
    for (let part = 0; part <= PARTS; part++)
      this.first[part] = firstAtOrAfter(momentsMs, this.fromMs + ((part - 1) / PARTS) * lengthMs);
  }

  /** For an instant up to the last moment. */
  of(tMs: number): number {
    if (!(tMs > this.fromMs)) return 0;
    let place = this.first[Math.min(PARTS, (tMs - this.fromMs) * this.partsAMs) | 0]!;
    while (this.momentsMs[place]! < tMs) place++;
    return place;
  }
}

function doubled(column: Float64Array): Float64Array {
  const next = new Float64Array(column.length * 2);
  next.set(column);
  return next;
}
