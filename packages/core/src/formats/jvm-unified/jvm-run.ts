import { type HeapId, NONE } from '../../base/ids.ts';
import { Recording } from '../../model/recording.ts';
import { CollectionFlag, PauseFlag, Scope } from '../../model/tables.ts';
import { JVM } from '../../runtimes/jvm.ts';
import { addProcessorTimes, type SpaceSize } from './collection-details.ts';
import { ConcurrentCycles } from './concurrent-cycles.ts';
import type { ZCycle } from './cycle-message.ts';
import type { AgeRow, CpuTimes, PacingRow, SafepointMessage } from './detail-message.ts';
import { IdRows } from './id-rows.ts';
import { LabelBook, type LabelFacts } from './label-facts.ts';
import { PauseKeys } from './pause-keys.ts';
import { causeOf, type TimedMessage } from './pause-message.ts';
import { PendingDetails } from './pending-details.ts';
import { pausesFromSafepoints } from './safepoint-pauses.ts';

/** One run of a JVM while its log is read: turns messages into rows of a recording. */
export class JvmRun {
  readonly recording: Recording;
  regionBytes = NaN;
  /** Where the line being read begins. */
  byteOffset = NaN;
  /** Rows were added, so a new header starts a new run. */
  hasEvents = false;
  private readonly heapId: HeapId;
  private readonly details = new PendingDetails();
  /** Cycles under way, and those that are over. */
  private readonly cycles = new IdRows();
  private readonly endedCycles = new IdRows();
  private readonly failed = new Set<number>();
  private readonly keys: PauseKeys;
  private readonly labels: LabelBook;
  /** The last collection that stopped the program: its details may follow it. */
  private stoppedGcId: number = NONE;
  private stoppedRow: number = NONE;
  private readonly concurrent: ConcurrentCycles;
  private originMs = NaN;
  private firstGcId = NONE;
  private nextCause = '';
  private headSeen = false;
  private readonly within: boolean;

  /**
   * Of a log alone; or, with `within`, of the log that a recording of the JVM carries: its clock is the recording's
   * then.
   */
  constructor(within: { readonly recording: Recording; readonly heapId: HeapId } | null = null) {
    this.within = within !== null;
    this.recording = within?.recording ?? new Recording('jvm-unified');
    this.heapId = within?.heapId ?? this.recording.addHeap('main', JVM);
    if (!this.within) this.recording.runtime = 'OpenJDK';
    this.concurrent = new ConcurrentCycles(this.recording, this.heapId);
    this.keys = new PauseKeys(this.recording);
    this.labels = new LabelBook(this.recording, this.within);
  }

  sawHead(): void {
    this.headSeen = true;
  }

  setLimit(bytes: number): void {
    this.recording.heaps[this.heapId]!.limitBytes = bytes;
  }

  /** Remembers a space's sizes until its collection's pause is told. */
  addSpace(gcId: number, space: SpaceSize): void {
    this.details.addSpace(gcId, space);
  }

  /** A finished pause whose line was printed at `stampMs`. Answers false when it had been told before. */
  addPause(gcId: number, timed: TimedMessage, stampMs: number, line: number): boolean {
    const endMs = this.place(gcId, stampMs, timed.durationMs);
    if (Number.isNaN(endMs)) return true;
    const facts = this.labels.factsOf(timed.label);
    if (this.recording.hasClock && this.keys.isRepeated(endMs, timed.durationMs, facts.labelId)) {
      this.details.forget(gcId);
      return false;
    }
    if (facts.part === 'concurrentStep') this.concurrent.reach(gcId, endMs);
    const collectionRow =
      facts.part === 'concurrentStep'
        ? this.concurrent.rowOf(gcId)
        : facts.part === 'cycleStep'
          ? this.cycleRow(gcId, endMs - timed.durationMs, line)
          : this.addCollection(gcId, timed, endMs, { facts, line });
    const { pauses } = this.recording.tables;
    const row = pauses.addRow();
    const { col } = pauses;
    col.startMs[row] = endMs - timed.durationMs;
    col.durationMs[row] = timed.durationMs;
    col.usedBeforeBytes[row] = timed.beforeBytes;
    col.usedAfterBytes[row] = timed.afterBytes;
    col.resolutionBytes[row] = timed.resolutionBytes;
    col.collectionRow[row] = collectionRow;
    col.labelId[row] = facts.labelId;
    col.causeId[row] = facts.causeId;
    col.line[row] = line;
    col.heapId[row] = this.heapId;
    col.scope[row] = facts.scope;
    col.flags[row] =
      facts.pauseFlags | (facts.part === 'concurrentStep' && this.isOwn(collectionRow) ? PauseFlag.own : 0);
    if (facts.part === 'cycleStep') this.extendCycle(collectionRow, timed, endMs);
    return true;
  }

