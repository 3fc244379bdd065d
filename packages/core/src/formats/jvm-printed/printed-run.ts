import { NONE } from '../../base/ids.ts';
import { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope, type ScopeCode } from '../../model/tables.ts';
import { JVM } from '../../runtimes/jvm.ts';
import { fillDetails } from '../jvm-unified/collection-details.ts';
import type { PrintedRecord } from './printed-record.ts';

/** One run of a JVM while its printed log is read: turns records into rows of a recording. */
export class PrintedRun {
  readonly recording = new Recording('jvm-printed');
  private readonly heapId = this.recording.addHeap('main', JVM);
  private originMs = NaN;
  private lastStampMs = NaN;
  /** Row of the concurrent cycle under way. */
  private cycle: number = NONE;
  private concurrentMs = 0;

  constructor() {
    this.recording.runtime = 'OpenJDK 8 or older';
  }

  get hasEvents(): boolean {
    return this.recording.tables.collections.length > 0;
  }

  /** True when a stamp lies so far behind the last one that the JVM must have been started anew. */
  isBefore(stampMs: number): boolean {
    return stampMs < this.lastStampMs - 1000;
  }

  setLimit(bytes: number): void {
    this.recording.heaps[this.heapId]!.limitBytes = bytes;
  }

  /**
   * A collection that stopped the program, or a step of a cycle that did; the stamp, NaN when there is none, is its
   * beginning.
   */
  addRecord(record: PrintedRecord, stampMs: number, line: number, byteOffset: number): void {
    const startMs = this.place(stampMs);
    const endMs = startMs + record.durationMs;
    const isStep = /CMS Initial Mark|CMS-initial-mark|CMS Final Remark|CMS-remark|^GC remark|^GC cleanup/.test(
      record.label,
    );
    const begins = /CMS Initial Mark|CMS-initial-mark/.test(record.label);
    if (begins) this.beginCycle(record.label.startsWith('GC') ? 'CMS' : record.label, startMs, line, byteOffset);
    const row = isStep ? this.cycle : this.addCollection(record, startMs, endMs, { line, byteOffset });
    this.addPause(record, startMs, row, line);
    if (isStep) this.extendCycle(record, endMs);
    if (record.label.includes('(initial-mark)')) this.beginCycle('GC concurrent cycle', endMs, line, byteOffset);
    // A collection of the whole heap ends a cycle under way, whose work it does.
    if (!isStep && scopeOf(record) === Scope.whole) this.cycle = NONE;
    this.recording.reach(endMs);
  }

  /** A concurrent step, of which a duration is printed at its end. */
  addConcurrentStep(label: string, durationMs: number, stampMs: number): void {
    const tMs = this.place(stampMs);
    this.recording.reach(tMs);
    if (this.cycle === NONE) return;
    const { col } = this.recording.tables.collections;
    if (!Number.isNaN(durationMs)) this.concurrentMs += durationMs;
    col.concurrentMs[this.cycle] = this.concurrentMs;
    col.endMs[this.cycle] = Math.max(col.endMs[this.cycle]!, tMs);
    if (!Number.isNaN(durationMs) && /reset$|concurrent-cleanup-end$/.test(label)) {
      col.flags[this.cycle]! &= ~CollectionFlag.unfinished;
      this.cycle = NONE;
    }
  }

  /** Every thread was stopped for so long, until the stamp. */
  addSafepoint(reachMs: number, totalMs: number, stampMs: number, line: number): void {
    const { safepoints } = this.recording.tables;
    const row = safepoints.addRow();
    safepoints.col.startMs[row] = this.place(stampMs) - (Number.isNaN(stampMs) ? 0 : totalMs);
    safepoints.col.reachMs[row] = reachMs;
    safepoints.col.totalMs[row] = totalMs;
    safepoints.col.operationId[row] = this.recording.intern('');
    safepoints.col.line[row] = line;
    safepoints.col.heapId[row] = this.heapId;
  }

  private addCollection(
    record: PrintedRecord,
    startMs: number,
    endMs: number,
    at: { line: number; byteOffset: number },
  ): number {
    const { collections } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    const scope = scopeOf(record);
    col.startMs[row] = startMs;
    col.endMs[row] = endMs;
    col.gcId[row] = row;
    col.usedBeforeBytes[row] = record.sizes?.beforeBytes ?? NaN;
    col.usedAfterBytes[row] = record.sizes?.afterBytes ?? NaN;
    col.capacityBytes[row] = record.sizes?.capacityBytes ?? NaN;
    col.resolutionBytes[row] = record.sizes?.resolutionBytes ?? NaN;
    col.labelId[row] = this.recording.intern(record.label);
    col.causeId[row] = this.recording.intern(record.cause);
    col.line[row] = at.line;
    col.byteOffset[row] = at.byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = scope;
    col.flags[row] =
      (/^System(?:\.gc\(\))?$/.test(record.cause) ? CollectionFlag.explicit : 0) |
      (record.failed ? CollectionFlag.evacuationFailed : 0);
    col.promotedBytes[row] = scope === Scope.whole ? NaN : promotedBytes(record);
    fillDetails(this.recording, row, record);
    return row;
  }

