import type { Recording, SourceFormat } from '../model/recording.ts';
import type { RuntimeTraits } from '../model/runtime-traits.ts';

/** What every format gives: bytes in, runs out. Chunks may be cut anywhere; `end` reads a last line without its end. */
export interface FormatParser {
  write(chunk: Uint8Array): void;
  end(): void;
  /** The runs found so far, in file order; the last may still grow. Empty when nothing of the format came yet. */
  readonly runs: readonly Recording[];
}

/** One format, with all that is to be known of it from outside: it is registered by a line in the registry alone. */
export interface Format {
  readonly name: SourceFormat;
  /** What it is, for messages that say what was expected. */
  readonly words: string;
  /** The runtime whose words its recordings speak; null where each input tells its own. */
  readonly runtime: RuntimeTraits | null;
  /** Share of sure signs in the first lines of an input, 0 when it is not of this format. */
  detect(headLines: readonly string[]): number;
  createParser(): FormatParser;
}