  /** Processor time of a collection, printed after its pause; of a cycle's pauses it is added up. */
  addCpuTimes(gcId: number, times: CpuTimes): void {
    const cycle = this.cycles.get(gcId);
    const row = cycle === NONE && this.stoppedGcId === gcId ? this.stoppedRow : cycle;
    if (row !== NONE) addProcessorTimes(this.recording, row, times);
  }

  /** Remembers a row of an age table until its collection's pause is told. */
  addAge(gcId: number, row: AgeRow): void {
    this.details.addAge(gcId, row);
  }

  /** Survivors of a collection found no room; said before its pause. */
  evacuationFailed(gcId: number): void {
    this.failed.add(gcId);
  }

  /** What the program allocated while a cycle ran. */
  allocatedDuring(gcId: number, bytes: number): void {
    if (Number.isFinite(bytes)) this.concurrent.allocatedDuring(gcId, bytes);
  }

  /** What a cycle of a heap in generations promoted. */
  addPromoted(gcId: number, bytes: number): void {
    const row = this.concurrent.rowOf(gcId);
    if (row !== NONE && bytes >= 0) this.recording.tables.collections.col.promotedBytes[row] = bytes;
  }

  /** What marking found alive. */
  addLive(gcId: number, bytes: number): void {
    const row = this.concurrent.rowOf(gcId);
    if (row !== NONE && bytes >= 0) this.recording.tables.collections.col.liveBytes[row] = bytes;
  }

  /** Every thread was stopped; the line was printed at `stampMs`, when all ran again. */
  addSafepoint(safepoint: SafepointMessage, stampMs: number, line: number): void {
    const endMs = this.place(NONE, stampMs, safepoint.totalMs);
    if (Number.isNaN(endMs)) return;
    const { safepoints } = this.recording.tables;
    const row = safepoints.addRow();
    safepoints.col.startMs[row] = endMs - safepoint.totalMs;
    safepoints.col.reachMs[row] = safepoint.reachMs;
    safepoints.col.totalMs[row] = safepoint.totalMs;
    safepoints.col.operationId[row] = this.recording.intern(safepoint.operation);
    safepoints.col.line[row] = line;
    safepoints.col.heapId[row] = this.heapId;
  }

  /** A concurrent cycle begins. */
  beginCycle(gcId: number, stampMs: number, line: number): void {
    const startMs = this.place(gcId, stampMs, 0);
    if (!Number.isNaN(startMs) && this.endedCycles.get(gcId) === NONE) this.cycleRow(gcId, startMs, line);
  }

  /** A concurrent cycle ends; `durationMs` counts its pauses too. */
  endCycle(gcId: number, label: string, durationMs: number, stampMs: number, line: number): void {
    const endMs = this.place(gcId, stampMs, durationMs);
    if (Number.isNaN(endMs) || this.endedCycles.get(gcId) !== NONE) return;
    const row = this.cycleRow(gcId, endMs - durationMs, line);
    const { col } = this.recording.tables.collections;
    col.startMs[row] = endMs - durationMs;
    col.endMs[row] = endMs;
    col.labelId[row] = this.recording.intern(label);
    col.concurrentMs[row] = Math.max(0, durationMs - this.pausedInside(row));
    col.flags[row]! &= ~CollectionFlag.unfinished;
    this.cycles.delete(gcId);
    this.endedCycles.set(gcId, row);
  }

  /** A line of a ZGC collection: its beginning, or its end with what it gave back. */
  zCycle(gcId: number, { label, release }: ZCycle, stampMs: number, line: number): void {
    const tMs = this.place(gcId, stampMs, 0);
    if (Number.isNaN(tMs)) return;
    const known = this.concurrent.rowOf(gcId);
    const row = known === NONE ? this.beginZCycle(gcId, label, tMs, line) : known;
    if (release === null || this.concurrent.isOver(row)) return;
    this.concurrent.release(gcId, this.recording.tables.collections.col.startMs[row]!, tMs, release);
    this.attachDetails(gcId, row);
  }

  private beginZCycle(gcId: number, label: string, startMs: number, line: number): number {
    const { labelId, causeId, collectionFlags } = this.labels.factsOf(label);
    return this.concurrent.begin(gcId, startMs, {
      scope: label.startsWith('Minor') ? Scope.young : Scope.whole,
      labelId,
      causeId,
      flags: CollectionFlag.endPrinted | (collectionFlags & (CollectionFlag.explicit | CollectionFlag.own)),
      line,
      byteOffset: this.byteOffset,
    });
  }

