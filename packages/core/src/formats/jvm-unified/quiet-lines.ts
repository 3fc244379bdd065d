import type { LineBatch } from '../../base/line-splitter.ts';
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
const ENDS = 4;
const scratch = new Uint8Array(MOST_LINE + ENDS);

/**
 * A text as bytes, ended by newlines, good until the next call: what is not ASCII becomes a byte that no word of the
 * collector's has.
 */
export function bytesOfLine(line: string): Uint8Array {
  const length = Math.min(MOST_LINE, line.length);
  for (let at = 0; at < length; at++) {
    const code = line.charCodeAt(at);
    scratch[at] = code < 128 && code !== NEWLINE ? code : 255;
  }
  scratch.fill(NEWLINE, length, length + ENDS);
  return scratch;
}

/**
 * Offset behind the decorations of the line that begins at `from` and ends in a newline; `from` when it has none, −1
 * when a bracket is never closed.
 */
export function messageStart(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === OPEN) {
    let code = bytes[++at];
    while (code !== CLOSE && code !== NEWLINE) code = bytes[++at];
    if (code === NEWLINE) return -1;
    at++;
  }
  return at > from && bytes[at] === BLANK ? at + 1 : at;
}

/** Where a word stands next in a batch that is gone through from line to line. Linear: what was found is remembered. */
export class NextWord {
  private readonly word: string;
  private batch: LineBatch | null = null;
  private next = -1;

  constructor(word: string) {
    this.word = word;
  }

  /** At `from` or after it; ∞ where it does not. */
  after(batch: LineBatch, from: number): number {
    // One batch may say what the one before said, word by word.
    if (batch !== this.batch) {
      this.batch = batch;
      this.next = -1;
    }
    if (this.next < from) {
      const found = batch.text.indexOf(this.word, from);
      this.next = found < 0 ? Infinity : found;
    }
    return this.next;
  }
}

/** True where another line's decorations stand in [at, to) of a batch, "][" or "] GC(", by its closing brackets. */
export function isGlued(closes: NextWord, batch: LineBatch, at: number, to: number): boolean {
  // Most messages hold no bracket: the next one found is the next line's.
  for (let close = closes.after(batch, at); close < to; close = closes.after(batch, close + 1))
    if (batch.bytes[close + 1] === OPEN || batch.text.startsWith(' GC(', close + 1)) return true;
  return false;
}

const STARTS = {
  allocationStall: ascii('Allocation Stall ('),
  relocationStall: ascii('Relocation Stall ('),
  safepoint: ascii('Safepoint "'),
  stopped: ascii('Total time for which'),
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
export function mayTell(bytes: Uint8Array, at: number): boolean {
  if (isEvent(bytes, at)) return eventMayTell(bytes, afterId(bytes, at));
  switch (bytes[at]) {
    case 65:
      return standsAt(bytes, at, STARTS.allocationStall); // A
    case 82:
      return standsAt(bytes, at, STARTS.relocationStall); // R
    case 83:
      return standsAt(bytes, at, STARTS.safepoint); // S
    case 84:
      return standsAt(bytes, at, STARTS.stopped); // T
    case 72:
      return standsAt(bytes, at, STARTS.heap); // H
    case 77:
      return standsAt(bytes, at, STARTS.maxCapacity); // M
    case 79:
      return standsAt(bytes, at, STARTS.outOfMemory); // O
    case 85:
      return standsAt(bytes, at, STARTS.using); // U
    case 86:
      return standsAt(bytes, at, STARTS.version); // V
    case BLANK:
      return isPacingRow(bytes, at);
    default:
      return false;
  }
}

/** True when the message is one of a collection, `GC(12) …`. */
export function isEvent(bytes: Uint8Array, at: number): boolean {
  return bytes[at] === 71 && standsAt(bytes, at, EVENT);
}

const DETAILS = { metaspace: ascii('Metaspace'), pause: ascii('Pause ') };

/** True when what the message of an event tells needs no stamp: sizes, ages, processor times. */
export function isDetail(bytes: Uint8Array, at: number): boolean {
  if (!isEvent(bytes, at)) return false;
  const textAt = afterId(bytes, at);
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
      return standsAt(bytes, textAt, DETAILS.metaspace); // M
    case 80:
      return !standsAt(bytes, textAt, DETAILS.pause); // PSYoungGen, ParOldGen
    default:
      return false;
  }
}

