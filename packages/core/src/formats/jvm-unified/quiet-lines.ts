import {
  controlBytes,
  firstByte,
  type LineBatch,
  type Letters,
  makeLetters,
  SPARE_LETTERS,
  zeroBytes,
} from '../../base/line-batch.ts';
import { ascii, standsAt } from '../byte-text.ts';

const OPEN = 91;
const CLOSE = 93;
const COLON = 58;
const BLANK = 32;
const NEWLINE = 10;
const EVENT = ascii('GC(');

/** What a JVM prints of a program that can get no more memory: its own words, or a stack trace's first. */
export const OUT_OF_MEMORY = 'java.lang.OutOfMemoryError';

/** Most bytes that a line's first letters are looked at: longer ones tell nothing but by them. */
const MOST_LINE = 65_536;
const scratch = makeLetters(MOST_LINE);

/**
 * A text as bytes, ended by newlines, good until the next call: what is not ASCII becomes a byte that no word of the
 * collector's has.
 */
export function bytesOfLine(line: string): Letters {
  const { bytes } = scratch;
  const length = Math.min(MOST_LINE, line.length);
  for (let at = 0; at < length; at++) {
    const code = line.charCodeAt(at);
    bytes[at] = code < 128 && code !== NEWLINE ? code : 255;
  }
  bytes.fill(NEWLINE, length, length + SPARE_LETTERS);
  return scratch;
}

const CLOSES = 0x5d5d5d5d;

/** Where a closing bracket, a newline or another byte below 16 is next, at `from` or after it. */
export function closeOrControl(view: DataView, from: number): number {
  for (let at = from; ; at += 4) {
    const four = view.getInt32(at, true);
    const bits = zeroBytes(four ^ CLOSES) | controlBytes(four);
    if (bits !== 0) return at + firstByte(bits);
  }
}

/**
 * Offset behind the decorations of the line that begins at `from` and ends in a newline; `from` when it has none, −1
 * when a bracket is never closed, or a NUL byte stands in one.
 */
export function messageStart({ bytes, view }: Letters, from: number): number {
  let at = from;
  while (bytes[at] === OPEN) {
    at = closeOrControl(view, at + 1);
    while (bytes[at] !== CLOSE) {
      if (bytes[at] === NEWLINE || bytes[at] === 0) return -1;
      at = closeOrControl(view, at + 1);
    }
    at++;
  }
  return at > from && bytes[at] === BLANK ? at + 1 : at;
}

/** Where a word stands next in a batch that is gone through from line to line. Linear: what was found is remembered. */
export class NextWord {
  private readonly word: string;
  private serial = -1;
  private next = -1;

  constructor(word: string) {
    this.word = word;
  }

  /** At `from` or after it; ∞ where it does not. */
  after(batch: LineBatch, from: number): number {
    // One batch may say what the one before said, word by word.
    if (batch.serial !== this.serial) {
      this.serial = batch.serial;
      this.next = -1;
    }
    if (this.next < from) {
      const found = batch.text.indexOf(this.word, from);
      this.next = found < 0 ? Infinity : found;
    }
    return this.next;
  }
}

/** True where a closing bracket at `close` is followed by what begins another line: "][" or "] GC(". */
export function isGlued({ bytes, view }: Letters, close: number): boolean {
  return bytes[close + 1] === OPEN || (bytes[close + 1] === BLANK && standsAt(view, close + 2, EVENT));
}

const STARTS = {
  allocationStall: ascii('Allocation Stall ('),
  relocationStall: ascii('Relocation Stall ('),
  safepoint: ascii('Safepoint "'),
  stopped: ascii('Total time for which'),
  trigger: ascii('Trigger: '),
  heap: ascii('Heap'),
  maxCapacity: ascii('Max Capacity: '),
  outOfMemory: ascii('Out Of Memory ('),
  using: ascii('Using '),
  version: ascii('Version: '),
  of: ascii(' of '),
};

/**
 * True when the message at `at` may be one that is read: most of a detailed log is not, and is told by its first
 * letters.
 */