  /** What Shenandoah's next cycle is for, where somebody asked for it. */
  triggered(cause: string): void {
    if (this.labels.askedFor(cause) !== 0) this.nextCause = cause;
  }

  private isOwn(collectionRow: number): boolean {
    return (
      collectionRow !== NONE && (this.recording.tables.collections.col.flags[collectionRow]! & CollectionFlag.own) !== 0
    );
  }

  /** A concurrent step of a Shenandoah cycle; the first begins it, and those with sizes give memory back. */
  shenandoahStep(gcId: number, timed: TimedMessage | null, label: string, stampMs: number, line: number): void {
    const endMs = this.place(gcId, stampMs, timed?.durationMs ?? 0);
    if (Number.isNaN(endMs)) return;
    if (/^Concurrent reset(?! after)/.test(label)) {
      const part = causeOf(label);
      this.concurrent.begin(gcId, endMs - (timed?.durationMs ?? 0), {
        scope: part === 'Young' ? Scope.young : Scope.whole,
        labelId: this.recording.intern(part === '' ? 'Concurrent cycle' : `Concurrent cycle (${part})`),
        causeId: this.recording.intern(this.nextCause),
        flags: this.labels.askedFor(this.nextCause),
        line,
        byteOffset: this.byteOffset,
      });
      this.nextCause = '';
    }
    this.concurrent.reach(gcId, endMs);
    if (timed !== null && !Number.isNaN(timed.afterBytes))
      this.concurrent.release(gcId, endMs - timed.durationMs, endMs, timed);
  }

  /** A thread of the program waited for memory. */
  addStall(
    stall: { readonly label: string; readonly thread: string; readonly durationMs: number },
    stampMs: number,
    line: number,
  ): void {
    const endMs = this.place(NONE, stampMs, stall.durationMs);
    if (Number.isNaN(endMs)) return;
    const { stalls } = this.recording.tables;
    const row = stalls.addRow();
    stalls.col.startMs[row] = endMs - stall.durationMs;
    stalls.col.durationMs[row] = stall.durationMs;
    stalls.col.labelId[row] = this.recording.intern(stall.label);
    stalls.col.threadId[row] = this.recording.intern(stall.thread);
    stalls.col.line[row] = line;
    stalls.col.heapId[row] = this.heapId;
  }

  /** A thread was slowed down since this was last printed. */
  addPacing(row: PacingRow, stampMs: number, line: number): void {
    const toMs = this.place(NONE, stampMs, 0);
    if (Number.isNaN(toMs)) return;
    const { pacing } = this.recording.tables;
    const at = pacing.addRow();
    pacing.col.fromMs[at] = Math.max(0, toMs - row.overMs);
    pacing.col.toMs[at] = toMs;
    pacing.col.pacedMs[at] = row.pacedMs;
    pacing.col.threadId[at] = this.recording.intern(row.thread);
    pacing.col.line[at] = line;
    pacing.col.heapId[at] = this.heapId;
  }

  /** Used memory at an instant, of a collector that never collects. */
  addUsed(usedBytes: number, stampMs: number): void {
    const tMs = this.place(NONE, stampMs, 0);
    if (Number.isNaN(tMs)) return;
    const { sizes } = this.recording.tables;
    const row = sizes.addRow();
    sizes.col.tMs[row] = tMs;
    sizes.col.usedBytes[row] = usedBytes;
    sizes.col.heapId[row] = this.heapId;
  }

  /** The JVM said that it could not get the memory it needed; without a stamp, by then. */
  outOfMemory(stampMs: number): void {
    const tMs = Number.isNaN(stampMs) ? this.recording.durationMs : this.place(NONE, stampMs, 0);
    const heap = this.recording.heaps[this.heapId]!;
    if (Number.isNaN(heap.outOfMemoryMs) && this.hasEvents) heap.outOfMemoryMs = tMs;
  }

  /** The JVM printed its heap as it ended. */
  exited(stampMs: number): void {
    if (!Number.isNaN(stampMs) && this.hasEvents)
      this.recording.heaps[this.heapId]!.endMs = this.place(NONE, stampMs, 0);
  }

