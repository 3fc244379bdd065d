import { z } from 'zod';

/** What an engineer notes beside a recording; it goes with the recording into exported files. */
export const notebookSchema = z.object({
  /** The limit as typed, in bytes; null to take the runtime's. */
  limitBytes: z.number().positive().nullable(),
  /** The settle time as typed; null to take the one that the lifetimes suggest. */
  settleMs: z.number().nonnegative().nullable(),
  /** Rules for own code as typed (model/own-frame.ts); null to take the source's. */
  ownRules: z.array(z.string().max(300)).max(200).nullable().default(null),
  /** Moments kept by name, in order of time. */
  moments: z.array(z.object({ name: z.string().max(200), tMs: z.number() })).max(10_000),
});

export type Notebook = z.infer<typeof notebookSchema>;

/** A notebook in which nothing was noted. */
export const EMPTY_NOTEBOOK: Notebook = { limitBytes: null, settleMs: null, ownRules: null, moments: [] };
