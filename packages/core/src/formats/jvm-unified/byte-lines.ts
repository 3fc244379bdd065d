import { type LineBatch, type Letters } from '../../base/line-batch.ts';
import { isTime } from '../../model/domain.ts';
import { ascii, findWord, standsAt } from '../byte-text.ts';
import { JvmByteDetails } from './byte-details.ts';
import { JvmByteScanner } from './byte-scanner.ts';
import { ByteStamp } from './byte-stamp.ts';
import type { JvmRun } from './jvm-run.ts';
import {
  closeOrControl,
  ConcurrentStep,
  concurrentStepAt,
  eventMayTell,
  isEvent,
  isGlued,
  isZCycleAt,
  mayTell,
  messageStart,
  NextWord,
  OUT_OF_MEMORY,
} from './quiet-lines.ts';

const TAB = 9;
const NEWLINE = 10;
const RETURN = 13;
const BLANK = 32;
const OPEN = 91;
const CLOSE = 93;
const ZERO = 48;
const COLON = 58;
const A = 65;
const M = 77;
const CLOSED = 41;
/** A line was not one of those that are read here; told something of a collection; or was an event, with its time. */
const NOT_TAKEN = 0;
const DETAIL = 1;
const EVENT = 2;
type Taken = typeof NOT_TAKEN | typeof DETAIL | typeof EVENT;

/** More digits than a double holds are no id. */
const MOST_DIGITS = 15;
/** What tells something wherever it stands in a message. */
const SAYS_MORE = new RegExp(` Stall \\(|${OUT_OF_MEMORY.replaceAll('.', '\\.')}`);
const WORD = {
  arrow: ascii('->'),
  gcId: ascii(') '),
  pause: ascii('Pause '),
  gcTag: ascii('[gc'),
  safepoint: ascii('Safepoint "'),
  heap: ascii('Heap: '),
  bar: ascii('|'),
  carriage: ascii('\r'),
};

/** What becomes of a line that was read. */
export interface ByteLineSink {
  readonly run: JvmRun;
  /** A line that tells no event, in [from, to) of a batch. */
  sawIdleBytes(batch: LineBatch, from: number, to: number): void;
  sawEvent(): void;
  /** Milliseconds on the run's clock of a line that carries these, NaN for what it does not. */
  stampOf(uptimeMs: number, epochMs: number): number;
  tookRepeated(number: number, offset: number): void;
}

/**
 * Reads the commonest lines of a unified log as the bytes they are: what tells nothing, sizes of spaces, processor times,
 * and pauses stamped with the time since the JVM's start. What is unusual in any way is left to the reader of texts,
 * which says the same of these lines: test/formats/byte-lines compares the two.
 */
export class JvmByteLines {
  private readonly sink: ByteLineSink;
  private readonly scanner = new JvmByteScanner();
  private readonly stamp = new ByteStamp();
  private readonly details: JvmByteDetails;
  private readonly outOfMemory = new NextWord(OUT_OF_MEMORY);
  /** It has no decorations: nothing tells its time. */
  private isBare = false;
  /** The line that is read: where it begins, where its message does, where both end; its number and place in the input. */
  private from = 0;
  private at = 0;
  private end = 0;
  private number = 0;
  private offset = 0;

  constructor(sink: ByteLineSink) {
    this.sink = sink;
    this.details = new JvmByteDetails(sink.run, this.scanner.numbers);
  }

  /** Takes the line that begins at `from` of a batch: where its newline is, −1 when it was not taken. */
  take(batch: LineBatch, from: number, number: number, offset: number): number {
    const { bytes } = batch;
    this.isBare = bytes[from] !== OPEN;
    const at = this.isBare ? from : messageStart(batch, from);
    if (at < 0) return -1;
    const stop = this.endOf(batch, at);
    if (stop < 0) return -1;
    const end = bytes[stop - 1] === RETURN && stop > from ? stop - 1 : stop;
    const isOfCollection = isEvent(batch, at);
    this.from = from;
    this.at = at;
    this.end = end;
    this.number = number;
    this.offset = offset;
    if (isOfCollection || standsAt(batch.view, at, WORD.safepoint)) {
      const told = isOfCollection ? this.takeEvent(batch) : this.takeSafepoint(batch);
      if (told === NOT_TAKEN) return -1;
      if (told === EVENT) {
        this.sink.sawEvent();
        return stop;
      }
    } else if (mayTell(batch, at)) return !this.isBare && this.takeOther(batch, at, end) ? stop : -1;
    this.sink.sawIdleBytes(batch, from, end);
    return stop;
  }

