import type { Letters } from '../../base/line-batch.ts';
import { isPause } from '../../model/domain.ts';
import { ascii, ByteNumbers, ByteWords, findWord, standsAt } from '../byte-text.ts';
import { ByteTemplate } from '../byte-template.ts';
import { unitBytes } from '../scan-number.ts';
import type { Release } from './concurrent-cycles.ts';
import type { ZCycle } from './cycle-message.ts';
import type { PacingRow, SafepointMessage } from './detail-message.ts';
import type { TimedMessage } from './pause-message.ts';

const BLANK = 32;
const PARENTHESIS = 40;
const CLOSED = 41;
const SECONDS = 115;
const MILLI = 109;
const PERCENT = 37;
const COMMA = 44;
const QUOTE = 34;
const ARROW = ascii('->');
/** Of `Safepoint "`. */
const SAFEPOINT_LETTERS = 11;
const WORD = {
  reaching: ascii(' Reaching safepoint: '),
  stopped: ascii(' Total: '),
  nanos: ascii(' ns'),
  nanosThen: ascii(' ns,'),
  percentArrow: ascii('%)->'),
  committed: ascii('committed, '),
  open: ascii(' ('),
  used: ascii('%) used'),
};

/** `93 of   358 ms ( 26.0%): load-0`. */
const PACING = new ByteTemplate('%d of %_%d ms (%_%*%): ');

/** Takes parts of a line's bytes apart: its stamp, and the times and sizes of its message. */
export class JvmByteScanner {
  readonly numbers = new ByteNumbers();
  readonly labels = new ByteWords((text) => text);
  /** What `readTimed` found last; the next one is found in its place. */
  private readonly timed: TimedMessage = {
    label: '',
    durationMs: NaN,
    beforeBytes: NaN,
    afterBytes: NaN,
    capacityBytes: NaN,
    resolutionBytes: NaN,
  };
  private readonly safepoint = { operation: '', reachMs: NaN, totalMs: NaN };
  private readonly pacing = { pacedMs: NaN, overMs: NaN, thread: '' };
  private readonly release = { beforeBytes: NaN, afterBytes: NaN, capacityBytes: NaN, resolutionBytes: NaN };
  private readonly cycle: { label: string; release: Release | null } = { label: '', release: null };

  /**
   * A message in [textAt, end) that ends in a duration, good until the next one is read; null for any other, and an
   * unusual one.
   */
  readTimed(letters: Letters, textAt: number, end: number): TimedMessage | null {
    const { bytes } = letters;
    if (bytes[end - 1] !== SECONDS || bytes[end - 2] !== MILLI) return null;
    let blank = end - 3;
    while (blank > textAt && bytes[blank] !== BLANK) blank--;
    const durationMs = this.numbers.read(bytes, blank + 1);
    if (Number.isNaN(durationMs) || !isPause(durationMs) || this.numbers.end !== end - 2) return null;
    return this.readSizes(letters, textAt, blank, durationMs);
  }

  /** A safepoint's times in [at, end), good until the next; null for an unusual message. */
  readSafepoint(letters: Letters, at: number, end: number): SafepointMessage | null {
    const { bytes, view } = letters;
    const { numbers, safepoint } = this;
    const nameAt = at + SAFEPOINT_LETTERS;
    let quote = nameAt;
    while (quote < end && bytes[quote] !== QUOTE) quote++;
    const reaching = findWord(view, quote, end, WORD.reaching);
    if (reaching < 0) return null;
    const reach = numbers.read(bytes, reaching + WORD.reaching.length);
    if (!standsAt(view, numbers.end, WORD.nanosThen)) return null;
    const stopped = findWord(view, numbers.end, end, WORD.stopped);
    if (stopped < 0) return null;
    const total = numbers.read(bytes, stopped + WORD.stopped.length);
    if (!standsAt(view, numbers.end, WORD.nanos) || !Number.isInteger(reach + total)) return null;
    const last = numbers.end + WORD.nanos.length;
    if (last !== end && bytes[last] !== COMMA) return null;
    safepoint.operation = this.labels.of(letters, nameAt, quote);
    safepoint.reachMs = reach / 1e6;
    safepoint.totalMs = total / 1e6;
    return safepoint;
  }

  /** A row of pacing in [at, end), good until the next, its totals included; null for an unusual one. */
  readPacing(letters: Letters, at: number, end: number): PacingRow | null {
    const { pacing } = this;
    let from = at;
    while (letters.bytes[from] === BLANK) from++;
    if (!PACING.fits(letters, from)) return null;
    [pacing.pacedMs, pacing.overMs] = PACING.values as unknown as [number, number];
    const last = letters.bytes[end - 1]!;
    if (PACING.end >= end || last <= BLANK || last >= 128) return null;
    pacing.thread = this.labels.of(letters, PACING.end, end);
    return pacing;
  }

