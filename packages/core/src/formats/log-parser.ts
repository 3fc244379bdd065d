import type { Recording } from '../model/recording.ts';

/** What every format gives: bytes in, runs out. Chunks may be cut anywhere; `end` reads a last line without its end. */
export interface FormatParser {
  write(chunk: Uint8Array): void;
  end(): void;
  /** The runs found so far, in file order; the last may still grow. Empty when nothing of the format came yet. */
  readonly runs: readonly Recording[];
}

/** One format: how to know it by its content, and its parser. */
export interface Format {
  readonly name: string;
  /** Share of sure signs in the first lines of an input, 0 when it is not of this format. */
  detect(headLines: readonly string[]): number;
  createParser(): FormatParser;
}
