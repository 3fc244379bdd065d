import { NarrowText } from './text-encoding.ts';

declare const TextDecoder: new (label: string) => { decode(bytes: Uint8Array): string };

/** How the text of a source lies in its bytes. */
export interface SourceShape {
  readonly bytes: number;
  /** Bytes that a mark takes at the beginning. */
  readonly markBytes: number;
  /** True where a character takes two bytes. */
  readonly isWide: boolean;
  readonly littleEndian: boolean;
}

/** Finds text again in the stored bytes of a source. */
export class SourceText {
  private readonly shape: SourceShape;

  constructor(shape: SourceShape) {
    this.shape = shape;
  }

  /**
   * Offset in the input of what a parser calls byte `textOffset`: text of two bytes a character, or with a mark, is
   * handed on without.
   */
  inputOffset(textOffset: number): number {
    return this.shape.markBytes + textOffset * (this.shape.isWide ? 2 : 1);
  }

  /** Lines out of bytes of the input that begin at a character. */
  linesOf(bytes: Uint8Array): string[] {
    const text = this.shape.isWide ? new NarrowText(this.shape.littleEndian).narrow(bytes) : bytes;
    return new TextDecoder('utf-8').decode(text).replaceAll('\u0000', '').split(/\r?\n/);
  }
}
