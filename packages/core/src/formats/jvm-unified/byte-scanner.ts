import { isPause } from '../../model/domain.ts';
import { ascii, ByteNumbers, ByteWords, standsAt } from '../byte-text.ts';
import { unitBytes } from '../scan-number.ts';
import type { TimedMessage } from './pause-message.ts';

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

  /** A message in [textAt, end) that ends in a duration; null for any other, and an unusual one. */
  readTimed(bytes: Uint8Array, textAt: number, end: number): TimedMessage | null {
    if (bytes[end - 1] !== SECONDS || bytes[end - 2] !== MILLI) return null;
    let blank = end - 3;
    while (blank > textAt && bytes[blank] !== BLANK) blank--;
    const durationMs = this.numbers.read(bytes, blank + 1);
    if (Number.isNaN(durationMs) || !isPause(durationMs) || this.numbers.end !== end - 2) return null;
    return this.readSizes(bytes, textAt, blank, durationMs);
  }

  // What stands before the duration at `blank`: sizes, or the end of the label.
  private readSizes(bytes: Uint8Array, textAt: number, blank: number, durationMs: number): TimedMessage | null {
    let sizesAt = blank;
    if (bytes[blank - 1] === CLOSED) {
      sizesAt = blank - 2;
      while (sizesAt > textAt && bytes[sizesAt] !== BLANK) sizesAt--;
    }
    const { numbers } = this;
    const beforeBytes = sizesAt < blank ? numbers.readSize(bytes, sizesAt + 1) : NaN;
    const unit = unitBytes(bytes[numbers.end - 1]!);
    if (!Number.isNaN(beforeBytes) && standsAt(bytes, numbers.end, ARROW)) {
      const afterBytes = numbers.readSize(bytes, numbers.end + 2);
      const afterUnit = unitBytes(bytes[numbers.end - 1]!);
      const capacityBytes = bytes[numbers.end] === PARENTHESIS ? numbers.readSize(bytes, numbers.end + 1) : NaN;
      if (!Number.isNaN(afterBytes + capacityBytes) && bytes[numbers.end] === CLOSED && numbers.end + 1 === blank)
        return {
          label: this.labels.of(bytes, textAt, sizesAt),
          durationMs,
          beforeBytes,
          afterBytes,
          capacityBytes,
          resolutionBytes: Math.max(unit, afterUnit),
        };
    }
    // What looks like sizes and is none, a figure of too many digits say, is not taken for a label.
    if (sizesAt < blank && isDigit(bytes[sizesAt + 1]!)) return null;
    return {
      label: this.labels.of(bytes, textAt, blank),
      durationMs,
      beforeBytes: NaN,
      afterBytes: NaN,
      capacityBytes: NaN,
      resolutionBytes: NaN,
    };
  }

  /**
   * Milliseconds by the decorations in [from, at): `[12.345s]` among words, numbers of processes, and dates where the wall
   * clock is known; NaN where another clock may say it more finely.
   */
  uptimeMs(bytes: Uint8Array, from: number, at: number, isWallClockKnown: boolean): number {
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
      while (bytes[close] !== CLOSE) close++;
      open = close + 1;
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
