import type { Letters } from '../../base/line-batch.ts';
import { isPause } from '../../model/domain.ts';
import { ascii, ByteNumbers, ByteWords, standsAt } from '../byte-text.ts';
import { unitBytes } from '../scan-number.ts';
import type { TimedMessage } from './pause-message.ts';
import { closeOrEnd } from './quiet-lines.ts';

const BLANK = 32;
const PARENTHESIS = 40;
const CLOSED = 41;
const DASH = 45;
const OPEN = 91;
const CLOSE = 93;
const SECONDS = 115;
const MILLI = 109;
const ARROW = ascii('->');

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

  /**
   * Milliseconds by the decorations in [from, at): `[12.345s]` among words, numbers of processes, and dates where the wall
   * clock is known; NaN where another clock may say it more finely.
   */
  uptimeMs({ bytes, view }: Letters, from: number, at: number, isWallClockKnown: boolean): number {
    const { numbers } = this;
    let uptimeMs = NaN;
    for (let open = from; open < at && bytes[open] === OPEN;) {
      let close = open + 1;
      if (isDigit(bytes[close]!)) {
        const value = numbers.read(bytes, close);
        close = numbers.end;
        const unit = bytes[close];
        if (unit === SECONDS && bytes[close + 1] === CLOSE && Number.isNaN(uptimeMs)) uptimeMs = inMs(value);
        else if (unit !== CLOSE && !(unit === DASH && isWallClockKnown)) return NaN;
      }
      open = closeOrEnd(view, close) + 1;
    }
    return uptimeMs;
  }
}

/** As a log prints seconds, to the microsecond. */
export function inMs(seconds: number): number {
  return Math.round(seconds * 1e6) / 1e3;
}

function isDigit(code: number): boolean {
  return code >= 48 && code <= 57;
}