  // The newline of a line whose message begins at `at`; −1 where another line may stand within it, and where a NUL byte
  // does.
  private endOf(batch: LineBatch, at: number): number {
    const { bytes, view } = batch;
    let stop = closeOrControl(view, at);
    for (; bytes[stop] !== NEWLINE; stop = closeOrControl(view, stop + 1)) {
      // Without decorations a line may be the program's own, or one of the collector's that stands in it.
      if (bytes[stop] === CLOSE && (this.isBare || isGlued(batch, stop))) return -1;
      if (bytes[stop] === 0) return -1;
    }
    if (!this.isBare) return stop;
    if (!(isEvent(batch, at) || isNobodys(batch, at, stop))) return -1;
    return this.outOfMemory.after(batch, at) < stop ? -1 : stop;
  }

  // Rows of Shenandoah's table of pacing, and what Epsilon prints of its heap.
  private takeOther(batch: LineBatch, at: number, end: number): boolean {
    // A line that was cut by a return within it is damaged.
    if (findWord(batch.view, at, end, WORD.carriage) >= 0) return false;
    const { run } = this.sink;
    const isRow = batch.bytes[at] === BLANK;
    if (!isRow && !standsAt(batch.view, at, WORD.heap)) return false;
    const usedBytes = isRow ? NaN : this.scanner.readEpsilonUsed(batch, at, end);
    const pacing = isRow ? this.scanner.readPacing(batch, at, end) : null;
    // What a thread's name may hold of other messages is looked for in the text.
    if (pacing !== null && SAYS_MORE.test(pacing.thread)) return false;
    const stampMs = pacing !== null || !Number.isNaN(usedBytes) ? this.stampMs(batch) : NaN;
    if (!this.isTold(stampMs)) return false;
    if (pacing === null) {
      run.addUsed(usedBytes, stampMs);
      this.sink.sawEvent();
    } else if (!pacing.thread.startsWith('<')) run.addPacing(pacing, stampMs, this.number);
    return true;
  }

  private takeEvent(letters: Letters): Taken {
    const { bytes, view } = letters;
    const idAt = this.at + 3;
    let gcId = 0;
    let idEnd = idAt;
    for (let digit = bytes[idEnd]! - ZERO; digit >>> 0 <= 9; digit = bytes[++idEnd]! - ZERO) gcId = gcId * 10 + digit;
    if (idEnd === idAt || idEnd > idAt + MOST_DIGITS || !standsAt(view, idEnd, WORD.gcId)) return NOT_TAKEN;
    const textAt = idEnd + 2;
    const told = this.takeText(letters, gcId, textAt);
    // Most of a detailed log tells nothing.
    return told === NOT_TAKEN && !eventMayTell(letters, textAt) ? DETAIL : told;
  }

  private takeText(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    switch (bytes[textAt]) {
      case 80: // P
        if (standsAt(view, textAt, WORD.pause)) return this.takePause(letters, gcId, textAt);
        break;
      case 79:
      case 89:
      case 121: // O Y y
        if (bytes[textAt + 1] === COLON) return this.takeOfGeneration(letters, gcId, textAt);
        break;
      case 67:
        return this.takeConcurrent(letters, gcId, textAt); // C
      case 71:
      case 77: // G M
        if (isZCycleAt(letters, textAt)) return this.takeZCycle(letters, gcId, textAt);
    }
    return this.details.take(letters, gcId, textAt) ? DETAIL : NOT_TAKEN;
  }

  // What follows the letter of a generation: a pause, a row of a table, or a metaspace that is told for all of them.
  private takeOfGeneration(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    if (bytes[textAt + 2] !== BLANK) return NOT_TAKEN;
    const at = textAt + 3;
    const generation = String.fromCharCode(bytes[textAt]!);
    if (bytes[at] === BLANK) return this.details.takeStepRow(letters, gcId, at, generation) ? DETAIL : NOT_TAKEN;
    if (standsAt(view, at, WORD.pause)) return this.takePause(letters, gcId, textAt);
    if ((bytes[at] !== A && bytes[at] !== M) || !this.isTold(this.stampMs(letters))) return NOT_TAKEN;
    const isTaken =
      bytes[at] === A ? this.details.takeStepRow(letters, gcId, at, generation) : this.details.take(letters, gcId, at);
    return isTaken ? EVENT : NOT_TAKEN;
  }

