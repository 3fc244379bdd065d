import { type HeapId, NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, type ScopeCode } from '../../model/tables.ts';
import { IdRows } from './id-rows.ts';

/** Used memory around a step that gave some back while the program ran, in bytes. */
export interface Release {
  readonly beforeBytes: number;
  readonly afterBytes: number;
  readonly capacityBytes: number;
  readonly resolutionBytes: number;
}

/** A cycle's beginning: what it covers, as what, and the log line that said so. */
export interface CycleStart {
  readonly scope: ScopeCode;
  readonly labelId: number;
  readonly causeId: number;
  /** `CollectionFlag`s beside those of every such cycle. */
  readonly flags: number;
  readonly line: number;
  readonly byteOffset: number;
}

/**
 * Cycles of a collector that frees memory while the program runs (ZGC, Shenandoah): rows of collections and releases,
 * by GC id.
 */
export class ConcurrentCycles {
  private readonly recording: Recording;
  private readonly heapId: HeapId;
  private readonly rows = new IdRows();
  /** Bytes allocated while a cycle ran, by its id, as printed before its end. */
  private readonly allocated = new Map<number, number>();

  constructor(recording: Recording, heapId: HeapId) {
    this.recording = recording;
    this.heapId = heapId;
  }

  /** Row of a cycle that has begun; NONE for any other id. */
  rowOf(gcId: number): number {
    return this.rows.get(gcId);
  }

  /** A cycle begins; said twice, it begins once. */
  begin(gcId: number, startMs: number, start: CycleStart): number {
    const known = this.rows.get(gcId);
    if (known !== NONE) return known;
    const { collections } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    col.startMs[row] = startMs;
    col.endMs[row] = startMs;
    col.gcId[row] = gcId;
    col.labelId[row] = start.labelId;
    col.causeId[row] = start.causeId;
    col.line[row] = start.line;
    col.byteOffset[row] = start.byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = start.scope;
    col.flags[row] = CollectionFlag.concurrentCycle | CollectionFlag.unfinished | start.flags;
    this.recording.freesConcurrently = true;
    this.rows.set(gcId, row);
    return row;
  }

  /** The log says how much the program allocated while the cycle ran. */
  allocatedDuring(gcId: number, bytes: number): void {
    this.allocated.set(gcId, (this.allocated.get(gcId) ?? 0) + bytes);
  }

  /** True once the cycle in a row has given memory back. */
  isOver(row: number): boolean {
    return !(this.recording.tables.collections.col.flags[row]! & CollectionFlag.unfinished);
  }

  /** Something of the cycle lasted until `endMs`. */
  reach(gcId: number, endMs: number): void {
    const row = this.rows.get(gcId);
    const { col } = this.recording.tables.collections;
    if (row !== NONE && endMs > col.endMs[row]!) col.endMs[row] = endMs;
  }

  /** Memory was given back between the two times. From then on the cycle has done what it is for. */
  release(gcId: number, fromMs: number, toMs: number, release: Release): void {
    const { collections, releases } = this.recording.tables;
    const collectionRow = this.rows.get(gcId);
    const row = releases.addRow();
    releases.col.startMs[row] = fromMs;
    releases.col.endMs[row] = toMs;
    releases.col.usedBeforeBytes[row] = release.beforeBytes;
    releases.col.usedAfterBytes[row] = release.afterBytes;
    releases.col.resolutionBytes[row] = release.resolutionBytes;
    releases.col.heapId[row] = this.heapId;
    releases.col.allocatedBytes[row] = this.allocated.get(gcId) ?? NaN;
    if (collectionRow === NONE) return;
    releases.col.collectionRow[row] = collectionRow;
    const { col } = collections;
    col.allocatedBytes[collectionRow] = releases.col.allocatedBytes[row]!;
    if (Number.isNaN(col.usedBeforeBytes[collectionRow]!)) col.usedBeforeBytes[collectionRow] = release.beforeBytes;
    col.usedAfterBytes[collectionRow] = release.afterBytes;
    col.capacityBytes[collectionRow] = release.capacityBytes;
    col.resolutionBytes[collectionRow] = release.resolutionBytes;
    col.endMs[collectionRow] = toMs;
    col.flags[collectionRow] = (col.flags[collectionRow]! & ~CollectionFlag.unfinished) | CollectionFlag.ownSizes;
  }
}
