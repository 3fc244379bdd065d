/** Places are counted in blocks of so many. */
const BLOCK_LOG2 = 6;

/**
 * Classes of places in a fixed order: of any range, how many of each class it holds is known at once, by what stands
 * before each block of places.
 */
export class RangeCounts {
  private readonly classes: number;
  private readonly classOf: Uint8Array;
  /** By block and class. */
  private readonly before: Uint32Array;

  /** `classOf` has the class of each place, below `classes`, and is not changed any more. Linear. */
  constructor(classOf: Uint8Array, classes: number) {
    const blocks = (classOf.length >>> BLOCK_LOG2) + 1;
    this.classes = classes;
    this.classOf = classOf;
    this.before = new Uint32Array(blocks * classes);
    for (let block = 1; block < blocks; block++) {
      const row = block * classes;
      this.before.copyWithin(row, row - classes, row);
      for (let place = (block - 1) << BLOCK_LOG2; place < block << BLOCK_LOG2; place++)
        this.before[row + classOf[place]!]!++;
    }
  }

  /** How many of each class the places [first, end) hold, by class. O(1) in their number. */
  within(first: number, end: number): Uint32Array {
    const counts = new Uint32Array(this.classes);
    const [fromBlock, toBlock] = [((first - 1) >> BLOCK_LOG2) + 1, end >>> BLOCK_LOG2];
    if (fromBlock >= toBlock) return this.addEach(counts, first, end);
    for (let number = 0; number < this.classes; number++)
      counts[number] = this.before[toBlock * this.classes + number]! - this.before[fromBlock * this.classes + number]!;
    this.addEach(counts, first, fromBlock << BLOCK_LOG2);
    return this.addEach(counts, toBlock << BLOCK_LOG2, end);
  }

  private addEach(counts: Uint32Array, first: number, end: number): Uint32Array {
    for (let place = first; place < end; place++) counts[this.classOf[place]!]!++;
    return counts;
  }
}
