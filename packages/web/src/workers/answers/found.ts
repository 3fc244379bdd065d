import { completeFind, findWords, Sum, SUMS, type FindOption } from '@brisk-heron/core';
import { WHOLE, type Evidence } from './evidence.ts';

/**
 * What may stand in the find field at the caret: terms, and words of the recording by what was allocated under them.
 */
export function completionOf(evidence: Evidence, text: string, caret: number): readonly FindOption[] {
  const words = evidence.once(
    'find words',
    '',
    () => {
      const { sums, flows } = evidence.sums(WHOLE);
      return findWords(evidence.recording, (originId) => sums[originId * SUMS + Sum.alloc]! + flows.bytes[originId]!);
    },
    1,
  );
  return completeFind(words, text, caret);
}
