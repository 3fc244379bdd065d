import { z } from 'zod';

/** Milliseconds by the recording's clock, whose 0 is its start; what began before it lies below. */
const TIME = z.number();

/** What of a run's time a side is: all of it, a span, an instant, or the round between two marks of one label. */
const extentSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('whole') }),
  z.object({ kind: z.literal('span'), fromMs: TIME, toMs: TIME }),
  z.object({ kind: z.literal('moment'), tMs: TIME }),
  /** `number` counts from 1. */
  z.object({ kind: z.literal('round'), label: z.string(), number: z.number().int().positive() }),
]);

/** One side of a question: which recording, and what of it. */
export const sideSchema = z.object({
  /** The recording's id where several are open. */
  recording: z.string().default(''),
  /** Which run of the input, from 0; null for the last. */
  run: z.number().int().min(0).nullable().default(null),
  /** Ids of the heaps looked at; null for all. */
  heaps: z.array(z.number().int().min(0)).nullable().default(null),
  extent: extentSchema.default({ kind: 'whole' }),
});

export type Extent = z.infer<typeof extentSchema>;
/** A side as it is asked; what is left out is the default. */
export type SideAsk = z.input<typeof sideSchema>;
/** A side with everything said. */
export type Side = z.output<typeof sideSchema>;

/** All of a recording's last run. */
export const WHOLE_SIDE: Side = { recording: '', run: null, heaps: null, extent: { kind: 'whole' } };
