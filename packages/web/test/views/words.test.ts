import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { filesIn } from '../../../../test/files-in.ts';
import { readMeasures, readWords, slugOf } from '../../src/words/read-words.ts';

const ROOT = join(__dirname, '../../../..');
const words = readWords(readFileSync(join(ROOT, 'docs/words.md'), 'utf8'));
const measures = readMeasures(readFileSync(join(ROOT, 'docs/measures.md'), 'utf8'));

test('every word of the product has a sentence, and none is of the code', () => {
  expect(words.length).toBeGreaterThan(25);
  for (const { word, meaning } of words) {
    expect(word).not.toBe('');
    expect(meaning.length).toBeGreaterThan(12);
  }
  expect(words.map(({ word }) => word)).not.toContain('origin');
});

test('what a word is counted under is told', () => {
  const titles = measures.map(({ title }) => title);
  for (const { word, measure } of words) if (measure !== '') expect([word, ...titles]).toContain(measure);
  expect(measures.every(({ text }) => text.length > 40)).toBe(true);
});

test('every term that the page explains is a word', () => {
  const known = words.flatMap(({ word }) => word.split(', '));
  const { all } = filesIn(join(ROOT, 'packages/web/src'));
  const used = all
    .filter((file) => /\.(?:ts|vue)$/.test(file))
    .flatMap((file) => [...readFileSync(file, 'utf8').matchAll(/(?:<TermText word|\bterm)(?:="|: ')([a-z ]+)["']/g)])
    .map(([, word]) => word!);
  expect(used.length).toBeGreaterThan(8);
  expect(used.filter((word) => !known.includes(word))).toEqual([]);
});

test('a title in an address is lower case and joined by hyphens', () => {
  expect(slugOf('Least share left to the program')).toBe('least-share-left-to-the-program');
  expect(slugOf('What came & went, unseen.')).toBe('what-came-went-unseen');
});
