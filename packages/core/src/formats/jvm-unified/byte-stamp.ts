import type { Letters } from '../../base/line-batch.ts';
import { ascii, ByteNumbers, standsAt, type Word, wordOf } from '../byte-text.ts';
import { closeOrControl } from './quiet-lines.ts';

const OPEN = 91;
const CLOSE = 93;
const DASH = 45;
const DOT = 46;
const COLON = 58;
const SECONDS = 115;
const MILLI = 109;
const NANO = 110;
/** `2026-11-23T05` of `2026-11-23T05:55:13.577+0000`, and where its zone is. */
const HOUR_LETTERS = 13;
const ZONE_AT = 23;
const DATE_LETTERS = 28;
/** Above it milliseconds count from 1970. */
const LEAST_EPOCH_MS = 1e12;
/** Nanoseconds are those since the JVM's start when they are so near to another reading of it. */
const SAME_UPTIME_MS = 2;

declare const TextDecoder: new (label: string) => { decode(bytes: Uint8Array): string };

/** When a line was printed, by its decorations as bytes: as `Decorations` reads them of a text. */
export class ByteStamp {
  /** Milliseconds since the JVM's start; NaN where it is not printed. */
  uptimeMs = NaN;
  /** Wall clock in milliseconds; NaN where it is not printed. */
  epochMs = NaN;
  /** Set where the wall clock of the start is known and lines carry the time since it: dates are passed over then. */
  skipsDates = false;
  private readonly numbers = new ByteNumbers();
  private readonly decoder = new TextDecoder('windows-1252');
  /** The hour and zone that were read last. */
  private hour: Word = ascii(' ');
  private zone: Word = ascii(' ');
  private hourMs = NaN;

  /** Reads the decorations in [from, at); false where one is unusual. */
  read(letters: Letters, from: number, at: number): boolean {
    const isRead = this.readAll(letters, from, at);
    // A damaged line may tell the one clock and not the other.
    if (!isRead || !this.skipsDates || !Number.isNaN(this.uptimeMs)) return isRead;
    this.skipsDates = false;
    const isReadNow = this.readAll(letters, from, at);
    this.skipsDates = true;
    return isReadNow;
  }

  private readAll(letters: Letters, from: number, at: number): boolean {
    const { bytes, view } = letters;
    this.uptimeMs = this.epochMs = NaN;
    for (let open = from; open < at && bytes[open] === OPEN;) {
      const code = bytes[open + 1]!;
      const isNumber = code >= 48 && code <= 57;
      if (isNumber && !this.readNumber(letters, open + 1)) return false;
      let close = closeOrControl(view, isNumber ? this.numbers.end : open + 1);
      while (bytes[close] !== CLOSE) close = closeOrControl(view, close + 1);
      open = close + 1;
    }
    return true;
  }

  private readNumber(letters: Letters, from: number): boolean {
    const { bytes } = letters;
    const value = this.numbers.read(bytes, from);
    const end = this.numbers.end;
    if (Number.isNaN(value)) return false;
    const unit = bytes[end]!;
    // Numbers of processes and threads.
    if (unit === CLOSE) return true;
    if (unit === DASH) return this.readDate(letters, from);
    if (unit === SECONDS && bytes[end + 1] === CLOSE) {
      if (Number.isNaN(this.uptimeMs)) this.uptimeMs = Math.round(value * 1e6) / 1e3;
      return true;
    }
    if (bytes[end + 1] !== SECONDS || bytes[end + 2] !== CLOSE) return false;
    if (unit === MILLI) this.readMillis(value);
    else if (unit === NANO) this.readNanos(value / 1e6);
    else return false;
    return true;
  }

  private readMillis(value: number): void {
    if (value > LEAST_EPOCH_MS) this.epochMs = value;
    else if (Number.isNaN(this.uptimeMs)) this.uptimeMs = value;
  }

  private readNanos(ms: number): void {
    if (Math.abs(ms - this.uptimeMs) < SAME_UPTIME_MS) this.uptimeMs = ms;
  }

  private readDate(letters: Letters, from: number): boolean {
    if (this.skipsDates || !Number.isNaN(this.epochMs)) return true;
    const { bytes, view } = letters;
    const isUsual =
      bytes[from + DATE_LETTERS] === CLOSE &&
      bytes[from + 13] === COLON &&
      bytes[from + 16] === COLON &&
      bytes[from + 19] === DOT;
    const [minute, second] = [twoDigits(bytes, from + 14), twoDigits(bytes, from + 17)];
    const milli = twoDigits(bytes, from + 20) * 10 + digit(bytes[from + 22]!);
    if (!isUsual || !(minute < 60 && second < 60 && milli >= 0)) return false;
    if (!standsAt(view, from, this.hour) || !standsAt(view, from + ZONE_AT, this.zone)) this.openHour(bytes, from);
    this.epochMs = this.hourMs + minute * 60_000 + second * 1000 + milli;
    return !Number.isNaN(this.epochMs);
  }

  private openHour(bytes: Uint8Array, from: number): void {
    const hour = bytes.slice(from, from + HOUR_LETTERS);
    const zone = bytes.slice(from + ZONE_AT, from + DATE_LETTERS);
    this.hour = wordOf(hour);
    this.zone = wordOf(zone);
    const offset = this.decoder.decode(zone);
    const isHour = twoDigits(hour, HOUR_LETTERS - 2) < 24;
    this.hourMs = !isHour
      ? NaN
      : Date.parse(`${this.decoder.decode(hour)}:00:00.000${offset.slice(0, 3)}:${offset.slice(3)}`);
  }
}

// NaN where it is none.
function digit(code: number): number {
  return code >= 48 && code <= 57 ? code - 48 : NaN;
}

function twoDigits(bytes: Uint8Array, at: number): number {
  return digit(bytes[at]!) * 10 + digit(bytes[at + 1]!);
}