  /** `Heap: 98304K reserved, 98304K (100.00%) committed, 4948K (5.03%) used` in [at, end): bytes used, NaN for any other. */
  readEpsilonUsed({ bytes, view }: Letters, at: number, end: number): number {
    const { numbers } = this;
    const committed = findWord(view, at, end, WORD.committed);
    if (committed < 0) return NaN;
    const used = numbers.read(bytes, committed + WORD.committed.length);
    const usedBytes = Number.isInteger(used) ? used * unitBytes(bytes[numbers.end++]!) : NaN;
    if (!standsAt(view, numbers.end, WORD.open) || Number.isNaN(numbers.read(bytes, numbers.end + 2))) return NaN;
    return standsAt(view, numbers.end, WORD.used) && numbers.end + WORD.used.length === end ? usedBytes : NaN;
  }

  /** A line of a ZGC collection in [textAt, end), good until the next; null for an unusual one. */
  readCycle(letters: Letters, textAt: number, end: number): ZCycle | null {
    const { bytes, view } = letters;
    const { numbers, cycle, release } = this;
    let sizesTo = end;
    // The time that it took stands behind.
    if (bytes[end - 1] === SECONDS && isDigit(bytes[end - 2]!)) {
      while (sizesTo > textAt && bytes[sizesTo - 1] !== BLANK) sizesTo--;
      if (Number.isNaN(numbers.read(bytes, sizesTo)) || numbers.end !== end - 1) return null;
      sizesTo--;
    }
    if (bytes[sizesTo - 1] !== CLOSED) return null;
    if (bytes[sizesTo - 2] !== PERCENT) {
      if (sizesTo !== end || findWord(view, textAt, end, WORD.percentArrow) >= 0) return null;
      cycle.label = this.labels.of(letters, textAt, end);
      cycle.release = null;
      return cycle;
    }
    let sizesAt = sizesTo - 2;
    while (sizesAt > textAt && bytes[sizesAt - 1] !== BLANK) sizesAt--;
    release.beforeBytes = numbers.readSize(bytes, sizesAt);
    const unit = unitBytes(bytes[numbers.end - 1]!);
    const arrow = this.percentEnd(bytes);
    if (arrow < 0 || !standsAt(view, arrow, ARROW)) return null;
    release.afterBytes = numbers.readSize(bytes, arrow + 2);
    release.resolutionBytes = Math.max(unit, unitBytes(bytes[numbers.end - 1]!));
    if (this.percentEnd(bytes) !== sizesTo || Number.isNaN(release.beforeBytes + release.afterBytes)) return null;
    cycle.label = this.labels.of(letters, textAt, sizesAt - 1);
    cycle.release = release;
    return cycle;
  }

  // Behind `(31%)` where the last number ended; −1 where that is not there.
  private percentEnd(bytes: Uint8Array): number {
    const { numbers } = this;
    if (bytes[numbers.end] !== PARENTHESIS || Number.isNaN(numbers.read(bytes, numbers.end + 1))) return -1;
    return bytes[numbers.end] === PERCENT && bytes[numbers.end + 1] === CLOSED ? numbers.end + 2 : -1;
  }

  // What stands before the duration at `blank`: sizes, or the end of the label.
  private readSizes(letters: Letters, textAt: number, blank: number, durationMs: number): TimedMessage | null {
    const { bytes, view } = letters;
    const { numbers, timed } = this;
    let sizesAt = blank;
    if (bytes[blank - 1] === CLOSED) {
      sizesAt = blank - 2;
      while (sizesAt > textAt && bytes[sizesAt] !== BLANK) sizesAt--;
    }
    timed.durationMs = durationMs;
    // What looks like sizes and is none, a figure of too many digits say, is not taken for a label.
    if (sizesAt < blank && isDigit(bytes[sizesAt + 1]!)) {
      timed.beforeBytes = numbers.readSize(bytes, sizesAt + 1);
      const unit = unitBytes(bytes[numbers.end - 1]!);
      if (Number.isNaN(timed.beforeBytes) || !standsAt(view, numbers.end, ARROW)) return null;
      timed.afterBytes = numbers.readSize(bytes, numbers.end + 2);
      timed.resolutionBytes = Math.max(unit, unitBytes(bytes[numbers.end - 1]!));
      if (bytes[numbers.end] !== PARENTHESIS) return null;
      timed.capacityBytes = numbers.readSize(bytes, numbers.end + 1);
      if (Number.isNaN(timed.afterBytes + timed.capacityBytes)) return null;
      if (bytes[numbers.end] !== CLOSED || numbers.end + 1 !== blank) return null;
      timed.label = this.labels.of(letters, textAt, sizesAt);
      return timed;
    }
    timed.beforeBytes = timed.afterBytes = timed.capacityBytes = timed.resolutionBytes = NaN;
    timed.label = this.labels.of(letters, textAt, blank);
    return timed;
  }
}

/** As a log prints seconds, to the microsecond. */
export function inMs(seconds: number): number {
  return Math.round(seconds * 1e6) / 1e3;
}

function isDigit(code: number): boolean {
  return code >= 48 && code <= 57;
}
