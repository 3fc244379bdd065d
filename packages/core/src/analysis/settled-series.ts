import { firstAtOrAfter } from '../base/binary-search.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { ObjectColumns, ObjectIndex } from './object-index.ts';

/** Groups of origins whose objects are counted: `groupOf` by origin id; of `chosen` origins only, unless it is null. */
export interface SeriesGroups {
  readonly groupOf: Uint32Array;
  readonly groups: number;
  readonly chosen: Uint8Array | null;
}

/** Settled live bytes and objects of each group at each moment. */
export interface SettledSeries {
  /** Row of each group, −1 for those of which nothing settled. */
  readonly rowOf: Int32Array;
  /**
   * Changes from one moment to the next, of bytes and of objects beside each other, so that both are in memory at once:
   * `changes[(rowOf[group] · (moments + 1) + moment) · 2 + 0 or 1]`. Their running sum is the level.
   */
  readonly changes: Float64Array;
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
  const { boundMs } = index;
  const [firstMs, lastMs] = [momentsMs[0]!, momentsMs[momentsMs.length - 1]!];
  for (const { col, from, to } of index.longLived(lastMs, firstMs))
    series.addRows({ col, from, to, settleMs, longerThanMs: boundMs, upToMs: Infinity });
  if (settleMs >= boundMs) return series;
  const { col } = index.recording.tables.objects;
  for (let block = 0; block < index.blocks; block++) {
    const [first, last] = index.birthsOf(block);
    if (first > lastMs || last < firstMs - boundMs) continue;
    const [from, to] = index.rowsOf(block);
    series.addRows({ col, from, to, settleMs, longerThanMs: settleMs, upToMs: boundMs });
  }
  return series;
}

/** Rows of objects that count while they are older than the settle time, of which those that live longer or shorter. */
interface CountedRows {
  readonly col: ObjectColumns;
  readonly from: number;
  readonly to: number;
  readonly settleMs: number;
  /** Only those that live longer than the one, and no longer than the other; Infinity for any, still followed or not. */
  readonly longerThanMs: number;
  readonly upToMs: number;
}

class SeriesSums implements SettledSeries {
  readonly rowOf: Int32Array;
  readonly settledVariance: Float64Array;
  changes: Float64Array;
  private readonly groupOf: Uint32Array;
  private readonly chosen: Uint8Array | null;
  private readonly width: number;
  private rows = 0;
  private readonly momentsMs: Float64Array;
  private readonly places: MomentPlaces;

  constructor({ groupOf, groups, chosen }: SeriesGroups, momentsMs: Float64Array) {
    this.groupOf = groupOf;
    this.chosen = chosen;
    this.width = 2 * (momentsMs.length + 1);
    this.places = new MomentPlaces(momentsMs);
    this.momentsMs = momentsMs;
    this.rowOf = new Int32Array(groups).fill(-1);
    this.settledVariance = new Float64Array(groups);
    this.changes = new Float64Array(this.width * 16);
  }

  addRows({ col, from, to, settleMs, longerThanMs, upToMs }: CountedRows): void {
    const { bornMs, endMs, sizeBytes, probability, originId } = col;
    const { groupOf, chosen, momentsMs, places, settledVariance } = this;
    const [firstMs, lastMs] = [momentsMs[0]!, momentsMs[momentsMs.length - 1]!];
    const isAnyLong = upToMs === Infinity;
    let { changes } = this;
    let [origin, group, at, isOut] = [-1, 0, -1, false];
    for (let row = from; row < to; row++) {
      const born = bornMs[row]!;
      const fromMs = born + settleMs;
      // NaN, for what is still followed, is not below.
      const end = endMs[row]!;
      if (fromMs > lastMs || end <= fromMs || end <= born + longerThanMs) continue;
      if (end <= firstMs || (!isAnyLong && !(end <= born + upToMs))) continue;
      // Of one origin many come one after the other.
      if (originId[row] !== origin) {
        origin = originId[row]!;
        group = groupOf[origin]!;
        isOut = chosen !== null && chosen[origin] !== 1;
        at = -1;
      }
      const first = fromMs <= firstMs ? 0 : places.of(fromMs);
      if (isOut || end <= momentsMs[first]!) continue;
      if (at < 0) {
        at = this.begin(group);
        ({ changes } = this);
      }
      const p = probability[row]!;
      const size = estimatedBytes(sizeBytes[row]!, p);
      changes[at + 2 * first]! += size;
      changes[at + 2 * first + 1]! += 1 / p;
      // Behind the last moment nobody looks.
      if (end <= lastMs) {
        const last = places.of(end);
        changes[at + 2 * last]! -= size;
        changes[at + 2 * last + 1]! -= 1 / p;
      }
      if (first > 0) settledVariance[group]! += bytesVariance(sizeBytes[row]!, p);
    }
  }

  // Where a group's row begins; it is added when new.
  private begin(group: number): number {
    const known = this.rowOf[group]!;
    if (known >= 0) return known * this.width;
    if ((this.rows + 1) * this.width > this.changes.length) this.changes = doubled(this.changes);
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
