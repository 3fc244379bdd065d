/** Of so many places, blocks, blocks of blocks and so on the largest is known. */
const FAN_LOG2 = 3;

/** The largest of each whole block of a level: its place, −1 where none has a value, and the value. */
interface Level {
  readonly places: Int32Array;
  readonly values: Float64Array;
}

/**
 * Values in a fixed order, of any range of which the largest is found in O(log n): the largest is kept of every eight
 * places, of every eight of these and so on. NaN is no value.
 */
export class RangeLargest {
  private readonly valueAt: (place: number) => number;
  private readonly levels: Level[] = [];
  /** The largest that was found so far. */
  private place = -1;
  private value = -Infinity;

  /** `valueAt` tells the value of each of `count` places, and goes on telling the same. Linear. */
  constructor(count: number, valueAt: (place: number) => number) {
    this.valueAt = valueAt;
    for (let blocks = count >>> FAN_LOG2; blocks > 0; blocks >>>= FAN_LOG2) {
      const level = { places: new Int32Array(blocks), values: new Float64Array(blocks) };
      for (let block = 0; block < blocks; block++) {
        this.begin();
        this.look(this.levels.length, block << FAN_LOG2, (block + 1) << FAN_LOG2);
        level.places[block] = this.place;
        level.values[block] = this.value;
      }
      this.levels.push(level);
    }
  }

  /** Place of the largest of the places [first, end), the first of equal ones; −1 where none has a value. */
  within(first: number, end: number): number {
    this.begin();
    let [from, to] = [first, end];
    for (let level = 0; from < to; level++) {
      const [fromBlock, toBlock] = [((from - 1) >> FAN_LOG2) + 1, to >>> FAN_LOG2];
      if (fromBlock >= toBlock) {
        this.look(level, from, to);
        break;
      }
      this.look(level, from, fromBlock << FAN_LOG2);
      this.look(level, toBlock << FAN_LOG2, to);
      [from, to] = [fromBlock, toBlock];
    }
    return this.place;
  }

  private begin(): void {
    this.place = -1;
    this.value = -Infinity;
  }

  // At blocks of a level; level 0 is of places themselves.
  private look(level: number, first: number, end: number): void {
    const told = level === 0 ? null : this.levels[level - 1]!;
    for (let at = first; at < end; at++) {
      const value = told === null ? this.valueAt(at) : told.values[at]!;
      // A block without any stands below all.
      if (!(value >= this.value)) continue;
      const place = told === null ? at : told.places[at]!;
      if (place < 0 || (value === this.value && this.place >= 0 && place > this.place)) continue;
      this.place = place;
      this.value = value;
    }
  }
}