  private addPause(record: PrintedRecord, startMs: number, collectionRow: number, line: number): void {
    const { pauses } = this.recording.tables;
    const row = pauses.addRow();
    const { col } = pauses;
    col.startMs[row] = startMs;
    col.durationMs[row] = record.durationMs;
    col.usedBeforeBytes[row] = record.sizes?.beforeBytes ?? NaN;
    col.usedAfterBytes[row] = record.sizes?.afterBytes ?? NaN;
    col.resolutionBytes[row] = record.sizes?.resolutionBytes ?? NaN;
    col.collectionRow[row] = collectionRow;
    col.labelId[row] = this.recording.intern(record.label);
    col.causeId[row] = this.recording.intern(record.cause);
    col.line[row] = line;
    col.heapId[row] = this.heapId;
    col.scope[row] = scopeOf(record);
  }

  private beginCycle(label: string, startMs: number, line: number, byteOffset: number): void {
    const { collections } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    col.startMs[row] = startMs;
    col.endMs[row] = startMs;
    col.gcId[row] = row;
    col.labelId[row] = this.recording.intern(label === 'CMS' ? 'CMS concurrent cycle' : label);
    col.causeId[row] = this.recording.intern('');
    col.line[row] = line;
    col.byteOffset[row] = byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = Scope.whole;
    col.flags[row] = CollectionFlag.concurrentCycle | CollectionFlag.unfinished;
    this.cycle = row;
    this.concurrentMs = 0;
    if (label === 'CMS') this.recording.freesConcurrently = true;
  }

  private extendCycle(record: PrintedRecord, endMs: number): void {
    if (this.cycle === NONE) return;
    const { col } = this.recording.tables.collections;
    col.endMs[this.cycle] = Math.max(col.endMs[this.cycle]!, endMs);
    if (record.sizes !== null) {
      if (Number.isNaN(col.usedBeforeBytes[this.cycle]!)) col.usedBeforeBytes[this.cycle] = record.sizes.beforeBytes;
      col.usedAfterBytes[this.cycle] = record.sizes.afterBytes;
      col.resolutionBytes[this.cycle] = record.sizes.resolutionBytes;
    }
    if (/^GC cleanup/.test(record.label)) col.flags[this.cycle]! &= ~CollectionFlag.unfinished;
  }

  // Without a stamp, the least time that must have passed orders the events. A log that begins late counts from there.
  private place(stampMs: number): number {
    if (Number.isNaN(stampMs)) {
      if (!this.hasEvents) this.recording.hasClock = false;
      return this.recording.durationMs;
    }
    if (Number.isNaN(this.originMs)) this.originMs = stampMs < WHOLE_IF_BEFORE_MS ? 0 : stampMs;
    this.lastStampMs = stampMs;
    return Math.max(0, stampMs - this.originMs);
  }
}

/** A log whose first collection comes later than this after the JVM's start has lost its head. */
const WHOLE_IF_BEFORE_MS = 60_000;

function scopeOf(record: PrintedRecord): ScopeCode {
  if (record.label.startsWith('Full GC') || /CMS|^GC remark|^GC cleanup/.test(record.label)) return Scope.whole;
  if (record.label.includes('(mixed)')) return Scope.mixed;
  // A young collection that turned into one of the whole heap on the way.
  return record.spaces.some((space) => space.name === 'Tenured' || space.name === 'CMS') ? Scope.whole : Scope.young;
}

function promotedBytes(record: PrintedRecord): number {
  const old = record.spaces.find((space) => JVM.oldSpaces.has(space.name));
  if (old !== undefined) return Math.max(0, old.afterBytes - old.beforeBytes);
  const young = record.spaces.filter((space) => /^(?:PSYoungGen|ParNew|DefNew|Eden|Survivors)$/.test(space.name));
  if (young.length === 0 || record.sizes === null) return NaN;
  const left = young.reduce((sum, space) => sum + space.beforeBytes - space.afterBytes, 0);
  return Math.max(0, left - (record.sizes.beforeBytes - record.sizes.afterBytes));
}
