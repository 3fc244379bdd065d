import { z } from 'zod';
import { Sum, SUMS } from '../analysis/origin-sums.ts';
import { completeFind, type FindOption, findWords } from '../query/complete-find.ts';
import { piece } from '../study/piece.ts';
import { type Subject, WHOLE } from '../study/subject.ts';
import { measure } from './measure.ts';

/**
 * What may stand in the find field at the caret: terms, and words of the recording by what was allocated under them.
 */
export function completionOf(subject: Subject, text: string, caret: number): readonly FindOption[] {
  const words = subject.get(WORDS, null);
  return completeFind(words, text, caret);
}

const WORDS = piece(
  'find words',
  (subject: Subject, _: null) => {
    const { sums, flows } = subject.sums(WHOLE);
    return findWords(subject.recording, (originId) => sums[originId * SUMS + Sum.alloc]! + flows.bytes[originId]!);
  },
  1,
);

/** What may stand in the find field at the caret. */
export const completion = measure({
  name: 'completion',
  title: 'what may stand in the find field at the caret',
  ask: z.strictObject({
    text: z.string().max(2000).describe('what is typed so far'),
    caret: z.number().int().min(0).describe('where the caret stands'),
  }),
  answer: (side, { text, caret }): readonly FindOption[] => completionOf(side.subject, text, caret),
});
