import { NumberScanner } from '../scan-number.ts';

/** What stands in brackets before a message; NaN and '' where it is not printed. */
export class Decorations {
  /** Milliseconds since the JVM's start. */
  uptimeMs = NaN;
  /** Wall clock in milliseconds. */
  epochMs = NaN;
  /** The JVM's monotonic clock in milliseconds, of an arbitrary origin (`timenanos`). */
  clockMs = NaN;
  tags = '';
  /** The process id, or the thread id where that alone is printed; NaN where neither is. */
  numberId = NaN;
  /** Set once the wall clock of time 0 is known and lines carry uptime: reading dates is what costs most. */
  skipWallClock = false;
  /** Offset of the message in the line. */
  messageAt = 0;
  private readonly scanner = new NumberScanner();

  /**
   * Reads the decorations at `from`. Any of the JVM's decorations may be there or missing, in its fixed order:
   * `[2026-11-23T05:55:13.577+0000][0.006s][1795413336912ms][15ms][1824ns][host][pid][tid][info][gc,start   ] message`.
   * Answers false when there is none.
   */
  read(line: string, from: number): boolean {
    const isRead = this.readAll(line, from);
    // A damaged line may tell the one clock and not the other.
    if (!isRead || !this.skipWallClock || !Number.isNaN(this.uptimeMs)) return isRead;
    this.skipWallClock = false;
    this.readAll(line, from);
    this.skipWallClock = true;
    return true;
  }

  private readAll(line: string, from: number): boolean {
    this.uptimeMs = NaN;
    this.epochMs = NaN;
    this.clockMs = NaN;
    this.tags = '';
    this.numberId = NaN;
    let at = from;
    while (line.charCodeAt(at) === 91) {
      const close = line.indexOf(']', at);
      if (close < 0) return false;
      this.readOne(line, at + 1, close);
      at = close + 1;
    }
    if (at === from) return false;
    this.messageAt = line.charCodeAt(at) === 32 ? at + 1 : at;
    return true;
  }

  private readOne(line: string, from: number, to: number): void {
    const first = line.charCodeAt(from);
    if (first < 48 || first > 57) {
      this.readWord(line, from, to);
      return;
    }
    const value = this.scanner.read(line, from);
    const end = this.scanner.end;
    const unit = line.charCodeAt(end);
    // The process comes before the thread in the fixed order.
    if (end === to) this.numberId = finer(this.numberId, value);
    else if (unit === 115 && end + 1 === to) this.uptimeMs = finer(this.uptimeMs, Math.round(value * 1e6) / 1e3);
    else if (unit === 109 && end + 2 === to) this.readMillis(value);
    else if (unit === 110 && end + 2 === to) this.readNanos(value);
    else if (unit === 45 && !this.skipWallClock && to - from >= 24 && Number.isNaN(this.epochMs))
      this.epochMs = parseWallClock(line, from);
  }

  // timemillis and uptimemillis look alike; no JVM has been up for thirty years.
  private readMillis(value: number): void {
    if (value > 1e12) this.epochMs = value;
    else this.uptimeMs = finer(this.uptimeMs, value);
  }

  // timenanos comes before uptimenanos in the fixed order, and has an arbitrary origin: the last one wins when it
  // agrees.
  private readNanos(value: number): void {
    const ms = value / 1e6;
    if (Number.isNaN(this.clockMs)) this.clockMs = ms;
    if (!Number.isNaN(this.uptimeMs) && Math.abs(ms - this.uptimeMs) < 2) this.uptimeMs = ms;
  }

  private readWord(line: string, from: number, to: number): void {
    let end = to;
    while (end > from && line.charCodeAt(end - 1) === 32) end--;
    const word = line.slice(from, end);
    if (!isLevel(word)) this.tags = word;
  }
}

function finer(known: number, value: number): number {
  return Number.isNaN(known) ? value : known;
}

function isLevel(word: string): boolean {
  return word === 'info' || word === 'debug' || word === 'trace' || word === 'warning' || word === 'error';
}

/** `2026-11-23T05:55:13.577+0000` in milliseconds, NaN when it is anything else. */
function parseWallClock(line: string, from: number): number {
  const text = line.slice(from, from + 28);
  return Date.parse(`${text.slice(0, 26)}:${text.slice(26, 28)}`);
}

/** Offset at which JVM decorations begin inside a line that starts with other text, −1 when there are none. */
export function findDecorations(line: string): number {
  const found = /\[(?:\d+\.\d{3}s|\d{4}-\d\d-\d\dT[\d:.]+[+-]\d{4}|\d+ms)\](?:\[|\s)/.exec(line);
  return found === null ? -1 : found.index;
}
