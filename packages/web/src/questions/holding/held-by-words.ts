import type { HeldBy } from '@brisk-heron/core';

const WORDS: ReadonlyMap<HeldBy, string> = new Map([
  ['ownFrame', 'own frame'],
  ['band', 'when they were born'],
]);

/** What objects are told together by, as people say it. */
export function heldByWords(by: HeldBy): string {
  return WORDS.get(by) ?? by;
}
