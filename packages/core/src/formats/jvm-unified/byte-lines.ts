import { type LineBatch, type Letters } from '../../base/line-batch.ts';
import { isTime } from '../../model/domain.ts';
import { ascii, findWord, standsAt, type Word } from '../byte-text.ts';
import { inMs, JvmByteScanner } from './byte-scanner.ts';
import type { JvmRun } from './jvm-run.ts';
import {
  closeOrEnd,
  ConcurrentStep,
  concurrentStepAt,
  eventMayTell,
  isEvent,
  isGlued,
  mayTell,
  messageStart,
  NextWord,
  OUT_OF_MEMORY,
} from './quiet-lines.ts';

const RETURN = 13;
const BLANK = 32;
const OPEN = 91;
const CLOSE = 93;
const COLON = 58;
const QUOTE = 34;
const COMMA = 44;
const PARENTHESIS = 40;
const CLOSED = 41;
/** A line was not one of those that are read here; told something of a collection; or was an event, with its time. */
const NOT_TAKEN = 0;
const DETAIL = 1;
const EVENT = 2;
type Taken = typeof NOT_TAKEN | typeof DETAIL | typeof EVENT;

const WORD = {
  arrow: ascii('->'),
  gcId: ascii(') '),
  pause: ascii('Pause '),
  user: ascii('User='),
  sys: ascii('s Sys='),
  real: ascii('s Real='),
  start: ascii('[gc,start'),
  used: ascii(' used,'),
  age: ascii('- age'),
  bytes: ascii(' bytes, '),
  total: ascii(' total'),
  safepoint: ascii('Safepoint "'),
  reaching: ascii(' Reaching safepoint: '),
  stopped: ascii(' Total: '),
  nanos: ascii(' ns'),
  nanosThen: ascii(' ns,'),
  carriage: ascii('\r'),
};
const SPACE = {
  eden: namedSpace('Eden'),
  survivor: namedSpace('Survivor'),
  old: namedSpace('Old'),
  archive: namedSpace('Archive'),
  humongous: namedSpace('Humongous'),
  psYoungGen: namedSpace('PSYoungGen'),
  parOldGen: namedSpace('ParOldGen'),
  defNew: namedSpace('DefNew'),
  tenured: namedSpace('Tenured'),
  metaspace: namedSpace('Metaspace'),
};

interface NamedSpace {
  readonly name: string;
  /** How its line begins: of those that are counted in regions, `Eden regions: `; of others, `DefNew: `. */
  readonly regions: Word;
  readonly sized: Word;
}

function namedSpace(name: string): NamedSpace {
  return { name, regions: ascii(`${name} regions: `), sized: ascii(`${name}: `) };
}

