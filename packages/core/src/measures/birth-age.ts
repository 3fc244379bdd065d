import { z } from 'zod';
import { type BirthAgeMap, birthAgeMap } from '../analysis/survival/birth-age-map.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** Deaths by time of birth and age. */
export const birthAge = measure({
  name: 'birthAge',
  title: 'bytes that died by time of birth and by age, and what still lives: a Lexis diagram',
  needs: 'objects',
  ask: z.strictObject({
    ...LOOK_ASK,
    columns: z.number().int().min(1).max(2000).default(120).describe('steps of the time of birth'),
    rows: z.number().int().min(1).max(1000).default(60).describe('steps of the age'),
    isLog: z.boolean().default(true).describe('ages by their logarithm; false: in equal steps'),
  }),
  answer: (side, { columns, rows, isLog, ...ask }): BirthAgeMap => {
    const subject = side.found(ask);
    const look = side.look(ask);
    return birthAgeMap(subject.recording, subject.spanOf(look), subject.chosen(look.find), { columns, rows, isLog });
  },
});