export function mayTell(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  if (isEvent(letters, at)) return eventMayTell(letters, afterId(letters, at));
  switch (bytes[at]) {
    case 65:
      return standsAt(view, at, STARTS.allocationStall); // A
    case 82:
      return standsAt(view, at, STARTS.relocationStall); // R
    case 83:
      return standsAt(view, at, STARTS.safepoint); // S
    case 84:
      return standsAt(view, at, STARTS.stopped) || standsAt(view, at, STARTS.trigger); // T
    case 72:
      return standsAt(view, at, STARTS.heap); // H
    case 77:
      return standsAt(view, at, STARTS.maxCapacity); // M
    case 79:
      return standsAt(view, at, STARTS.outOfMemory); // O
    case 85:
      return standsAt(view, at, STARTS.using); // U
    case 86:
      return standsAt(view, at, STARTS.version); // V
    case BLANK:
      return isPacingRow(letters, at);
    default:
      return false;
  }
}

/** True when the message is one of a collection, `GC(12) …`. */
export function isEvent(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  return bytes[at] === 71 && standsAt(view, at, EVENT);
}

const DETAILS = { metaspace: ascii('Metaspace'), pause: ascii('Pause ') };

/** True when what the message of an event tells needs no stamp: sizes, ages, processor times. */
export function isDetail(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  if (!isEvent(letters, at)) return false;
  const textAt = afterId(letters, at);
  switch (bytes[textAt]) {
    case 85:
    case 45:
    case 84:
    case 69:
    case 83:
    case 65:
    case 72:
    case 68:
    case BLANK:
      return true; // U - T E S A H D
    case 79:
    case 89:
    case 121:
      return bytes[textAt + 1] !== COLON || bytes[textAt + 3] === BLANK; // O Y y
    case 77:
      return standsAt(view, textAt, DETAILS.metaspace); // M
    case 80:
      return !standsAt(view, textAt, DETAILS.pause); // PSYoungGen, ParOldGen
    default:
      return false;
  }
}

// "      93 of   358 ms ( 26.0%): load-0".
function isPacingRow(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  let from = at;
  while (bytes[from] === BLANK) from++;
  const digits = from;
  for (let code = bytes[from]!; code >= 48 && code <= 57;) code = bytes[++from]!;
  return from > digits && standsAt(view, from, STARTS.of);
}

// Behind "GC(12) ".
function afterId(letters: Letters, at: number): number {
  const { bytes } = letters;
  let end = at + 3;
  for (let code = bytes[end]!; code >= 48 && code <= 57;) code = bytes[++end]!;
  return bytes[end] === NEWLINE ? end : end + 2;
}

const EVENTS = {
  pause: ascii('Pause '),
  psYoungGen: ascii('PSYoungGen: '),
  parOldGen: ascii('ParOldGen: '),
  garbageCollection: ascii('Garbage Collection ('),
  oldRegions: ascii('Old regions: '),
  metaspace: ascii('Metaspace: '),
  majorCollection: ascii('Major Collection ('),
  minorCollection: ascii('Minor Collection ('),
  user: ascii('User='),
  age: ascii('- age'),
};

/** The same of what an event's message says behind its id. */
export function eventMayTell(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  switch (bytes[at]) {
    case 80:
      return (
        standsAt(view, at, EVENTS.pause) ||
        standsAt(view, at, EVENTS.psYoungGen) ||
        standsAt(view, at, EVENTS.parOldGen)
      ); // P
    case 67:
      return concurrentStepAt(letters, at) !== ConcurrentStep.none; // C
    case 71:
      return standsAt(view, at, EVENTS.garbageCollection); // G
    case 89:
    case 121:
      return bytes[at + 1] === COLON && bytes[at + 2] === BLANK && eventMayTell(letters, at + 3); // Y y
    case 79:
      return bytes[at + 1] === COLON
        ? bytes[at + 2] === BLANK && eventMayTell(letters, at + 3)
        : standsAt(view, at, EVENTS.oldRegions); // O
    case 77:
      return (
        standsAt(view, at, EVENTS.metaspace) ||
        standsAt(view, at, EVENTS.majorCollection) ||
        standsAt(view, at, EVENTS.minorCollection)
      ); // M
    case 85:
      return standsAt(view, at, EVENTS.user); // U
    case 45:
      return standsAt(view, at, EVENTS.age); // -
    case BLANK:
      return isTableRow(letters, at);
    default:
      return isSpace(letters, at);
  }
}

