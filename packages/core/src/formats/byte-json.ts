import type { Letters } from '../base/line-batch.ts';
import { ByteNumbers, ByteWords } from './byte-text.ts';

const QUOTE = 34;
const PLUS = 43;
const COMMA = 44;
const MINUS = 45;
const DOT = 46;
const ZERO = 48;
const NINE = 57;
const COLON = 58;
const UPPER_E = 69;
const BACKSLASH = 92;
const LOWER_E = 101;
const OPEN = 123;
const CLOSE = 125;
const LITERALS: ReadonlyMap<string, boolean | null> = new Map([
  ['true', true],
  ['false', false],
  ['null', null],
]);
/** Objects within objects that are followed. */
const MOST_DEEP = 4;

/** What an object's members may be here. */
export type FlatValue = string | number | boolean | null;

/** Letters that can be had as a text of one character each. */
export interface TextLetters extends Letters {
  slice(from: number, to: number): string;
}

/**
 * Reads a JSON object of plain members from its bytes, without making it: numbers, literals, texts of ASCII letters
 * without escapes, and objects of such. Anything else is left to be read as JSON.
 */
export class ByteJson {
  /** Names of the members that were read last, and of the member that each lies in, '' for those of the whole. */
  readonly names: string[] = [];
  readonly within: string[] = [];
  readonly values: FlatValue[] = [];
  /** Names of the members that are objects. */
  readonly objects: string[] = [];
  private readonly words = new ByteWords((text) => (/^[ -~]*$/.test(text) ? text : null));
  private readonly literals = new ByteWords((text) => LITERALS.get(text));
  private readonly numbers = new JsonNumbers();
  private letters: TextLetters | null = null;
  private bytes: Uint8Array = new Uint8Array(0);

  /** True for an object in [from, to) of the letters. */
  read(letters: TextLetters, from: number, to: number): boolean {
    const { bytes } = letters;
    this.letters = letters;
    this.bytes = bytes;
    this.names.length = this.within.length = this.values.length = this.objects.length = 0;
    return bytes[from] === OPEN && this.members(from + 1, '', 0) === to;
  }

  // The members behind an opening brace: the offset after the closing one, −1 where they are not plain.
  private members(from: number, within: string, depth: number): number {
    const { bytes } = this;
    if (bytes[from] === CLOSE) return from + 1;
    for (let at = from; ;) {
      const name = this.quoted(at);
      if (name === null) return -1;
      at = this.end;
      if (bytes[at++] !== COLON) return -1;
      if (bytes[at] === OPEN) {
        this.objects.push(name);
        at = depth === MOST_DEEP ? -1 : this.members(at + 1, name, depth + 1);
      } else at = this.member(at, name, within);
      if (at < 0) return -1;
      if (bytes[at] === CLOSE) return at + 1;
      if (bytes[at++] !== COMMA) return -1;
    }
  }

  private end = 0;

  private member(from: number, name: string, within: string): number {
    const value = this.valueAt(from);
    if (value === undefined) return -1;
    this.names.push(name);
    this.within.push(within);
    this.values.push(value);
    return this.end;
  }

  private valueAt(from: number): FlatValue | undefined {
    const code = this.bytes[from]!;
    if (code === QUOTE) return this.quoted(from) ?? undefined;
    if (code === MINUS || isDigit(code)) return this.numberAt(from);
    let to = from;
    while (isLetter(this.bytes[to]!)) to++;
    this.end = to;
    return this.literals.of(this.letters!, from, to);
  }

  private quoted(from: number): string | null {
    const { bytes } = this;
    if (bytes[from] !== QUOTE) return null;
    let to = from + 1;
    for (let code = bytes[to]!; code !== QUOTE; code = bytes[++to]!)
      if (code === BACKSLASH || !(code >= 32)) return null;
    this.end = to + 1;
    return this.words.of(this.letters!, from + 1, to);
  }

  // More digits than are read here, or powers of ten, are the engine's own matter.
  private numberAt(from: number): number | undefined {
    const { numbers } = this;
    if (!numbers.read(this.bytes, from)) return undefined;
    this.end = numbers.end;
    return Number.isNaN(numbers.value) ? Number(this.letters!.slice(from, numbers.end)) : numbers.value;
  }
}

/** Reads numbers by the grammar of JSON: no zeros ahead, no fraction without digits. */
export class JsonNumbers {
  /** The offset after the number that was read. */
  end = 0;
  /** The number; NaN where it has an exponent, more than fifteen digits, or is a zero below 0: it is to be converted. */
  value = NaN;
  private readonly numbers = new ByteNumbers();

  /** True where one stands at `from`, which is followed by a byte that is no digit. */
  read(bytes: Uint8Array, from: number): boolean {
    const { numbers } = this;
    const isBelow = bytes[from] === MINUS;
    const first = isBelow ? from + 1 : from;
    const value = numbers.read(bytes, first);
    if (numbers.end === first || (bytes[first] === ZERO && isDigit(bytes[first + 1]!))) return false;
    let to = numbers.end;
    if (bytes[to - 1] === DOT) return false;
    const hasExponent = bytes[to] === LOWER_E || bytes[to] === UPPER_E;
    if (hasExponent) {
      to++;
      if (bytes[to] === MINUS || bytes[to] === PLUS) to++;
      const digits = to;
      while (isDigit(bytes[to]!)) to++;
      if (to === digits) return false;
    }
    this.end = to;
    this.value = hasExponent || (isBelow && value === 0) ? NaN : isBelow ? -value : value;
    return true;
  }
}

function isDigit(code: number): boolean {
  return code >= ZERO && code <= NINE;
}

function isLetter(code: number): boolean {
  return code >= 97 && code <= 122;
}
