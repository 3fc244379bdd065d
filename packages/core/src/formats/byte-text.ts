import { firstByte, type Letters, ONES, zeroBytes } from '../base/line-batch.ts';
import { unitBytes } from './scan-number.ts';

interface Decoder {
  decode(bytes: Uint8Array): string;
}
declare const TextDecoder: new (label: string) => Decoder;

/** A text of letters of one byte, to be compared four at a time: those at its beginning, and its last four. */
export interface Word {
  readonly length: number;
  readonly heads: Int32Array;
  readonly tail: number;
  readonly tailAt: number;
  /** Of a text of fewer than four letters, the bits that count. */
  readonly mask: number;
}

/** The letters of a text of ASCII, to be looked for. */
export function ascii(text: string): Word {
  return wordOf(Uint8Array.from(text, (letter) => letter.charCodeAt(0)));
}

/** The same of letters that are bytes already. */
export function wordOf(letters: Uint8Array): Word {
  const { length } = letters;
  const room = new Uint8Array(Math.max(4, length));
  room.set(letters);
  const view = new DataView(room.buffer);
  const heads = Int32Array.from({ length: Math.max(0, (length - 1) >> 2) }, (_, at) => view.getInt32(at * 4, true));
  const tailAt = Math.max(0, length - 4);
  return { length, heads, tail: view.getInt32(tailAt, true), tailAt, mask: length < 4 ? (1 << (8 * length)) - 1 : -1 };
}

/** True when the word stands at `at`; what is read past a line's end meets its newline, which no word holds. */
export function standsAt(view: DataView, at: number, word: Word): boolean {
  const { heads } = word;
  for (let place = 0; place < heads.length; place++)
    if (view.getInt32(at + 4 * place, true) !== heads[place]) return false;
  return (view.getInt32(at + word.tailAt, true) & word.mask) === word.tail;
}

/** Where a word next begins in [from, to), −1 when it does not. */
export function findWord(view: DataView, from: number, to: number, word: Word): number {
  const first = (word.heads.length > 0 ? word.heads[0]! : word.tail) & 255;
  const firsts = Math.imul(first, ONES);
  for (let at = from; at < to;) {
    const bits = zeroBytes(view.getInt32(at, true) ^ firsts);
    if (bits === 0) at += 4;
    else {
      at += firstByte(bits);
      if (at + word.length <= to && standsAt(view, at, word)) return at;
      at++;
    }
  }
  return -1;
}

const ZERO = 48;
const NINE = 57;
const DOT = 46;
/** More digits than this are left to the engine's own conversion. */
const MOST_DIGITS = 15;
const TENS = Float64Array.from({ length: MOST_DIGITS + 1 }, (_, digits) => 10 ** digits);

/**
 * Reads decimal digits with an optional fraction, as `NumberScanner` does of a text: NaN where there is no digit, none
 * behind a dot, or more of them than a double holds. `end` is the offset after it.
 */
export class ByteNumbers {
  end = 0;

  read(bytes: Uint8Array, from: number): number {
    let at = from;
    let value = 0;
    let code = bytes[at]!;
    while (code >= ZERO && code <= NINE) {
      value = value * 10 + (code - ZERO);
      code = bytes[++at]!;
    }
    let digits = at - from;
    if (digits > 0 && code === DOT) {
      const dot = at;
      code = bytes[++at]!;
      while (code >= ZERO && code <= NINE) {
        value = value * 10 + (code - ZERO);
        code = bytes[++at]!;
      }
      digits = at === dot + 1 ? 0 : at - from - 1;
      // Both are exact, so that their quotient is the double nearest to what is printed.
      value /= TENS[Math.min(MOST_DIGITS, at - dot - 1)]!;
    }
    this.end = at;
    return digits === 0 || digits > MOST_DIGITS ? NaN : value;
  }

  /** A number with its unit, `28K`, in bytes; NaN without either. */
  readSize(bytes: Uint8Array, from: number): number {
    const value = this.read(bytes, from) * unitBytes(bytes[this.end]!);
    this.end++;
    return value;
  }
}

/** Most words that are told apart by their bytes, and the longest; any other is decoded anew. */
const MOST_WORDS = 4096;
const LONGEST = 256;
const PLACES = 4 * MOST_WORDS;

/**
 * What is made of the text in a stretch of bytes, once for each text: a log says the same few words again and again.
 */
export class ByteWords<T> {
  private readonly make: (text: string) => T;
  private readonly places = new Int32Array(PLACES).fill(-1);
  private readonly words: Word[] = [];
  private readonly made: T[] = [];
  /** Which was found last: it comes again as a rule. */
  private last = 0;
  /** As whole lines are decoded. */
  private readonly decoder = new TextDecoder('windows-1252');

  constructor(make: (text: string) => T) {
    this.make = make;
  }

  /** Of the text in [from, to), one character a byte. */
  of({ bytes, view }: Letters, from: number, to: number): T {
    const length = to - from;
    if (this.words.length > 0) {
      const word = this.words[this.last]!;
      if (word.length === length && standsAt(view, from, word)) return this.made[this.last]!;
    }
    if (length > LONGEST) return this.make(this.decoder.decode(bytes.subarray(from, to)));
    let place = hashOf(view, from, length) & (PLACES - 1);
    for (let known = this.places[place]!; known >= 0; known = this.places[place]!) {
      const word = this.words[known]!;
      if (word.length === length && standsAt(view, from, word)) {
        this.last = known;
        return this.made[known]!;
      }
      place = (place + 1) & (PLACES - 1);
    }
    const made = this.make(this.decoder.decode(bytes.subarray(from, to)));
    if (this.made.length === MOST_WORDS) return made;
    this.places[place] = this.made.length;
    this.made.push(made);
    this.words.push(wordOf(bytes.subarray(from, to)));
    return made;
  }
}

function hashOf(view: DataView, from: number, length: number): number {
  let hash = length;
  const last = from + length - 4;
  for (let at = from; at < last; at += 4) hash = mixed(hash, view.getInt32(at, true));
  const rest = length < 4 ? view.getInt32(from, true) & ((1 << (8 * length)) - 1) : view.getInt32(last, true);
  hash = mixed(hash, rest);
  return hash ^ (hash >>> 15);
}

function mixed(hash: number, four: number): number {
  const next = Math.imul(hash ^ four, 0x9e3779b1);
  return next ^ (next >>> 13);
}
