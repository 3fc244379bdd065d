import type { Recording } from '../../model/recording.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { STREAM_SCHEMA } from './layout.ts';
import { StreamParser } from './stream-parser.ts';

/** The project's own open stream, as a recorder writes it to a file. */
export const streamFormat: Format = {
  name: 'recording',
  words: 'a recording of this tool',
  runtime: null,
  detect: (headLines) => (headLines.some((line) => line.includes('"hello"') && line.includes(STREAM_SCHEMA)) ? 1 : 0),
  createParser: (): FormatParser => {
    const parser = new StreamParser();
    return {
      write: (chunk) => parser.write(chunk),
      end: () => parser.end(),
      get runs(): readonly Recording[] {
        return parser.recording.heaps.length > 0 ? [parser.recording] : [];
      },
    };
  },
};
