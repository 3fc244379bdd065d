import { JsonNumbers } from '../byte-json.ts';

const QUOTE = 34;
const DOT = 46;
const ZERO = 48;
const COMMA = 44;
const COLON = 58;
const OPEN_LIST = 91;
const CLOSE_LIST = 93;
const BACKSLASH = 92;
const OPEN = 123;
const CLOSE = 125;
/** The kind of a line stands in its first member or the one after it. */
const KIND_WITHIN = 128;
const KINDS = ['"k":"born"', '"k":"died"'];
/** Members of such a line that are read; a line with more is read as JSON. */
const MOST_MEMBERS = 16;
const LONGEST_TEXT = 100;
/** Digits that a double holds exactly, and the powers of ten that divide by as many. */
const MOST_DIGITS = 15;
const TENS = Float64Array.from({ length: MOST_DIGITS + 1 }, (_, digits) => 10 ** digits);

declare const TextDecoder: new (label: string) => { decode(bytes: Uint8Array): string };

/** What a member of such a line may be. */
type Value = string | number | Float64Array;

/**
 * Reads lines of births and deaths, which are most of a stream, from their bytes: objects of numbers, short texts and
 * columns of numbers. Anything else is left to be read as JSON.
 */
export class StreamLineBytes {
  private readonly numbers = new JsonNumbers();
  private readonly decoder = new TextDecoder('utf-8');
  /** Room for columns, used again for each line. */
  private readonly rooms: Float64Array[] = [];
  private bytes: Uint8Array = new Uint8Array(0);
  private end = 0;

  /**
   * The line that these bytes are, without its end, good until the next one is read; null for any other, and an unusual
   * one.
   */
  read(bytes: Uint8Array): object | null {
    if (bytes[0] !== OPEN || bytes[bytes.length - 1] !== CLOSE) return null;
    const beginning = this.decoder.decode(bytes.subarray(0, KIND_WITHIN));
    if (!KINDS.some((kind) => beginning.includes(kind))) return null;
    this.bytes = bytes;
    const members: [string, Value][] = [];
    for (let at = 1; ;) {
      const name = this.textAt(at);
      if (name === null || bytes[this.end] !== COLON || members.length === MOST_MEMBERS) return null;
      const value = this.valueAt(this.end + 1, members.length);
      if (value === null) return null;
      members.push([name, value]);
      at = this.end + 1;
      if (bytes[this.end] === CLOSE) break;
      if (bytes[this.end] !== COMMA) return null;
    }
    return this.end + 1 === bytes.length ? Object.fromEntries(members) : null;
  }

  private valueAt(from: number, member: number): Value | null {
    if (this.bytes[from] === QUOTE) return this.textAt(from);
    if (this.bytes[from] === OPEN_LIST) return this.columnAt(from, member);
    const value = this.numberAt(from);
    return Number.isNaN(value) ? null : value;
  }

  // Of ASCII, without escapes.
  private textAt(from: number): string | null {
    const { bytes } = this;
    if (bytes[from] !== QUOTE) return null;
    let to = from + 1;
    for (let code = bytes[to]!; code !== QUOTE; code = bytes[++to]!)
      if (!(code >= 32 && code < 127) || code === BACKSLASH || to - from > LONGEST_TEXT) return null;
    this.end = to + 1;
    return this.decoder.decode(bytes.subarray(from + 1, to));
  }

  private columnAt(from: number, member: number): Float64Array | null {
    const { bytes, numbers } = this;
    let room = (this.rooms[member] ??= new Float64Array(64));
    let count = 0;
    let at = from + 1;
    if (bytes[at] === CLOSE_LIST) {
      this.end = at + 1;
      return room.subarray(0, 0);
    }
    for (; ; at++) {
      if (count === room.length) room = this.grown(member);
      // The commonest, whole numbers and decimals of a few digits, are read here; any other as `JsonNumbers` does.
      const start = at;
      let value = 0;
      let code = bytes[at]! - ZERO;
      for (; code >>> 0 <= 9; code = bytes[++at]! - ZERO) value = value * 10 + code;
      let places = 0;
      if (code === DOT - ZERO && at > start) {
        const dot = at;
        code = bytes[++at]! - ZERO;
        for (; code >>> 0 <= 9; code = bytes[++at]! - ZERO) value = value * 10 + code;
        places = at - dot - 1;
        value /= TENS[Math.min(places, MOST_DIGITS)]!;
        if (places === 0) return null;
      }
      const next = bytes[at];
      const isPlain = at > start && at - start <= MOST_DIGITS && (next === COMMA || next === CLOSE_LIST);
      if (isPlain && (bytes[start] !== ZERO || at - start - places <= (places === 0 ? 1 : 2))) room[count++] = value;
      else {
        if (!numbers.read(bytes, start)) return null;
        at = numbers.end;
        room[count++] = numbers.value === numbers.value ? numbers.value : this.converted(start, at);
      }
      if (bytes[at] === CLOSE_LIST) break;
      if (bytes[at] !== COMMA) return null;
    }
    this.end = at + 1;
    return room.subarray(0, count);
  }

  private grown(member: number): Float64Array {
    const room = this.rooms[member]!;
    const larger = new Float64Array(2 * room.length);
    larger.set(room);
    this.rooms[member] = larger;
    return larger;
  }

  // NaN where none stands there.
  private numberAt(from: number): number {
    const { numbers } = this;
    if (!numbers.read(this.bytes, from)) return NaN;
    this.end = numbers.end;
    return Number.isNaN(numbers.value) ? this.converted(from, numbers.end) : numbers.value;
  }

  private converted(from: number, to: number): number {
    return Number(this.decoder.decode(this.bytes.subarray(from, to)));
  }
}