/** What becomes of a line that was read. */
export interface ByteLineSink {
  readonly run: JvmRun;
  /** A line that tells no event, in [from, to) of a batch. */
  sawIdleBytes(batch: LineBatch, from: number, to: number): void;
  sawEvent(): void;
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
  private readonly numbers = this.scanner.numbers;
  private readonly outOfMemory = new NextWord(OUT_OF_MEMORY);
  /** What is told of a space, in the same place each time. */
  private readonly space = { name: '', beforeBytes: NaN, afterBytes: NaN, capacityBytes: NaN };
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
    if (isOfCollection || standsAt(batch.view, at, WORD.safepoint)) {
      this.from = from;
      this.at = at;
      this.end = end;
      this.number = number;
      this.offset = offset;
      const told = isOfCollection ? this.takeEvent(batch) : this.takeSafepoint(batch);
      if (told === NOT_TAKEN) return -1;
      if (told === EVENT) {
        this.sink.sawEvent();
        return stop;
      }
    } else if (mayTell(batch, at)) return -1;
    this.sink.sawIdleBytes(batch, from, end);
    return stop;
  }

  // The newline of a line whose message begins at `at`; −1 where another line may stand within it.
  private endOf(batch: LineBatch, at: number): number {
    let stop = closeOrEnd(batch.view, at);
    // Without decorations a line may be the program's own, or one of the collector's that stands in it.
    if (this.isBare)
      return batch.bytes[stop] === CLOSE || !isEvent(batch, at) || this.outOfMemory.after(batch, at) < stop ? -1 : stop;
    for (; batch.bytes[stop] === CLOSE; stop = closeOrEnd(batch.view, stop + 1)) if (isGlued(batch, stop)) return -1;
    return stop;
  }

  private takeEvent(letters: Letters): Taken {
    const { bytes, view } = letters;
    const gcId = this.numbers.read(bytes, this.at + 3);
    const textAt = this.numbers.end + 2;
    if (Number.isNaN(gcId) || !standsAt(view, this.numbers.end, WORD.gcId)) return NOT_TAKEN;
    const told = this.takeText(letters, gcId, textAt);
    // Most of a detailed log tells nothing.
    return told === NOT_TAKEN && !eventMayTell(letters, textAt) ? DETAIL : told;
  }

  private takeText(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    switch (bytes[textAt]) {
      case 69:
        return this.takeRegions(letters, gcId, textAt, SPACE.eden); // E
      case 83:
        return this.takeRegions(letters, gcId, textAt, SPACE.survivor); // S
      case 65:
        return this.takeRegions(letters, gcId, textAt, SPACE.archive); // A
      case 72:
        return this.takeRegions(letters, gcId, textAt, SPACE.humongous); // H
      case 79: // O
        return bytes[textAt + 1] === COLON
          ? this.takeOfGeneration(letters, gcId, textAt)
          : this.takeRegions(letters, gcId, textAt, SPACE.old);
      case 89:
      case 121:
        return this.takeOfGeneration(letters, gcId, textAt); // Y y
      case 77:
        return this.takeGeneration(letters, gcId, textAt, SPACE.metaspace); // M
      case 68:
        return this.takeGeneration(letters, gcId, textAt, SPACE.defNew); // D
      case 84:
        return this.takeGeneration(letters, gcId, textAt, SPACE.tenured); // T
      case 80: // P
        if (standsAt(view, textAt, WORD.pause)) return this.takePause(letters, gcId, textAt);
        return this.takeGeneration(letters, gcId, textAt, bytes[textAt + 1] === 83 ? SPACE.psYoungGen : SPACE.parOldGen);
      case 85:
        return this.takeCpuTimes(letters, gcId, textAt); // U
      case 67:
        return this.takeConcurrent(letters, gcId, textAt); // C
      case 45:
        return this.takeAge(letters, gcId, textAt); // -
      default:
        return NOT_TAKEN;
    }
  }

  private takeOfGeneration(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    return bytes[textAt + 1] === COLON && bytes[textAt + 2] === BLANK && standsAt(view, textAt + 3, WORD.pause)
      ? this.takePause(letters, gcId, textAt)
      : NOT_TAKEN;
  }

  // Eden regions: 6->0(8)
  private takeRegions(letters: Letters, gcId: number, textAt: number, { name, regions }: NamedSpace): Taken {
    const { bytes, view } = letters;
    const { regionBytes } = this.sink.run;
    if (!standsAt(view, textAt, regions)) return NOT_TAKEN;
    const before = this.numbers.read(bytes, textAt + regions.length);
    if (!standsAt(view, this.numbers.end, WORD.arrow)) return NOT_TAKEN;
    const after = this.numbers.read(bytes, this.numbers.end + 2);
    if (Number.isNaN(before + after + regionBytes)) return NOT_TAKEN;
    return this.addSpace(gcId, name, before * regionBytes, after * regionBytes, NaN);
  }

  // ParOldGen: 0K(44032K)->904K(44032K)
  private takeGeneration(letters: Letters, gcId: number, textAt: number, { name, sized }: NamedSpace): Taken {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, sized)) return NOT_TAKEN;
    const { numbers } = this;
    const beforeBytes = numbers.readSize(bytes, textAt + sized.length);
    // ZGC tells of a metaspace that lies outside the heap, and of no collection of it.
    if (standsAt(view, numbers.end, WORD.used)) return DETAIL;
    // How large it was before stands there too, as a rule.
    if (bytes[numbers.end] === PARENTHESIS) {
      if (Number.isNaN(numbers.readSize(bytes, numbers.end + 1)) || bytes[numbers.end++] !== CLOSED) return NOT_TAKEN;
    }
    if (!standsAt(view, numbers.end, WORD.arrow)) return NOT_TAKEN;
    const afterBytes = numbers.readSize(bytes, numbers.end + 2);
    const capacityBytes = bytes[numbers.end] === PARENTHESIS ? numbers.readSize(bytes, numbers.end + 1) : NaN;
    if (Number.isNaN(beforeBytes + afterBytes + capacityBytes)) return NOT_TAKEN;
    return this.addSpace(gcId, name, beforeBytes, afterBytes, capacityBytes);
  }

  private addSpace(
    gcId: number,
    name: string,
    beforeBytes: number,
    afterBytes: number,
    capacityBytes: number,
  ): typeof DETAIL {
    const { space } = this;
    space.name = name;
    space.beforeBytes = beforeBytes;
    space.afterBytes = afterBytes;
    space.capacityBytes = capacityBytes;
    this.sink.run.addSpace(gcId, space);
    return DETAIL;
  }

  // User=0.01s Sys=0.00s Real=0.02s
  private takeCpuTimes(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, WORD.user)) return NOT_TAKEN;
    const user = this.numbers.read(bytes, textAt + 5);
    if (!standsAt(view, this.numbers.end, WORD.sys)) return NOT_TAKEN;
    const sys = this.numbers.read(bytes, this.numbers.end + 6);
    if (!standsAt(view, this.numbers.end, WORD.real)) return NOT_TAKEN;
    const real = this.numbers.read(bytes, this.numbers.end + 7);
    if (Number.isNaN(user + sys + real) || bytes[this.numbers.end] !== 115) return NOT_TAKEN;
    this.sink.run.addCpuTimes(gcId, { userMs: inMs(user), sysMs: inMs(sys), realMs: inMs(real) });
    return DETAIL;
  }

  // - age   2:    1031176 bytes,    5184512 total
  private takeAge(letters: Letters, gcId: number, textAt: number): Taken {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, WORD.age)) return NOT_TAKEN;
    const { numbers } = this;
    const age = numbers.read(bytes, afterBlanks(bytes, textAt + 5));
    if (bytes[numbers.end] !== COLON) return NOT_TAKEN;
    const size = numbers.read(bytes, afterBlanks(bytes, numbers.end + 1));
    if (!standsAt(view, numbers.end, WORD.bytes)) return NOT_TAKEN;
    const total = numbers.read(bytes, afterBlanks(bytes, numbers.end + 8));
    if (!standsAt(view, numbers.end, WORD.total) || !Number.isInteger(age + size + total)) return NOT_TAKEN;
    this.sink.run.addAge(gcId, { age, bytes: size });
    return DETAIL;
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
  private takeSafepoint(letters: Letters): Taken {
    const { bytes, view } = letters;
    const { numbers, at, end } = this;
    const stampMs = this.stampMs(letters);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    let quote = at + WORD.safepoint.length;
    while (quote < end && bytes[quote] !== QUOTE) quote++;
    const reaching = findWord(view, quote, end, WORD.reaching);
    // A line that was cut by a return within it is damaged.
    if (reaching < 0 || findWord(view, at, end, WORD.carriage) >= 0) return NOT_TAKEN;
    const reach = numbers.read(bytes, reaching + WORD.reaching.length);
    if (!standsAt(view, numbers.end, WORD.nanosThen)) return NOT_TAKEN;
    const stopped = findWord(view, numbers.end, end, WORD.stopped);
    if (stopped < 0) return NOT_TAKEN;
    const total = numbers.read(bytes, stopped + WORD.stopped.length);
    if (!standsAt(view, numbers.end, WORD.nanos) || !Number.isInteger(reach + total)) return NOT_TAKEN;
    const last = numbers.end + WORD.nanos.length;
    if (last !== end && bytes[last] !== COMMA) return NOT_TAKEN;
    this.sink.run.byteOffset = this.offset;
    this.sink.run.addSafepoint(
      {
        operation: this.scanner.labels.of(letters, at + WORD.safepoint.length, quote),
        reachMs: reach / 1e6,
        totalMs: total / 1e6,
      },
      stampMs,
      this.number,
    );
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

  // A line that begins a pause, in words alone: one that was cut off ends otherwise.
  private passStart(letters: Letters): Taken {
    const { bytes, view } = letters;
    const { from, at, end } = this;
    if (!this.endsInWords(letters)) return NOT_TAKEN;
    if (!this.isBare && !standsAt(view, lastOpen(bytes, from, at), WORD.start)) return NOT_TAKEN;
    return findWord(view, at, end, WORD.arrow) >= 0 ? NOT_TAKEN : EVENT;
  }

  private isTold(stampMs: number): boolean {
    return this.isBare || (!Number.isNaN(stampMs) && isTime(stampMs));
  }

  // NaN without decorations.
  private stampMs(letters: Letters): number {
    if (this.isBare) return NaN;
    const isWallClockKnown = !Number.isNaN(this.sink.run.recording.startEpochMs);
    return this.scanner.uptimeMs(letters, this.from, this.at, isWallClockKnown);
  }

  private endsInWords(letters: Letters): boolean {
    const { bytes } = letters;
    const last = bytes[this.end - 1]!;
    const isUnit = last === 115 && bytes[this.end - 2] === 109;
    return last === CLOSED || (last >= 97 && last <= 122 && !isUnit);
  }
}

function afterBlanks(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === BLANK) at++;
  return at;
}

function lastOpen(bytes: Uint8Array, from: number, at: number): number {
  let open = at - 1;
  while (open > from && bytes[open] !== OPEN) open--;
  return open;
}
