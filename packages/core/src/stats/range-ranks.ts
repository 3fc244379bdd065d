import { orderBy } from '../base/order-by.ts';
import { selectRank } from './select-rank.ts';

/** Places are counted in at most so many blocks, and ranks in so many classes. */
const MOST_PARTS_LOG2 = 10;
const LEAST_BLOCK_LOG2 = 10;
/** Who looks at all values so many times over is better served by their order. */
const MOST_LOOKS = 4;

/**
 * Values in a fixed order, of any range of which a quantile is known at once. How many values of each class of
 * neighbouring ranks stand before each block of places is counted once; a range is the difference of two such counts,
 * and what it has of the blocks at its ends. The first few questions are answered by a look at the range: often no more
 * are asked.
 */
export class RangeRanks {
  private readonly values: Float64Array;
  private blocks: RankBlocks | null;
  private looked = 0;

  /** `values` and their places in ascending order, where these are known, are not changed any more. */
  constructor(values: Float64Array, places?: Uint32Array) {
    this.values = values;
    this.blocks = places === undefined ? null : new RankBlocks(values, places);
  }

  /** The value that `rank` others of the places [first, end) stand before; NaN where there are not so many. */
  at(first: number, end: number, rank: number): number {
    if (!(rank >= 0 && rank < end - first)) return NaN;
    if (this.blocks === null && this.looked + end - first > MOST_LOOKS * this.values.length)
      this.blocks = new RankBlocks(this.values, orderBy(this.values));
    const found = this.blocks?.at(first, end, rank);
    if (found !== undefined) return found;
    this.looked += end - first;
    return selectRank(this.values.slice(first, end), rank);
  }

  /** Median of the places [first, end), the mean of the middle two when their number is even; NaN of none. */
  median(first: number, end: number): number {
    const half = (end - first) >> 1;
    const upper = this.at(first, end, half);
    return (end - first) % 2 === 1 ? upper : (this.at(first, end, half - 1) + upper) / 2;
  }
}

class RankBlocks {
  private readonly values: Float64Array;
  /** Places from the least value to the greatest, and the rank of each place. */
  private readonly places: Uint32Array;
  private readonly ranks: Uint32Array;
  private readonly partLog2: number;
  private readonly classes: number;
  /** By block and class. */
  private readonly before: Uint32Array;
  private readonly ends: Uint32Array;

  constructor(values: Float64Array, places: Uint32Array) {
    const { length } = values;
    this.values = values;
    this.places = places;
    this.ranks = new Uint32Array(length);
    for (let rank = 0; rank < length; rank++) this.ranks[places[rank]!] = rank;
    this.partLog2 = Math.max(LEAST_BLOCK_LOG2, Math.ceil(Math.log2(Math.max(1, length))) - MOST_PARTS_LOG2);
    this.classes = (length >>> this.partLog2) + 1;
    this.before = new Uint32Array(this.classes * this.classes);
    this.ends = new Uint32Array(this.classes);
    this.countBlocks();
  }

  /** Undefined for a range that has no whole block. */
  at(first: number, end: number, rank: number): number | undefined {
    const { partLog2, classes, before } = this;
    const [fromBlock, toBlock] = [((first - 1) >> partLog2) + 1, end >>> partLog2];
    if (fromBlock >= toBlock) return undefined;
    const ends = this.ends.fill(0);
    for (let place = first; place < fromBlock << partLog2; place++) ends[this.ranks[place]! >>> partLog2]!++;
    for (let place = toBlock << partLog2; place < end; place++) ends[this.ranks[place]! >>> partLog2]!++;
    let left = rank;
    for (let number = 0; number < classes; number++) {
      const count = before[toBlock * classes + number]! - before[fromBlock * classes + number]! + ends[number]!;
      if (left < count) return this.inClass(number, first, end, left);
      left -= count;
    }
    return undefined;
  }

  private inClass(number: number, first: number, end: number, rank: number): number | undefined {
    let left = rank;
    for (let at = number << this.partLog2; at < this.places.length; at++) {
      const place = this.places[at]!;
      if (place >= first && place < end && left-- === 0) return this.values[place]!;
    }
    return undefined;
  }

  private countBlocks(): void {
    const { ranks, partLog2, classes, before } = this;
    const size = 1 << partLog2;
    for (let block = 1; block < classes; block++) {
      const row = block * classes;
      before.copyWithin(row, row - classes, row);
      for (let place = (block - 1) * size; place < block * size; place++) before[row + (ranks[place]! >>> partLog2)]!++;
    }
  }
}
