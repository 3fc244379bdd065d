import { chargeGroups, sizeHistogram, type KeySizes } from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { keyWords, type KeyWords } from './key-words.ts';

/** How big the objects of each key are. */
export interface SizesAnswer {
  readonly rows: readonly (KeySizes & KeyWords)[];
  readonly keyCount: number;
}

const MOST_ROWS = 200;

export function sizesOf(evidence: Evidence, look: Look): SizesAnswer {
  const { recording } = evidence;
  const sizes = evidence.once('sizes', `${evidence.keyOf(look)} ${look.charge}`, () => sizeHistogram(recording, evidence.spanOf(look), chargeGroups(recording, look.charge), evidence.chosen(look.find)));
  return { keyCount: sizes.length, rows: sizes.slice(0, MOST_ROWS).map((each) => ({ ...each, ...keyWords(recording, look.charge, each.key) })) };
}
