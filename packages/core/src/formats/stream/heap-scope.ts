import { NONE } from '../../base/ids.ts';
import { RowIndex } from '../../base/row-index.ts';
import type { HeapId } from '../../base/ids.ts';
import type { JvmLog } from '../jvm-unified/jvm-log.ts';
import { Inclusion } from './inclusion.ts';

/**
 * V8 hands out size × rounded count, the count being 1/(1 − e^(−size/interval)). Only an object of over ln 3 intervals
 * is counted once, and twice the size of one that is counted twice is at most 2 · ln 3 intervals: so what is larger is
 * one object with its own size.
 */
export const SURELY_ONE_INTERVALS = 2 * Math.log(3);

/** Pieces of an inventory, taken at `t`, that has not come whole. */
interface ComingInventory {
  readonly t: number;
  readonly pieces: Uint8Array[];
}

/** What the parser knows of one heap of the stream: its clock and how its ids map to the recording's. */
export class HeapScope {
  readonly heapId: HeapId;
  /** Milliseconds to add to the heap's times to get the recording's. */
  readonly offsetMs: number;
  readonly frames: number[] = [];
  readonly paths: number[] = [];
  /** Probabilities of the sizes that come. */
  readonly inclusion = new Inclusion();
  private originOfPath = new Uint32Array(0);
  private originRoom = new Uint32Array(0);
  readonly types: number[] = [];
  readonly threads: number[] = [];
  /** Rows of the objects that are followed, by the stream's object id. */
  readonly liveRows = new RowIndex();
  phaseRow = NONE;
  /** The inventory whose pieces are coming; null while none is. */
  coming: ComingInventory | null = null;
  /** The heap reached its limit, as some do and live on: whether it ended of that is known from how long it lived. */
  reachedLimit = false;
  /**
   * Sizes above are objects' own, where a source tells scaled estimates; Infinity where nothing is known of how they
   * were made.
   */
  surelyOneBytes = Infinity;
  /** Reader of the collector's own log, which then tells the collections; null when there is none. */
  readonly log: JvmLog | null;

  /** Origins of paths alone, by the stream's ids of paths; NONE for those not looked up yet. */
  originsOfPaths(): Uint32Array {
    const known = this.originOfPath;
    if (known.length < this.paths.length) {
      this.originOfPath = new Uint32Array(2 * this.paths.length).fill(NONE);
      this.originOfPath.set(known);
    }
    return this.originOfPath;
  }

  /** Room for the origins of a line's objects, used again for the next line. */
  roomForOrigins(count: number): Uint32Array {
    if (this.originRoom.length < count) this.originRoom = new Uint32Array(2 * count);
    return this.originRoom;
  }

  constructor(heapId: HeapId, offsetMs: number, log: JvmLog | null = null) {
    this.log = log;
    this.heapId = heapId;
    this.offsetMs = offsetMs;
  }
}
