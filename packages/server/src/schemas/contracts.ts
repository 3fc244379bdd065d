import { z } from 'zod';

/** Name of a stream: chosen by who records, used as a file name. */
export const streamIdSchema = z
  .string()
  .regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/, 'expected 1 to 100 letters, digits, dots, dashes or underscores');

/** The id of a stream, as it stands in an address. */
export const streamParamsSchema = z.object({ id: streamIdSchema });

/** Where in the stream a batch begins: what was acknowledged so far. */
export const offsetQuerySchema = z.object({ offset: z.coerce.number().int().nonnegative().default(0) });

/** Where a batch belongs: its offset, the run it is of, and the log's name where it is a log as it came. */
export const batchQuerySchema = offsetQuerySchema.extend({
  run: z.string().max(64).default(''),
  log: z.string().max(200).default(''),
});

/** Label of a mark. */
export const labelSchema = z.string().trim().min(1, 'expected a label as the body').max(200);

/** What may be asked of a connected recorder. */
export const commandSchema = z.discriminatedUnion('do', [
  /** `epochMs`, the wall clock when it was set, is added here: a recorder fetches commands a moment later. */
  z.object({ do: z.literal('mark'), label: labelSchema, epochMs: z.number().int().nonnegative().optional() }),
  z.object({ do: z.literal('births'), on: z.boolean().optional() }),
  z.object({ do: z.literal('startOver') }),
  z.object({
    do: z.literal('interval'),
    bytes: z
      .number()
      .int()
      .min(1024)
      .max(2 ** 30),
  }),
  z.object({ do: z.literal('collect') }),
  z.object({
    do: z.literal('inventory'),
    insist: z.boolean().optional(),
    workers: z.boolean().optional(),
    ids: z.boolean().optional(),
  }),
]);
export type RecorderCommand = z.infer<typeof commandSchema>;

/** How the recorded program ended. */
export const endSchema = z.object({ exitCode: z.number().int().nullable(), signal: z.string().max(20).nullable() });

/** What the server keeps beside a stream's lines. */
export const streamMetaSchema = z.object({
  id: streamIdSchema,
  name: z.string(),
  program: z.string(),
  runtime: z.string(),
  startedEpochMs: z.number(),
  ended: endSchema.nullable(),
});
export type StreamMeta = z.infer<typeof streamMetaSchema>;
