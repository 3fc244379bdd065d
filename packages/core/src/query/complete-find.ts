import { NONE } from '../base/ids.ts';
import { formatBytes } from '../base/units.ts';
import { ANONYMOUS, fileName } from '../model/call-path.ts';
import { nearestOwnPaths } from '../model/own-frame.ts';
import { packageName } from '../model/package-name.ts';
import type { Recording } from '../model/recording.ts';
import { FIND_CHOICES, FIND_PLACES, findPartAt, findTermText, type FindPlace } from './find-terms.ts';

/** A word that a recording can be searched for, with the bytes that were allocated under it. */
export interface FindWord {
  readonly place: FindPlace;
  readonly word: string;
  readonly weight: number;
}

/**
 * What may stand in the field instead of the term under the caret, and what is to be said of it: its meaning, or the
 * bytes under a word.
 */
export interface FindOption {
  readonly text: string;
  readonly hint: string;
}

/**
 * Words of a recording by what their origins weigh, the heaviest first: functions, files and packages of allocating and
 * own frames, types, threads, heaps.
 */
export function findWords(recording: Recording, weightOf: (originId: number) => number): FindWord[] {
  const { origins, paths, frames } = recording.tables;
  const { pathId, typeId, threadId, heapId } = origins.col;
  const nearest = nearestOwnPaths(recording);
  const weights = new Map<string, Map<string, number>>(FIND_PLACES.map((place) => [place, new Map<string, number>()]));
  const add = (place: FindPlace, word: string, weight: number): void => {
    const words = weights.get(place)!;
    if (word !== '') words.set(word, (words.get(word) ?? 0) + weight);
  };
  const addFrame = (frameId: number, weight: number): void => {
    const file = recording.strings.text(frames.col.fileId[frameId]!);
    add('function', recording.strings.text(frames.col.functionId[frameId]!) || ANONYMOUS, weight);
    add('file', fileName(file), weight);
    add('package', packageName(file), weight);
  };
  for (let originId = 0; originId < origins.length; originId++) {
    const weight = weightOf(originId);
    const path = pathId[originId]!;
    if (path !== NONE) {
      addFrame(paths.col.frameId[path]!, weight);
      if (nearest[path] !== path) addFrame(paths.col.frameId[nearest[path]!]!, weight);
    }
    if (typeId[originId] !== NONE) add('type', recording.strings.text(typeId[originId]!), weight);
    if (threadId[originId] !== NONE) add('thread', recording.strings.text(threadId[originId]!), weight);
    if (recording.heaps.length > 1) add('heap', recording.heaps[heapId[originId]!]!.name, weight);
    if (recording.outsideTypes.size > 0)
      add('space', recording.outsideTypes.has(typeId[originId]!) ? 'outside' : 'the heap', weight);
  }
  return FIND_PLACES.flatMap((place) =>
    [...weights.get(place)!].map(([word, weight]) => ({ place, word, weight })),
  ).sort((a, b) => b.weight - a.weight);
}

const MOST_OPTIONS = 10;

/**
 * Terms that the one under the caret may become: those that begin so, then words that hold what is typed, the heaviest
 * first.
 */
export function completeFind(words: readonly FindWord[], text: string, caret: number): readonly FindOption[] {
  const part = findPartAt(text, caret);
  const before = text.slice(part.from, caret).toLowerCase();
  const not = before.startsWith('!') ? '!' : '';
  const said = before.slice(not.length);
  const [, name = '', value = ''] = /^([a-z]+)=(.*)$/s.exec(said) ?? [];
  const place = FIND_PLACES.find((each) => each === name);
  const options =
    name === '' || place === undefined
      ? [
          ...TERMS.filter((term) => said !== '' && term.text !== said && term.text.startsWith(said)),
          ...(said === '' ? [] : wordOptions(words, null, said)),
        ]
      : wordOptions(words, place, value.replaceAll('"', ''));
  return options.slice(0, MOST_OPTIONS).map((option) => ({ ...option, text: not + option.text }));
}

/**
 * The field once an option has taken the place of the term under the caret, and where the caret then is. A place waits
 * for its word; anything else is a whole term, with a blank behind it.
 */
export function takeOption(
  text: string,
  caret: number,
  option: string,
): { readonly text: string; readonly caret: number } {
  const { from, to } = findPartAt(text, caret);
  const rest = text.slice(to);
  const head = `${text.slice(0, from)}${option}${option.endsWith('=') || rest.startsWith(' ') ? '' : ' '}`;
  return { text: `${head}${rest}`, caret: head.length };
}

function wordOptions(words: readonly FindWord[], place: FindPlace | null, typed: string): FindOption[] {
  const found: FindOption[] = [];
  for (const word of words) {
    if (found.length >= MOST_OPTIONS) break;
    if ((place === null || word.place === place) && word.word.toLowerCase().includes(typed))
      found.push({ text: findTermText(word.place, word.word), hint: formatBytes(word.weight) });
  }
  return found;
}

const FATE_HINTS = {
  kept: 'alive at the end and settled',
  died: 'dead by the end',
  recent: 'too young to tell',
} as const;
const WHEN_HINTS = { idle: 'born while the program allocated next to nothing', busy: 'born while it worked' } as const;
const KIND_HINTS = {
  object: 'objects seen one by one',
  flow: 'bytes whose objects were not seen',
  collection: 'collections, in the ledger',
  mark: 'marks, in the ledger',
} as const;

const TERMS: readonly FindOption[] = [
  ...FIND_PLACES.map((place) => ({
    text: `${place}=`,
    hint: `a word in the ${place}${place === 'heap' ? "'s name" : ''}`,
  })),
  { text: 'line=', hint: 'the line of a frame; alerts.js:14 for one of a file' },
  ...['size>1MiB', 'size<64', 'size=1KiB..4KiB'].map((text) => ({ text, hint: 'size of the object' })),
  ...['age>1min', 'age<500ms', 'age=1s..5s'].map((text) => ({ text, hint: 'how old it got' })),
  ...['born=0:10..0:20', 'born>1:00'].map((text) => ({ text, hint: 'when it was born' })),
  ...FIND_CHOICES.fate.map((fate) => ({ text: `fate=${fate}`, hint: FATE_HINTS[fate] })),
  ...FIND_CHOICES.when.map((when) => ({ text: `when=${when}`, hint: WHEN_HINTS[when] })),
  ...FIND_CHOICES.kind.map((kind) => ({ text: `kind=${kind}`, hint: KIND_HINTS[kind] })),
];
