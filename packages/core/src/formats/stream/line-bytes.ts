import { JsonNumbers } from '../byte-json.ts';

const NEWLINE = 10;
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
const KINDS = ['"k":"born"', '"k":"died"'].map((text) => Uint8Array.from(text, (letter) => letter.charCodeAt(0)));
/** Members of such a line that are read; a line with more is read as JSON. */
const MOST_MEMBERS = 16;
const LONGEST_TEXT = 100;
/** Digits that 32 bits always hold, those that a double does, and the powers of ten that divide by as many. */
const INT_DIGITS = 9;
const MOST_DIGITS = 15;
const TENS = Float64Array.from({ length: MOST_DIGITS + 1 }, (_, digits) => 10 ** digits);
/** What may stand behind a number of a column, counted from the digit 0. */
const POINT = DOT - ZERO;
const BEHIND = COMMA - ZERO;
const LAST = CLOSE_LIST - ZERO;

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
  /** Names and texts of the last line of each kind, by their places in it; the letters have the closing quote. */
  private readonly known: { readonly letters: Uint8Array; readonly text: string }[] = [];
  private bytes: Uint8Array = new Uint8Array(0);
  private at = 0;

  /** Where the line that was read ends: at its newline, or with the bytes. */
  get end(): number {
    return this.at;
  }

  /**
   * The line that begins at `from` in bytes that end with a line, good until the next one is read; null for any other,
   * and an unusual one.
   */
  read(bytes: Uint8Array, from = 0): object | null {
    const last = bytes[bytes.length - 1];
    if (bytes[from] !== OPEN || (last !== CLOSE && last !== NEWLINE)) return null;
    const kind = kindOf(bytes, from);
    if (kind < 0) return null;
    this.bytes = bytes;
    // eslint-disable-next-line no-restricted-syntax -- a name that means something to objects is left to JSON
    const line: Record<string, Value> = {};
    let members = 0;
    for (let at = from + 1; ;) {
      const place = (kind * MOST_MEMBERS + members) * 2;
      const name = this.textAt(at, place);
      if (name === null || name === '__proto__' || bytes[this.at] !== COLON) return null;
      if (members === MOST_MEMBERS) return null;
      const value = this.valueAt(this.at + 1, members, place + 1);
      if (value === null) return null;
      line[name] = value;
      members++;
      at = this.at + 1;
      if (bytes[this.at] === CLOSE) break;
      if (bytes[this.at] !== COMMA) return null;
    }
    this.at++;
    return this.at === bytes.length || bytes[this.at] === NEWLINE ? line : null;
  }

  private valueAt(from: number, member: number, place: number): Value | null {
    if (this.bytes[from] === QUOTE) return this.textAt(from, place);
    if (this.bytes[from] === OPEN_LIST) return this.columnAt(from, member);
    const value = this.numberAt(from);
    return Number.isNaN(value) ? null : value;
  }

  // Of ASCII, without escapes. What stood in the same place of the last line of its kind stands there again as a rule.
  private textAt(from: number, place: number): string | null {
    const { bytes } = this;
    if (bytes[from] !== QUOTE) return null;
    const known = this.known[place];
    if (known !== undefined && standsAt(bytes, from + 1, known.letters)) {
      this.at = from + known.letters.length + 1;
      return known.text;
    }
    let to = from + 1;
    for (let code = bytes[to]!; code !== QUOTE; code = bytes[++to]!)
      if (!(code >= 32 && code < 127) || code === BACKSLASH || to - from > LONGEST_TEXT) return null;
    this.at = to + 1;
    const text = this.decoder.decode(bytes.subarray(from + 1, to));
    this.known[place] = { letters: bytes.slice(from + 1, to + 1), text };
    return text;
  }

  private columnAt(from: number, member: number): Float64Array | null {
    const { bytes, numbers } = this;
    let room = (this.rooms[member] ??= new Float64Array(64));
    let count = 0;
    let at = from + 1;
    if (bytes[at] === CLOSE_LIST) {
      this.at = at + 1;
      return room.subarray(0, 0);
    }
    for (; ; at++) {
      if (count === room.length) room = this.grown(member);
      // The commonest, whole numbers and decimals of a few digits, are read here, in 32 bits as long as these hold them;
      // any other as `JsonNumbers` does.
      const start = at;
      const first = bytes[at]! - ZERO;
      let digits = first;
      let code = bytes[++at]! - ZERO;
      if (first !== 0) for (; code >>> 0 <= 9; code = bytes[++at]! - ZERO) digits = (Math.imul(digits, 10) + code) | 0;
      if (code === BEHIND && first >>> 0 <= 9 && at - start <= INT_DIGITS) {
        room[count++] = digits;
        continue;
      }
      let length = at - start;
      let places = 0;
      if (code === POINT) {
        for (code = bytes[++at]! - ZERO; code >>> 0 <= 9; code = bytes[++at]! - ZERO)
          digits = (Math.imul(digits, 10) + code) | 0;
        places = at - start - length - 1;
        length = places === 0 ? MOST_DIGITS + 1 : length + places;
      }
      const isPlain = first >>> 0 <= 9 && length <= MOST_DIGITS && (code === BEHIND || code === LAST);
      // Both are exact, so that their quotient is the double nearest to what is printed.
      if (isPlain) room[count++] = (length > INT_DIGITS ? allDigits(bytes, start, at) : digits) / TENS[places]!;
      else {
        if (!numbers.read(bytes, start)) return null;
        at = numbers.end;
        code = bytes[at]! - ZERO;
        room[count++] = numbers.value === numbers.value ? numbers.value : this.converted(start, at);
      }
      if (code === LAST) break;
      if (code !== BEHIND) return null;
    }
    this.at = at + 1;
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
    this.at = numbers.end;
    return Number.isNaN(numbers.value) ? this.converted(from, numbers.end) : numbers.value;
  }

  private converted(from: number, to: number): number {
    return Number(this.decoder.decode(this.bytes.subarray(from, to)));
  }
}

// The place of the kind among those that are read, −1 for any other.
function kindOf(bytes: Uint8Array, from: number): number {
  for (let at = from; at < from + KIND_WITHIN; at++)
    if (bytes[at] === QUOTE)
      for (let kind = 0; kind < KINDS.length; kind++) if (standsAt(bytes, at, KINDS[kind]!)) return kind;
  return -1;
}

function standsAt(bytes: Uint8Array, from: number, letters: Uint8Array): boolean {
  for (let at = 0; at < letters.length; at++) if (bytes[from + at] !== letters[at]) return false;
  return true;
}

// Of digits with a dot among them, as if there were none.
function allDigits(bytes: Uint8Array, from: number, to: number): number {
  let value = 0;
  for (let at = from; at < to; at++) if (bytes[at] !== DOT) value = value * 10 + (bytes[at]! - ZERO);
  return value;
}
