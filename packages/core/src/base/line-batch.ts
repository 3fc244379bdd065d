/** Minimal face of the standard decoder, so that the core needs no DOM or Node types. */
interface Decoder {
  decode(bytes: Uint8Array): string;
}
declare const TextDecoder: new (label: string) => Decoder;

/** Letters as bytes, and the same four at a time. At least `SPARE_LETTERS` newlines stand behind the last of them. */
export interface Letters {
  readonly bytes: Uint8Array;
  readonly view: DataView;
}

/** What may be read behind the last letter. */
export const SPARE_LETTERS = 16;

const NEWLINE = 10;
const NEWLINES = 0x0a0a0a0a;
/** A one in each of four bytes. */
export const ONES = 0x01010101;
const SIXTEENS = 0x10101010;
const HIGHS = 0x80808080 | 0;
/** A text of a line costs as much as that of some thousand letters of a batch. */
const FEW_SLICES = 16;

/** Bits that are set in the highest of a byte for the first of four that is 0, and never below it; 0 where none is. */
export function zeroBytes(four: number): number {
  return (four - ONES) & ~four & HIGHS;
}

/** Which of the four bytes, from 0, the lowest bit of `zeroBytes` stands for. */
export function firstByte(bits: number): number {
  return (31 - Math.clz32(bits & -bits)) >> 3;
}

/** Bits as those of `zeroBytes`, for the first byte below 16: a newline, a return, a tab, a NUL byte. */
export function controlBytes(four: number): number {
  return (four - SIXTEENS) & ~four & HIGHS;
}

/** Where the next newline is, at `from` or after it. */
export function newlineAt(view: DataView, from: number): number {
  for (let at = from; ; at += 4) {
    const bits = zeroBytes(view.getInt32(at, true) ^ NEWLINES);
    if (bits !== 0) return at + firstByte(bits);
  }
}

/** The same of a line in which no NUL byte hides what it is; −1 for another. */
export function plainEnd({ bytes, view }: Letters, from: number): number {
  for (let at = from; ;) {
    const bits = controlBytes(view.getInt32(at, true));
    if (bits === 0) at += 4;
    else {
      at += firstByte(bits);
      if (bytes[at] === NEWLINE) return at;
      if (bytes[at] === 0) return -1;
      at++;
    }
  }
}

/** Room for `bytes` letters, with newlines behind them. */
export function makeLetters(bytes: number): Letters {
  const letters = new Uint8Array(bytes + SPARE_LETTERS).fill(NEWLINE);
  return { bytes: letters, view: new DataView(letters.buffer) };
}

/** Whole lines of a byte a character, one batch after the other in the same place. */
export class LineBatch implements Letters {
  readonly bytes: Uint8Array;
  readonly view: DataView;
  /** Rises with each batch. */
  serial = 0;
  private length = 0;
  private decoded: string | null = null;
  private slices = 0;
  private readonly decoder = new TextDecoder('windows-1252');

  /** Holds batches of up to `most` bytes. */
  constructor(most: number) {
    ({ bytes: this.bytes, view: this.view } = makeLetters(most));
  }

  /** Takes lines in place of those before. */
  load(lines: Uint8Array): void {
    this.bytes.set(lines);
    this.bytes.fill(NEWLINE, lines.length, lines.length + SPARE_LETTERS);
    this.length = lines.length;
    this.decoded = null;
    this.slices = 0;
    this.serial++;
  }

  /** The same as a text, decoded when it is first asked for: places in both are the same. */
  get text(): string {
    this.decoded ??= this.decoder.decode(this.bytes.subarray(0, this.length));
    return this.decoded;
  }

  /** A part of the text. Where few are asked for, the rest is not decoded. */
  slice(from: number, to: number): string {
    if (this.decoded === null && this.slices++ < FEW_SLICES) return this.decoder.decode(this.bytes.subarray(from, to));
    return this.text.slice(from, to);
  }
}
