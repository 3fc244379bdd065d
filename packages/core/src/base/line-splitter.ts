import { LineBatch, newlineAt } from './line-batch.ts';

/** What a line splitter hands over: the line without its end, its number from 1, and the offset of its first byte. */
export type LineSink = (line: string, lineNumber: number, byteOffset: number) => void;

/** Bytes a single line may have; the rest of a longer one is dropped and `onLong` told. */
export const MAX_LINE_BYTES = 4 * 1024 * 1024;

/** Minimal face of the standard decoder, so that the core needs no DOM or Node types. */
interface Decoder {
  decode(bytes: Uint8Array): string;
}
declare const TextDecoder: new (label: string) => Decoder;

const NEWLINE = 10;
const CARRIAGE_RETURN = 13;
const BATCH = 1 << 16;

/** How bytes are read as lines, and what is done with lines that are too long. */
export interface LineSplitterOptions {
  /**
   * `windows-1252` makes one character of every byte, which is fastest and exact for logs whose grammar is ASCII;
   * `utf-8` where text matters.
   */
  readonly encoding: 'utf-8' | 'windows-1252';
  /**
   * Is offered each line by where it begins in its batch, before it is cut out of it; answers where its newline is, or
   * −1 for one that is to be handed over, as one in which a NUL byte hides what it is. Only with one character a byte,
   * not for lines cut by a chunk's end, and not for lines that are too long.
   */
  readonly takeWithin?:
    ((batch: LineBatch, from: number, lineNumber: number, byteOffset: number) => number) | undefined;
  /**
   * Is offered each line's bytes from where it begins to the end of a line, its own or another, before its own is looked
   * for and a text made of it; answers where it ends, or −1 for one that is to be handed over, as those are that have
   * over MAX_LINE_BYTES. Only with `utf-8`.
   */
  readonly takeBytes?: (bytes: Uint8Array, from: number, lineNumber: number, byteOffset: number) => number;
  /** No more lines come of a batch, whose bytes and text are gone after this. */
  readonly onBatchEnd?: ((batch: LineBatch) => void) | undefined;
  readonly onLong?: (lineNumber: number, byteOffset: number) => void;
}

/**
 * Cuts chunks of bytes into lines. Any way of cutting the input gives the same lines. Holds at most one partial line of
 * MAX_LINE_BYTES. CR before LF is dropped. NUL bytes are dropped.
 */
export class LineSplitter {
  private readonly sink: LineSink;
  private readonly options: LineSplitterOptions;
  private readonly decoder: Decoder;
  private readonly batch: LineBatch | null;
  private partial: Uint8Array[] = [];
  private partialBytes = 0;
  private lineNumber = 0;
  private lineStart = 0;
  private consumed = 0;

  constructor(sink: LineSink, options: LineSplitterOptions) {
    this.sink = sink;
    this.options = options;
    this.decoder = new TextDecoder(options.encoding);
    this.batch = options.takeWithin === undefined ? null : new LineBatch(BATCH);
  }

  /** Lines handed over so far. */
  get lines(): number {
    return this.lineNumber;
  }

  /** Bytes written so far. */
  get bytes(): number {
    return this.consumed;
  }

  /** Takes the next chunk; it is copied where a part of it must be kept. */
  write(chunk: Uint8Array): void {
    let start = 0;
    if (this.partialBytes > 0) {
      const end = chunk.indexOf(NEWLINE);
      if (end < 0) return this.keep(chunk, 0);
      this.keep(chunk.subarray(0, end), 0);
      this.flushPartial();
      start = end + 1;
      this.consumed += 1;
      this.lineStart = this.consumed;
    }
    const lastNewline = chunk.lastIndexOf(NEWLINE);
    if (lastNewline >= start) {
      this.emitWhole(chunk, start, lastNewline + 1);
      start = lastNewline + 1;
    }
    if (start < chunk.length) this.keep(chunk, start);
  }

  /** Hands over a last line that had no end. */
  end(): void {
    if (this.partialBytes > 0) this.flushPartial();
    this.lineStart = this.consumed;
  }

