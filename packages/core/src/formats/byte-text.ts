import { unitBytes } from './scan-number.ts';

interface Decoder {
  decode(bytes: Uint8Array): string;
}
declare const TextDecoder: new (label: string) => Decoder;

/** The bytes of a text of ASCII letters, to be looked for. */
export function ascii(text: string): Uint8Array {
  return Uint8Array.from(text, (letter) => letter.charCodeAt(0));
}

/** True when the word stands at `at`; what is read past a line's end meets its newline, which no word holds. */
export function standsAt(bytes: Uint8Array, at: number, word: Uint8Array): boolean {
  for (let place = 0; place < word.length; place++) if (bytes[at + place] !== word[place]) return false;
  return true;
}

/** Where a word next begins in [from, to), −1 when it does not. */
export function findWord(bytes: Uint8Array, from: number, to: number, word: Uint8Array): number {
  const first = word[0]!;
  for (let at = from; at + word.length <= to; at++) if (bytes[at] === first && standsAt(bytes, at, word)) return at;
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
  private readonly bytesOf: Uint8Array[] = [];
  private readonly made: T[] = [];
  /** As whole lines are decoded. */
  private readonly decoder = new TextDecoder('windows-1252');

  constructor(make: (text: string) => T) {
    this.make = make;
  }

  /** Of the text in [from, to), one character a byte. */
  of(bytes: Uint8Array, from: number, to: number): T {
    if (to - from > LONGEST) return this.make(this.decoder.decode(bytes.subarray(from, to)));
    let hash = 0x811c9dc5;
    for (let at = from; at < to; at++) hash = Math.imul(hash ^ bytes[at]!, 0x01000193);
    let place = (hash ^ (hash >>> 15)) & (PLACES - 1);
    for (let known = this.places[place]!; known >= 0; known = this.places[place]!) {
      if (this.bytesOf[known]!.length === to - from && standsAt(bytes, from, this.bytesOf[known]!))
        return this.made[known]!;
      place = (place + 1) & (PLACES - 1);
    }
    const made = this.make(this.decoder.decode(bytes.subarray(from, to)));
    if (this.made.length === MOST_WORDS) return made;
    this.places[place] = this.made.length;
    this.made.push(made);
    this.bytesOf.push(bytes.slice(from, to));
    return made;
  }
}
