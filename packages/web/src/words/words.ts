import measuresText from '../../../../docs/measures.md?raw';
import wordsText from '../../../../docs/words.md?raw';
import { readMeasures, readWords, type Word } from './read-words.ts';

/** The words of the product, as docs/words.md tells them. */
export const WORDS = readWords(wordsText);
/** How figures are counted, as docs/measures.md tells it. */
export const MEASURE_TEXTS = readMeasures(measuresText);

/** A word by its name; null where the page names one that docs/words.md does not have. */
export function wordOf(name: string): Word | null {
  return WORDS.find(({ word }) => word.split(', ').includes(name)) ?? null;
}
