import { z } from 'zod';
import { notebookSchema } from './notebook.ts';

/** First line of an exported recording, before compression: one JSON object, then the parts' bytes end to end. */
const RECORDING_SCHEMA = 'brisk-heron/recording@1';

const recordingHeaderSchema = z.object({
  schema: z.literal(RECORDING_SCHEMA),
  name: z.string().max(500),
  createdEpochMs: z.number(),
  /** Files that the recording was made of, in order, with their length in bytes. */
  parts: z
    .array(z.object({ name: z.string().max(500), bytes: z.number().int().nonnegative() }))
    .min(1)
    .max(10_000),
  /** Checksums of the parts' bytes, taken as one: what is damaged is then known, and what is not is read. */
  sums: z
    .object({
      blockBytes: z
        .number()
        .int()
        .min(1024)
        .max(2 ** 31),
      bytes: z.number().int().nonnegative(),
      crc32: z
        .array(
          z
            .number()
            .int()
            .nonnegative()
            .max(2 ** 32 - 1),
        )
        .max(20_000),
    })
    .optional(),
  /** What of its source the recording lacked when it was exported, in words. */
  missing: z.string().max(1000).optional(),
  /** What the engineer wrote beside the recording. */
  notebook: notebookSchema.optional(),
});

export type RecordingHeader = z.infer<typeof recordingHeaderSchema>;

/** Bytes a header line may have. */
export const MAX_HEADER_BYTES = 1024 * 1024;

const HEADER_START = `{"schema":"${RECORDING_SCHEMA}"`;

/** The header as its line, with the newline. `schema` comes first, so that the format is known by its first bytes. */
export function writeRecordingHeader(header: Omit<RecordingHeader, 'schema'>): string {
  return `${JSON.stringify({ schema: RECORDING_SCHEMA, ...header })}\n`;
}

/** True when the text begins like an exported recording. */
export function isRecordingHeader(text: string): boolean {
  return text.startsWith(HEADER_START);
}

/** The header of an exported recording, or why it cannot be used. */
export type HeaderCheck =
  { readonly ok: true; readonly header: RecordingHeader } | { readonly ok: false; readonly why: string };

/** Reads a header line; never throws. */
export function readRecordingHeader(line: string): HeaderCheck {
  try {
    const result = recordingHeaderSchema.safeParse(JSON.parse(line));
    if (result.success) return { ok: true, header: result.data };
    return {
      ok: false,
      why: `expected the header of ${RECORDING_SCHEMA}: ${result.error.issues[0]?.message ?? 'not understood'}`,
    };
  } catch {
    return { ok: false, why: `expected the header of ${RECORDING_SCHEMA} as one line of JSON; is the file cut off?` };
  }
}
