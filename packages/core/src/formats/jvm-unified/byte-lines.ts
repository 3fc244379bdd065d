import type { LineBatch } from '../../base/line-splitter.ts';
import { isTime } from '../../model/domain.ts';
import { ascii, findWord, standsAt } from '../byte-text.ts';
import { inMs, JvmByteScanner } from './byte-scanner.ts';
import type { JvmRun } from './jvm-run.ts';
import {
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
  readonly regions: Uint8Array;
  readonly sized: Uint8Array;
}

function namedSpace(name: string): NamedSpace {
  return { name, regions: ascii(`${name} regions: `), sized: ascii(`${name}: `) };
}

/** What becomes of a line that was read. */
export interface ByteLineSink {
  readonly run: JvmRun;
  /** A line that tells no event, in [from, to) of a text. */
  sawIdle(text: string, from: number, to: number): void;
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
  private readonly closes = new NextWord(']');
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
  }

  /** Takes the line in [from, to) of a batch; false when it was not taken. */
  take(batch: LineBatch, from: number, to: number, number: number, offset: number): boolean {
    const { bytes } = batch;
    this.isBare = bytes[from] !== OPEN;
    const at = this.isBare ? from : messageStart(bytes, from);
    if (at < 0) return false;
    // Without decorations a line may be the program's own, or one of the collector's that stands in it.
    if (this.isBare ? !this.isPlainEvent(batch, from, to) : isGlued(this.closes, batch, at, to)) return false;
    const end = bytes[to - 1] === RETURN ? to - 1 : to;
    const isOfCollection = isEvent(bytes, at);
    if (isOfCollection || standsAt(bytes, at, WORD.safepoint)) {
      this.from = from;
      this.at = at;
      this.end = end;
      this.number = number;
      this.offset = offset;
      const told = isOfCollection ? this.takeEvent(bytes) : this.takeSafepoint(bytes);
      if (told === NOT_TAKEN) return false;
      if (told === EVENT) {
        this.sink.sawEvent();
        return true;
      }
    } else if (mayTell(bytes, at)) return false;
    this.sink.sawIdle(batch.text, from, end);
    return true;
  }

  private isPlainEvent(batch: LineBatch, from: number, to: number): boolean {
    return (
      isEvent(batch.bytes, from) && this.closes.after(batch, from) >= to && this.outOfMemory.after(batch, from) >= to
    );
  }

  private takeEvent(bytes: Uint8Array): Taken {
    const gcId = this.numbers.read(bytes, this.at + 3);
    const textAt = this.numbers.end + 2;
    if (Number.isNaN(gcId) || !standsAt(bytes, this.numbers.end, WORD.gcId)) return NOT_TAKEN;
    const told = this.takeText(bytes, gcId, textAt);
    // Most of a detailed log tells nothing.
    return told === NOT_TAKEN && !eventMayTell(bytes, textAt) ? DETAIL : told;
  }

  private takeText(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    switch (bytes[textAt]) {
      case 69:
        return this.takeRegions(bytes, gcId, textAt, SPACE.eden); // E
      case 83:
        return this.takeRegions(bytes, gcId, textAt, SPACE.survivor); // S
      case 65:
        return this.takeRegions(bytes, gcId, textAt, SPACE.archive); // A
      case 72:
        return this.takeRegions(bytes, gcId, textAt, SPACE.humongous); // H
      case 79: // O
        return bytes[textAt + 1] === COLON
          ? this.takeOfGeneration(bytes, gcId, textAt)
          : this.takeRegions(bytes, gcId, textAt, SPACE.old);
      case 89:
      case 121:
        return this.takeOfGeneration(bytes, gcId, textAt); // Y y
      case 77:
        return this.takeGeneration(bytes, gcId, textAt, SPACE.metaspace); // M
      case 68:
        return this.takeGeneration(bytes, gcId, textAt, SPACE.defNew); // D
      case 84:
        return this.takeGeneration(bytes, gcId, textAt, SPACE.tenured); // T
      case 80: // P
        if (standsAt(bytes, textAt, WORD.pause)) return this.takePause(bytes, gcId, textAt);
        return this.takeGeneration(bytes, gcId, textAt, bytes[textAt + 1] === 83 ? SPACE.psYoungGen : SPACE.parOldGen);
      case 85:
        return this.takeCpuTimes(bytes, gcId, textAt); // U
      case 67:
        return this.takeConcurrent(bytes, gcId, textAt); // C
      case 45:
        return this.takeAge(bytes, gcId, textAt); // -
      default:
        return NOT_TAKEN;
    }
  }

  private takeOfGeneration(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    return bytes[textAt + 1] === COLON && bytes[textAt + 2] === BLANK && standsAt(bytes, textAt + 3, WORD.pause)
      ? this.takePause(bytes, gcId, textAt)
      : NOT_TAKEN;
  }

  // Eden regions: 6->0(8)
  private takeRegions(bytes: Uint8Array, gcId: number, textAt: number, { name, regions }: NamedSpace): Taken {
    const { regionBytes } = this.sink.run;
    if (!standsAt(bytes, textAt, regions)) return NOT_TAKEN;
    const before = this.numbers.read(bytes, textAt + regions.length);
    if (!standsAt(bytes, this.numbers.end, WORD.arrow)) return NOT_TAKEN;
    const after = this.numbers.read(bytes, this.numbers.end + 2);
    if (Number.isNaN(before + after + regionBytes)) return NOT_TAKEN;
    this.sink.run.addSpace(gcId, {
      name,
      beforeBytes: before * regionBytes,
      afterBytes: after * regionBytes,
      capacityBytes: NaN,
    });
    return DETAIL;
  }

  // ParOldGen: 0K(44032K)->904K(44032K)
  private takeGeneration(bytes: Uint8Array, gcId: number, textAt: number, { name, sized }: NamedSpace): Taken {
    if (!standsAt(bytes, textAt, sized)) return NOT_TAKEN;
    const { numbers } = this;
    const beforeBytes = numbers.readSize(bytes, textAt + sized.length);
    // ZGC tells of a metaspace that lies outside the heap, and of no collection of it.
    if (standsAt(bytes, numbers.end, WORD.used)) return DETAIL;
    // How large it was before stands there too, as a rule.
    if (bytes[numbers.end] === PARENTHESIS) {
      if (Number.isNaN(numbers.readSize(bytes, numbers.end + 1)) || bytes[numbers.end++] !== CLOSED) return NOT_TAKEN;
    }
    if (!standsAt(bytes, numbers.end, WORD.arrow)) return NOT_TAKEN;
    const afterBytes = numbers.readSize(bytes, numbers.end + 2);
    const capacityBytes = bytes[numbers.end] === PARENTHESIS ? numbers.readSize(bytes, numbers.end + 1) : NaN;
    if (Number.isNaN(beforeBytes + afterBytes + capacityBytes)) return NOT_TAKEN;
    this.sink.run.addSpace(gcId, { name, beforeBytes, afterBytes, capacityBytes });
    return DETAIL;
  }

  // User=0.01s Sys=0.00s Real=0.02s
  private takeCpuTimes(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    if (!standsAt(bytes, textAt, WORD.user)) return NOT_TAKEN;
    const user = this.numbers.read(bytes, textAt + 5);
    if (!standsAt(bytes, this.numbers.end, WORD.sys)) return NOT_TAKEN;
    const sys = this.numbers.read(bytes, this.numbers.end + 6);
    if (!standsAt(bytes, this.numbers.end, WORD.real)) return NOT_TAKEN;
    const real = this.numbers.read(bytes, this.numbers.end + 7);
    if (Number.isNaN(user + sys + real) || bytes[this.numbers.end] !== 115) return NOT_TAKEN;
    this.sink.run.addCpuTimes(gcId, { userMs: inMs(user), sysMs: inMs(sys), realMs: inMs(real) });
    return DETAIL;
  }

  // - age   2:    1031176 bytes,    5184512 total
  private takeAge(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    if (!standsAt(bytes, textAt, WORD.age)) return NOT_TAKEN;
    const { numbers } = this;
    const age = numbers.read(bytes, afterBlanks(bytes, textAt + 5));
    if (bytes[numbers.end] !== COLON) return NOT_TAKEN;
    const size = numbers.read(bytes, afterBlanks(bytes, numbers.end + 1));
    if (!standsAt(bytes, numbers.end, WORD.bytes)) return NOT_TAKEN;
    const total = numbers.read(bytes, afterBlanks(bytes, numbers.end + 8));
    if (!standsAt(bytes, numbers.end, WORD.total) || !Number.isInteger(age + size + total)) return NOT_TAKEN;
    this.sink.run.addAge(gcId, { age, bytes: size });
    return DETAIL;
  }

  // Concurrent Mark Cycle, at its start, and with its time at its end; or a step of Shenandoah's.
  private takeConcurrent(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    const step = concurrentStepAt(bytes, textAt);
    if (step === ConcurrentStep.none) return NOT_TAKEN;
    const stampMs = this.stampMs(bytes);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    const timed = this.scanner.readTimed(bytes, textAt, this.end);
    if (timed === null && !this.endsInWords(bytes)) return NOT_TAKEN;
    const { run } = this.sink;
    run.byteOffset = this.offset;
    if (step === ConcurrentStep.shenandoah)
      run.shenandoahStep(
        gcId,
        timed,
        timed?.label ?? this.scanner.labels.of(bytes, textAt, this.end),
        stampMs,
        this.number,
      );
    else if (timed === null) run.beginCycle(gcId, stampMs, this.number);
    else run.endCycle(gcId, timed.label, timed.durationMs, stampMs, this.number);
    return EVENT;
  }

  // Safepoint "G1CollectFull", Time since last: 21068894 ns, Reaching safepoint: 9249 ns, …, Total: 12590123 ns
  private takeSafepoint(bytes: Uint8Array): Taken {
    const { numbers, at, end } = this;
    const stampMs = this.stampMs(bytes);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    let quote = at + WORD.safepoint.length;
    while (quote < end && bytes[quote] !== QUOTE) quote++;
    const reaching = findWord(bytes, quote, end, WORD.reaching);
    // A line that was cut by a return within it is damaged.
    if (reaching < 0 || findWord(bytes, at, end, WORD.carriage) >= 0) return NOT_TAKEN;
    const reach = numbers.read(bytes, reaching + WORD.reaching.length);
    if (!standsAt(bytes, numbers.end, WORD.nanosThen)) return NOT_TAKEN;
    const stopped = findWord(bytes, numbers.end, end, WORD.stopped);
    if (stopped < 0) return NOT_TAKEN;
    const total = numbers.read(bytes, stopped + WORD.stopped.length);
    if (!standsAt(bytes, numbers.end, WORD.nanos) || !Number.isInteger(reach + total)) return NOT_TAKEN;
    const last = numbers.end + WORD.nanos.length;
    if (last !== end && bytes[last] !== COMMA) return NOT_TAKEN;
    this.sink.run.byteOffset = this.offset;
    this.sink.run.addSafepoint(
      {
        operation: this.scanner.labels.of(bytes, at + WORD.safepoint.length, quote),
        reachMs: reach / 1e6,
        totalMs: total / 1e6,
      },
      stampMs,
      this.number,
    );
    return EVENT;
  }

  // Pause Young (Normal) (G1 Evacuation Pause) 6M->2M(64M) 22.797ms, or the line at its start.
  private takePause(bytes: Uint8Array, gcId: number, textAt: number): Taken {
    const stampMs = this.stampMs(bytes);
    if (!this.isTold(stampMs)) return NOT_TAKEN;
    const timed = this.scanner.readTimed(bytes, textAt, this.end);
    if (timed === null) return this.passStart(bytes);
    this.sink.run.byteOffset = this.offset;
    if (!this.sink.run.addPause(gcId, timed, stampMs, this.number)) this.sink.tookRepeated(this.number, this.offset);
    return EVENT;
  }

  // A line that begins a pause, in words alone: one that was cut off ends otherwise.
  private passStart(bytes: Uint8Array): Taken {
    const { from, at, end } = this;
    if (!this.endsInWords(bytes)) return NOT_TAKEN;
    if (!this.isBare && !standsAt(bytes, lastOpen(bytes, from, at), WORD.start)) return NOT_TAKEN;
    return findWord(bytes, at, end, WORD.arrow) >= 0 ? NOT_TAKEN : EVENT;
  }

  private isTold(stampMs: number): boolean {
    return this.isBare || (!Number.isNaN(stampMs) && isTime(stampMs));
  }

  // NaN without decorations.
  private stampMs(bytes: Uint8Array): number {
    if (this.isBare) return NaN;
    const isWallClockKnown = !Number.isNaN(this.sink.run.recording.startEpochMs);
    return this.scanner.uptimeMs(bytes, this.from, this.at, isWallClockKnown);
  }

  private endsInWords(bytes: Uint8Array): boolean {
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
