import { z } from 'zod';
import { PAUSE_GROUPINGS } from '../analysis/pause-kinds.ts';
import { programPauses } from '../analysis/program-pauses.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { PAUSE_STEPS, stepPause } from '../query/step-pauses.ts';
import { measure } from './measure.ts';

/** Row of the pause that a step leads to; −1 for none. */
export const pauseStep = measure({
  name: 'pauseStep',
  title: 'the pause that a step from another leads to',
  needs: 'collections',
  ask: z.strictObject({
    row: z.number().int().min(-1).default(-1).describe('row of the pause to step from; -1 for none'),
    step: z.enum(PAUSE_STEPS).default('next').describe('where to go'),
    by: z.enum(PAUSE_GROUPINGS).default('label').describe('what makes a kind'),
    fromMs: z.number().nullable().default(null).describe('where to begin without a pause, in ms'),
  }),
  answer: ({ recording, span }, { row, step, by, fromMs }): { readonly row: number } => {
    const pauses = programPauses(recording, span ?? wholeSpan(recording));
    return { row: stepPause(recording, pauses, row, step, { by, ...(fromMs === null ? {} : { fromMs }) }) };
  },
});
