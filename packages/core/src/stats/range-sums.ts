/** Amounts are added up in blocks of so many. */
const BLOCK_LOG2 = 6;

/** What a range of places holds: the sum of its amounts, and how many of them are known. */
export interface RangeSum {
  readonly sum: number;
  readonly known: number;
}

/**
 * Amounts in a fixed order, of any range of which the sum is known at once: they are added up by block, and a range is
 * the difference of two such sums and what it has of the blocks at its ends. NaN is an amount that is not known and
 * counts nowhere. Sums are exact while the amounts are whole numbers and all together stay below 2⁵³.
 */
export class RangeSums {
  private readonly amountAt: (place: number) => number;
  /** Of all places before each block. */
  private readonly sums: Float64Array;
  private readonly known: Uint32Array;

  /** `amountAt` tells the amount of each of `count` places, and goes on telling the same. Linear. */
  constructor(count: number, amountAt: (place: number) => number) {
    const blocks = (count >>> BLOCK_LOG2) + 1;
    this.amountAt = amountAt;
    this.sums = new Float64Array(blocks);
    this.known = new Uint32Array(blocks);
    for (let block = 1; block < blocks; block++) {
      const each = this.each((block - 1) << BLOCK_LOG2, block << BLOCK_LOG2);
      this.sums[block] = this.sums[block - 1]! + each.sum;
      this.known[block] = this.known[block - 1]! + each.known;
    }
  }

  /** The places [first, end). O(1) in their number. */
  within(first: number, end: number): RangeSum {
    const [fromBlock, toBlock] = [((first - 1) >> BLOCK_LOG2) + 1, end >>> BLOCK_LOG2];
    if (fromBlock >= toBlock) return this.each(first, end);
    const before = this.each(first, fromBlock << BLOCK_LOG2);
    const after = this.each(toBlock << BLOCK_LOG2, end);
    return {
      sum: before.sum + (this.sums[toBlock]! - this.sums[fromBlock]!) + after.sum,
      known: before.known + (this.known[toBlock]! - this.known[fromBlock]!) + after.known,
    };
  }

  private each(first: number, end: number): RangeSum {
    let [sum, known] = [0, 0];
    for (let place = first; place < end; place++) {
      const amount = this.amountAt(place);
      if (amount !== amount) continue;
      sum += amount;
      known++;
    }
    return { sum, known };
  }
}