  private emitWhole(chunk: Uint8Array, from: number, to: number): void {
    if (this.options.encoding === 'utf-8') this.emitEach(chunk, from, to);
    else this.emitBatched(chunk, from, to);
  }

  // One character is one byte, so a whole batch is decoded at once and cut as text.
  private emitBatched(chunk: Uint8Array, from: number, to: number): void {
    let start = from;
    while (start < to) {
      let end = Math.min(to, start + BATCH);
      if (end < to) {
        const cut = chunk.lastIndexOf(NEWLINE, end - 1);
        end = cut >= start ? cut + 1 : chunk.indexOf(NEWLINE, end) + 1;
      }
      this.emitBatch(chunk.subarray(start, end));
      start = end;
    }
  }

  private emitBatch(bytes: Uint8Array): void {
    const { batch } = this;
    const { takeWithin } = this.options;
    // More than a batch is one line alone.
    if (batch === null || takeWithin === undefined || bytes.length > BATCH)
      return this.emitTexts(this.decoder.decode(bytes));
    batch.load(bytes);
    const began = this.consumed;
    for (let at = 0; at < bytes.length;) {
      let stop = takeWithin(batch, at, this.lineNumber + 1, began + at);
      if (stop < 0) {
        stop = newlineAt(batch.view, at);
        this.lineStart = began + at;
        this.emit(batch.slice(at, stop), stop - at);
      } else this.lineNumber++;
      at = stop + 1;
    }
    this.consumed = this.lineStart = began + bytes.length;
    this.options.onBatchEnd?.(batch);
  }

  private emitTexts(text: string): void {
    const mayHoldNul = text.includes('\u0000');
    for (let at = 0; at < text.length;) {
      const stop = text.indexOf('\n', at);
      this.emit(text.slice(at, stop), stop - at, mayHoldNul);
      this.consumed += stop + 1 - at;
      this.lineStart = this.consumed;
      at = stop + 1;
    }
  }

  private emitEach(chunk: Uint8Array, from: number, to: number): void {
    const lines = chunk.subarray(from, to);
    for (let at = 0; at < lines.length;) {
      let stop = this.offer(lines, at);
      if (stop < 0) {
        stop = lines.indexOf(NEWLINE, at);
        this.emit(this.decoder.decode(lines.subarray(at, stop)), stop - at);
      }
      this.consumed += stop + 1 - at;
      this.lineStart = this.consumed;
      at = stop + 1;
    }
  }

  // Where the line ends that was taken as bytes, −1 for one that was not.
  private offer(lines: Uint8Array, from: number): number {
    const stop = this.options.takeBytes?.(lines, from, this.lineNumber + 1, this.lineStart) ?? -1;
    if (stop >= 0) this.lineNumber++;
    return stop;
  }

  private keep(chunk: Uint8Array, from: number): void {
    const room = MAX_LINE_BYTES - this.partialBytes;
    const part = chunk.slice(from, from + Math.max(0, room));
    if (part.length > 0) this.partial.push(part);
    this.partialBytes += chunk.length - from;
    this.consumed += chunk.length - from;
  }

  private flushPartial(): void {
    const held = concatBytes(this.partial);
    const bytes = this.partialBytes;
    this.partial = [];
    this.partialBytes = 0;
    if (bytes > MAX_LINE_BYTES || this.offer(held, 0) < 0) this.emit(this.decoder.decode(held), bytes);
  }

  private emit(raw: string, bytes: number, mayHoldNul = true): void {
    this.lineNumber++;
    let line = raw;
    if (bytes > MAX_LINE_BYTES) {
      this.options.onLong?.(this.lineNumber, this.lineStart);
      line = line.slice(0, MAX_LINE_BYTES);
    }
    if (line.charCodeAt(line.length - 1) === CARRIAGE_RETURN) line = line.slice(0, -1);
    if (mayHoldNul && line.includes('\u0000')) line = line.replaceAll('\u0000', '');
    this.sink(line, this.lineNumber, this.lineStart);
  }
}

/** One array holding the parts end to end; the part itself when there is one. */
export function concatBytes(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0]!;
  let length = 0;
  for (const part of parts) length += part.length;
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