  // Concurrent Mark Cycle, at its start, and with its time at its end; or a step of Shenandoah's.
  private takeConcurrent(letters: Letters, gcId: number, textAt: number): Taken {
    const step = concurrentStepAt(letters, textAt);
    if (step === ConcurrentStep.none) return NOT_TAKEN;
    const stampMs = this.stampMs(letters);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    const timed = this.scanner.readTimed(letters, textAt, this.end);
    if (timed === null && !this.endsInWords(letters)) return NOT_TAKEN;
    const { run } = this.sink;
    run.byteOffset = this.offset;
    if (step === ConcurrentStep.shenandoah)
      run.shenandoahStep(
        gcId,
        timed,
        timed?.label ?? this.scanner.labels.of(letters, textAt, this.end),
        stampMs,
        this.number,
      );
    else if (timed === null) run.beginCycle(gcId, stampMs, this.number);
    else run.endCycle(gcId, timed.label, timed.durationMs, stampMs, this.number);
    return EVENT;
  }

  // Safepoint "G1CollectFull", Time since last: 21068894 ns, Reaching safepoint: 9249 ns, …, Total: 12590123 ns
  private takeSafepoint(batch: LineBatch): Taken {
    const stampMs = this.stampMs(batch);
    // A line that was cut by a return within it is damaged.
    if (!this.isTold(stampMs) || findWord(batch.view, this.at, this.end, WORD.carriage) >= 0) return NOT_TAKEN;
    const safepoint = this.scanner.readSafepoint(batch, this.at, this.end);
    if (safepoint === null) return NOT_TAKEN;
    this.sink.run.byteOffset = this.offset;
    this.sink.run.addSafepoint(safepoint, stampMs, this.number);
    return EVENT;
  }

  // Garbage Collection (Warmup), or with what it gave back: … 40M(31%)->22M(17%), and since JDK 21 the time it took.
  private takeZCycle(letters: Letters, gcId: number, textAt: number): Taken {
    const stampMs = this.stampMs(letters);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    const cycle = this.scanner.readCycle(letters, textAt, this.end);
    if (cycle === null) return NOT_TAKEN;
    this.sink.run.byteOffset = this.offset;
    this.sink.run.zCycle(gcId, cycle, stampMs, this.number);
    return EVENT;
  }

  // Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) 22.797ms, or the line at its start.
  private takePause(letters: Letters, gcId: number, textAt: number): Taken {
    const stampMs = this.stampMs(letters);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    const timed = this.scanner.readTimed(letters, textAt, this.end);
    if (timed === null) return this.passStart(letters);
    this.sink.run.byteOffset = this.offset;
    if (!this.sink.run.addPause(gcId, timed, stampMs, this.number)) this.sink.tookRepeated(this.number, this.offset);
    return EVENT;
  }

  // A line that begins a pause, in words alone: one that was cut off ends otherwise, and may have the tag of its end.
  private passStart(letters: Letters): Taken {
    const { bytes, view } = letters;
    const { from, at, end } = this;
    if (!this.endsInWords(letters)) return NOT_TAKEN;
    if (!this.isBare) {
      for (let tag = findWord(view, from, at, WORD.gcTag); tag >= 0; tag = findWord(view, tag + 1, at, WORD.gcTag))
        if (bytes[tag + 3] === CLOSE || bytes[tag + 3] === BLANK) return NOT_TAKEN;
    }
    return findWord(view, at, end, WORD.arrow) >= 0 ? NOT_TAKEN : EVENT;
  }

  private isTold(stampMs: number): boolean {
    return this.isBare || (!Number.isNaN(stampMs) && isTime(stampMs));
  }

  // NaN without decorations, and where they are unusual.
  private stampMs(letters: Letters): number {
    const { stamp, sink } = this;
    if (this.isBare || !stamp.read(letters, this.from, this.at)) return NaN;
    if (Number.isNaN(stamp.uptimeMs) && Number.isNaN(stamp.epochMs)) return NaN;
    const isClockKnown = !Number.isNaN(sink.run.recording.startEpochMs);
    if (Number.isNaN(stamp.uptimeMs) || !(isClockKnown || Number.isNaN(stamp.epochMs)))
      return sink.stampOf(stamp.uptimeMs, stamp.epochMs);
    stamp.skipsDates = isClockKnown;
    return stamp.uptimeMs;
  }

  private endsInWords(letters: Letters): boolean {
    const { bytes } = letters;
    const last = bytes[this.end - 1]!;
    const isUnit = last === 115 && bytes[this.end - 2] === 109;
    return last === CLOSED || (last >= 97 && last <= 122 && !isUnit);
  }
}

// A bare line that is in nobody's wrapping: they begin with a date, a brace or a name before a bar.
function isNobodys({ bytes, view }: Letters, from: number, to: number): boolean {
  const first = bytes[from]!;
  if (first === BLANK || first === TAB) return true;
  const isLetter = (first | 32) >= 97 && (first | 32) <= 122;
  return isLetter && bytes[from + 3] !== BLANK && findWord(view, from, to, WORD.bar) < 0;
}