// "      93 of   358 ms ( 26.0%): load-0".
function isPacingRow(bytes: Uint8Array, at: number): boolean {
  let from = at;
  while (bytes[from] === BLANK) from++;
  const digits = from;
  for (let code = bytes[from]!; code >= 48 && code <= 57;) code = bytes[++from]!;
  return from > digits && standsAt(bytes, from, STARTS.of);
}

// Behind "GC(12) ".
function afterId(bytes: Uint8Array, at: number): number {
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
export function eventMayTell(bytes: Uint8Array, at: number): boolean {
  switch (bytes[at]) {
    case 80:
      return (
        standsAt(bytes, at, EVENTS.pause) ||
        standsAt(bytes, at, EVENTS.psYoungGen) ||
        standsAt(bytes, at, EVENTS.parOldGen)
      ); // P
    case 67:
      return concurrentStepAt(bytes, at) !== ConcurrentStep.none; // C
    case 71:
      return standsAt(bytes, at, EVENTS.garbageCollection); // G
    case 89:
    case 121:
      return bytes[at + 1] === COLON && bytes[at + 2] === BLANK && eventMayTell(bytes, at + 3); // Y y
    case 79:
      return bytes[at + 1] === COLON
        ? bytes[at + 2] === BLANK && eventMayTell(bytes, at + 3)
        : standsAt(bytes, at, EVENTS.oldRegions); // O
    case 77:
      return (
        standsAt(bytes, at, EVENTS.metaspace) ||
        standsAt(bytes, at, EVENTS.majorCollection) ||
        standsAt(bytes, at, EVENTS.minorCollection)
      ); // M
    case 85:
      return standsAt(bytes, at, EVENTS.user); // U
    case 45:
      return standsAt(bytes, at, EVENTS.age); // -
    case BLANK:
      return isTableRow(bytes, at);
    default:
      return isSpace(bytes, at);
  }
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

function isSpace(bytes: Uint8Array, at: number): boolean {
  switch (bytes[at]) {
    case 84:
      return standsAt(bytes, at, SPACES.tenured) || standsAt(bytes, at, SPACES.toSpace); // T
    case 69:
      return standsAt(bytes, at, SPACES.eden); // E
    case 83:
      return standsAt(bytes, at, SPACES.survivor); // S
    case 65:
      return standsAt(bytes, at, SPACES.archive) || standsAt(bytes, at, SPACES.allocated); // A
    case 72:
      return standsAt(bytes, at, SPACES.humongous); // H
    case 68:
      return standsAt(bytes, at, SPACES.defNew); // D
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
export function concurrentStepAt(bytes: Uint8Array, at: number): (typeof ConcurrentStep)[keyof typeof ConcurrentStep] {
  if (!standsAt(bytes, at, STEPS.concurrent)) return ConcurrentStep.none;
  const what = at + STEPS.concurrent.length;
  if (
    standsAt(bytes, what, STEPS.markCycle) ||
    standsAt(bytes, what, STEPS.undoCycle) ||
    standsAt(bytes, what, STEPS.cycle)
  )
    return ConcurrentStep.cycle;
  const word = standsAt(bytes, what, STEPS.reset) ? STEPS.reset : STEPS.cleanup;
  const isWhole = standsAt(bytes, what, word) && !isOfWord(bytes[what + word.length]!);
  return isWhole ? ConcurrentStep.shenandoah : ConcurrentStep.none;
}

function isOfWord(code: number): boolean {
  return (code >= 48 && code <= 57) || (code >= 65 && code <= 90) || (code >= 97 && code <= 122) || code === 95;
}

const ROWS = { used: ascii('Used: '), live: ascii('Live: '), promoted: ascii('Promoted: ') };

// Rows of tables: "     Used: …", " Allocated: …", " - age …".
function isTableRow(bytes: Uint8Array, at: number): boolean {
  let from = at;
  while (bytes[from] === BLANK) from++;
  switch (bytes[from]) {
    case 85:
      return standsAt(bytes, from, ROWS.used); // U
    case 76:
      return standsAt(bytes, from, ROWS.live); // L
    case 80:
      return standsAt(bytes, from, ROWS.promoted); // P
    case 65:
      return standsAt(bytes, from, SPACES.allocated); // A
    case 45:
      return standsAt(bytes, from, EVENTS.age); // -
    default:
      return false;
  }
}