  /** The run ended; `lastStampMs` is the stamp of what was printed after its last event, NaN when nothing was. */
  finish(lastStampMs: number): void {
    this.recording.ended = true;
    if (this.recording.tables.pauses.length === 0) pausesFromSafepoints(this.recording, this.heapId);
    if (this.keys.areMixed) {
      this.recording.issues.add({
        code: 'programs-mixed',
        line: 0,
        byteOffset: 0,
        message:
          'gc log: the lines of several programs are mixed, and nothing in them tells the programs apart, so the figures are of all together; give each program a file of its own, or add pid to its -Xlog decorations',
      });
    }
    if (!Number.isNaN(lastStampMs) && this.hasEvents && this.recording.hasClock)
      this.recording.reach(lastStampMs - this.originMs);
  }

  private addCollection(
    gcId: number,
    timed: TimedMessage,
    endMs: number,
    { facts, line }: { readonly facts: LabelFacts; readonly line: number },
  ): number {
    const { collections } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    col.startMs[row] = endMs - timed.durationMs;
    col.endMs[row] = endMs;
    col.gcId[row] = gcId;
    col.usedBeforeBytes[row] = timed.beforeBytes;
    col.usedAfterBytes[row] = timed.afterBytes;
    col.capacityBytes[row] = timed.capacityBytes;
    col.resolutionBytes[row] = timed.resolutionBytes;
    col.labelId[row] = facts.labelId;
    col.causeId[row] = facts.causeId;
    col.line[row] = line;
    col.byteOffset[row] = this.byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = facts.scope;
    col.flags[row] = facts.collectionFlags;
    if (this.failed.size > 0 && this.failed.delete(gcId)) col.flags[row]! |= CollectionFlag.evacuationFailed;
    this.attachDetails(gcId, row);
    this.keys.sawCollection(gcId, endMs);
    this.stoppedGcId = gcId;
    this.stoppedRow = row;
    return row;
  }

  private attachDetails(gcId: number, collectionRow: number): void {
    const { col } = this.recording.tables.collections;
    if (col.scope[collectionRow] !== Scope.whole) {
      const promotedBytes = this.details.growthOf(gcId, JVM.oldSpaces);
      if (!Number.isNaN(promotedBytes)) col.promotedBytes[collectionRow] = promotedBytes;
    }
    this.details.fill(gcId, this.recording, collectionRow);
  }

  private cycleRow(gcId: number, startMs: number, line: number): number {
    const known = this.cycles.get(gcId);
    if (known !== NONE) return known;
    const { collections } = this.recording.tables;
    const row = collections.addRow();
    const { col } = collections;
    col.startMs[row] = startMs;
    col.endMs[row] = startMs;
    col.gcId[row] = gcId;
    col.labelId[row] = this.recording.intern('Concurrent Mark Cycle');
    col.line[row] = line;
    col.byteOffset[row] = this.byteOffset;
    col.heapId[row] = this.heapId;
    col.scope[row] = Scope.whole;
    col.flags[row] = CollectionFlag.concurrentCycle | CollectionFlag.unfinished;
    this.cycles.set(gcId, row);
    return row;
  }

  private extendCycle(row: number, timed: TimedMessage, endMs: number): void {
    const { col } = this.recording.tables.collections;
    if (Number.isNaN(col.usedBeforeBytes[row]!)) col.usedBeforeBytes[row] = timed.beforeBytes;
    if (!Number.isNaN(timed.afterBytes)) col.usedAfterBytes[row] = timed.afterBytes;
    col.resolutionBytes[row] = timed.resolutionBytes;
    if (col.endMs[row]! < endMs) col.endMs[row] = endMs;
  }

  private pausedInside(collectionRow: number): number {
    const { pauses } = this.recording.tables;
    let total = 0;
    for (let row = pauses.length - 1; row >= 0 && row > pauses.length - 64; row--) {
      if (pauses.col.collectionRow[row] === collectionRow) total += pauses.col.durationMs[row]!;
    }
    return total;
  }

  // Time 0 is the JVM's start when the log has its head, else the beginning of the first thing it tells.
  private place(gcId: number, stampMs: number, durationMs: number): number {
    if (this.within) {
      this.hasEvents = true;
      this.recording.reach(stampMs);
      return stampMs;
    }
    if (!this.hasEvents) {
      this.hasEvents = true;
      this.firstGcId = gcId;
      if (Number.isNaN(stampMs)) this.recording.hasClock = false;
      const whole = this.headSeen || this.firstGcId === 0;
      this.originMs = whole && this.recording.hasClock && stampMs < 1e11 ? 0 : stampMs - durationMs;
    }
    // Without a clock, the least time that must have passed orders the events.
    const endMs = this.recording.hasClock ? stampMs - this.originMs : this.recording.durationMs + durationMs;
    this.recording.reach(endMs);
    return endMs;
  }
}
