import { NONE } from '../../base/ids.ts';
import type { HeapId } from '../../base/ids.ts';
import type { JvmLog } from '../jvm-unified/jvm-log.ts';

/** What the parser knows of one heap of the stream: its clock and how its ids map to the recording's. */
export class HeapScope {
  readonly heapId: HeapId;
  /** Milliseconds to add to the heap's times to get the recording's. */
  readonly offsetMs: number;
  readonly frames: number[] = [];
  readonly paths: number[] = [];
  readonly types: number[] = [];
  readonly threads: number[] = [];
  /** Rows of the objects that are followed, by the stream's object id. */
  readonly liveRows = new Map<number, number>();
  phaseRow = NONE;
  /** Reader of the collector's own log, which then tells the collections; null when there is none. */
  readonly log: JvmLog | null;

  constructor(heapId: HeapId, offsetMs: number, log: JvmLog | null = null) {
    this.log = log;
    this.heapId = heapId;
    this.offsetMs = offsetMs;
  }
}