/** True where the line of a ZGC collection begins. */
export function isZCycleAt({ view }: Letters, at: number): boolean {
  return (
    standsAt(view, at, EVENTS.garbageCollection) ||
    standsAt(view, at, EVENTS.majorCollection) ||
    standsAt(view, at, EVENTS.minorCollection)
  );
}

const SPACES = {
  tenured: ascii('Tenured: '),
  toSpace: ascii('To-space'),
  eden: ascii('Eden regions: '),
  survivor: ascii('Survivor regions: '),
  archive: ascii('Archive regions: '),
  allocated: ascii('Allocated: '),
  humongous: ascii('Humongous regions: '),
  defNew: ascii('DefNew: '),
};

function isSpace(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  switch (bytes[at]) {
    case 84:
      return standsAt(view, at, SPACES.tenured) || standsAt(view, at, SPACES.toSpace); // T
    case 69:
      return standsAt(view, at, SPACES.eden); // E
    case 83:
      return standsAt(view, at, SPACES.survivor); // S
    case 65:
      return standsAt(view, at, SPACES.archive) || standsAt(view, at, SPACES.allocated); // A
    case 72:
      return standsAt(view, at, SPACES.humongous); // H
    case 68:
      return standsAt(view, at, SPACES.defNew); // D
    default:
      return false;
  }
}

const STEPS = {
  concurrent: ascii('Concurrent '),
  markCycle: ascii('Mark Cycle'),
  undoCycle: ascii('Undo Cycle'),
  cycle: ascii('Cycle'),
  reset: ascii('reset'),
  cleanup: ascii('cleanup'),
};

/** What a message that begins with `Concurrent` tells: nothing, where a marking cycle begins or ends, or a step of Shenandoah's. */
export const ConcurrentStep = { none: 0, cycle: 1, shenandoah: 2 } as const;

/** Which of them stands at `at`. */
export function concurrentStepAt(letters: Letters, at: number): (typeof ConcurrentStep)[keyof typeof ConcurrentStep] {
  const { bytes, view } = letters;
  if (!standsAt(view, at, STEPS.concurrent)) return ConcurrentStep.none;
  const what = at + STEPS.concurrent.length;
  if (
    standsAt(view, what, STEPS.markCycle) ||
    standsAt(view, what, STEPS.undoCycle) ||
    standsAt(view, what, STEPS.cycle)
  )
    return ConcurrentStep.cycle;
  const word = standsAt(view, what, STEPS.reset) ? STEPS.reset : STEPS.cleanup;
  const isWhole = standsAt(view, what, word) && !isOfWord(bytes[what + word.length]!);
  return isWhole ? ConcurrentStep.shenandoah : ConcurrentStep.none;
}

function isOfWord(code: number): boolean {
  return (code >= 48 && code <= 57) || (code >= 65 && code <= 90) || (code >= 97 && code <= 122) || code === 95;
}

const ROWS = { used: ascii('Used: '), live: ascii('Live: '), promoted: ascii('Promoted: ') };

// Rows of tables: "     Used: …", " Allocated: …", " - age …".
function isTableRow(letters: Letters, at: number): boolean {
  const { bytes, view } = letters;
  let from = at;
  while (bytes[from] === BLANK) from++;
  switch (bytes[from]) {
    case 85:
      return standsAt(view, from, ROWS.used); // U
    case 76:
      return standsAt(view, from, ROWS.live); // L
    case 80:
      return standsAt(view, from, ROWS.promoted); // P
    case 65:
      return standsAt(view, from, SPACES.allocated); // A
    case 45:
      return standsAt(view, from, EVENTS.age); // -
    default:
      return false;
  }
}
