import { NONE } from '../base/ids.ts';
import type { GrowableTable } from '../base/growable-table.ts';
import type { originSchema } from './tables.ts';

const FIRST_SLOTS = 256;

/**
 * Finds the row of an origin by its four ids. Open addressing over a power of two of slots, at most half of them taken;
 * constant expected time.
 */
export class OriginIndex {
  private readonly table: GrowableTable<typeof originSchema>;
  private slots = new Uint32Array(FIRST_SLOTS).fill(NONE);

  constructor(table: GrowableTable<typeof originSchema>) {
    this.table = table;
  }

  /** Row of the origin, added when new. */
  intern(pathId: number, typeId: number, threadId: number, heapId: number): number {
    const { pathId: paths, typeId: types, threadId: threads, heapId: heaps } = this.table.col;
    const mask = this.slots.length - 1;
    let slot = hash(pathId, typeId, threadId, heapId) & mask;
    for (let row = this.slots[slot]!; row !== NONE; row = this.slots[slot]!) {
      if (paths[row] === pathId && types[row] === typeId && threads[row] === threadId && heaps[row] === heapId)
        return row;
      slot = (slot + 1) & mask;
    }
    const row = this.table.addRow();
    const { col } = this.table;
    col.pathId[row] = pathId;
    col.typeId[row] = typeId;
    col.threadId[row] = threadId;
    col.heapId[row] = heapId;
    this.slots[slot] = row;
    if (this.table.length * 2 > this.slots.length) this.grow();
    return row;
  }

  private grow(): void {
    const { pathId, typeId, threadId, heapId } = this.table.col;
    this.slots = new Uint32Array(this.slots.length * 2).fill(NONE);
    const mask = this.slots.length - 1;
    for (let row = 0; row < this.table.length; row++) {
      let slot = hash(pathId[row]!, typeId[row]!, threadId[row]!, heapId[row]!) & mask;
      while (this.slots[slot] !== NONE) slot = (slot + 1) & mask;
      this.slots[slot] = row;
    }
  }
}

// Multiplication by odd constants and folding of the high bits, so that ids that count upward spread over the slots.
function hash(pathId: number, typeId: number, threadId: number, heapId: number): number {
  let mixed =
    Math.imul(pathId, 0x9e3779b1) ^
    Math.imul(typeId, 0x85ebca6b) ^
    Math.imul(threadId, 0xc2b2ae35) ^
    Math.imul(heapId, 0x27d4eb2f);
  mixed ^= mixed >>> 15;
  mixed = Math.imul(mixed, 0x2c1b3c6d);
  return (mixed ^ (mixed >>> 13)) >>> 0;
}
