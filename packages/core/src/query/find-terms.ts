import { parseBytes, parseClock, parseDuration } from '../base/parse-units.ts';

/** Where a word is looked for. A word without a place is looked for in all of them but the heap and the space. */
export const FIND_PLACES = ['function', 'file', 'package', 'type', 'thread', 'heap', 'space'] as const;
export type FindPlace = (typeof FIND_PLACES)[number];

/** What a range is of: an object's size, how old it got by the end of the span, or when it was born. */
const FIND_RANGES = ['size', 'age', 'born'] as const;
export type FindRange = (typeof FIND_RANGES)[number];

/**
 * What may be chosen from: what became of an object, whether the program worked when it was born, and what kind of
 * evidence a line or figure rests on.
 */
export const FIND_CHOICES = {
  fate: ['kept', 'died', 'recent'],
  when: ['idle', 'busy'],
  kind: ['object', 'flow', 'collection', 'mark'],
} as const;
export type FindFate = (typeof FIND_CHOICES.fate)[number];
export type FindWhen = (typeof FIND_CHOICES.when)[number];
export type FindKind = (typeof FIND_CHOICES.kind)[number];

/** One word of the find field: in lower case, looked for in one place or in all; `not` for what must not be there. */
export interface WordTerm {
  readonly is: 'word';
  readonly word: string;
  readonly place: FindPlace | null;
  /** Line that the frame is at as well, from 1; 0 for any. */
  readonly line: number;
  readonly not: boolean;
}

/** A range of sizes in bytes, or of ages or instants in milliseconds: from `low` to `high`, both included. */
export interface RangeTerm {
  readonly is: 'range';
  readonly of: FindRange;
  readonly low: number;
  readonly high: number;
  readonly not: boolean;
}

/** A fate, time or kind; several of the same are alternatives. */
export type ChoiceTerm =
  | { readonly is: 'choice'; readonly of: 'fate'; readonly value: FindFate; readonly not: boolean }
  | { readonly is: 'choice'; readonly of: 'when'; readonly value: FindWhen; readonly not: boolean }
  | { readonly is: 'choice'; readonly of: 'kind'; readonly value: FindKind; readonly not: boolean };

/** One term of a find. */
export type FindTerm = WordTerm | RangeTerm | ChoiceTerm;

/** The terms of a find. */
export interface FindTerms {
  readonly terms: readonly FindTerm[];
  /** What could not be understood, for people; '' when all was. Terms that were hold all the same. */
  readonly problem: string;
}

/** A term as it stands in the field: from a character to before another. */
export interface FindPart {
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

/** Takes the field apart at blanks, but for those between quotes. */
export function findParts(text: string): FindPart[] {
  return [...text.matchAll(/(?:"[^"]*"?|[^\s"])+/g)].map((found) => ({
    from: found.index,
    to: found.index + found[0].length,
    text: found[0],
  }));
}

/** The term that a caret stands in or right behind; an empty one where it stands in none. */
export function findPartAt(text: string, caret: number): FindPart {
  return findParts(text).find(({ from, to }) => from < caret && caret <= to) ?? { from: caret, to: caret, text: '' };
}

/**
 * Reads the find field: words apart by blanks, each found anywhere; `type=byte[]` in one place only, `thread="tide
 * worker"` with blanks; `size>1MiB`, `age=2s..1min`, `born=0:10..0:20`, `fate=kept`, `kind=object`; `!word` or `!file=wire.js` for what
 * must not be there; `alerts.js:14` or `line=14` for a frame's place. Never throws.
 */
export function readFind(text: string): FindTerms {
  const terms: FindTerm[] = [];
  let problem = '';
  for (const part of findParts(text.toLowerCase())) {
    const read = readPart(part.text);
    if (typeof read === 'string') problem = read;
    else if (read !== null) terms.push(read);
  }
  return { terms, problem };
}

const CHOICE_NAMES = ['fate', 'when', 'kind'] as const;
const NAMES = [...FIND_PLACES, 'line', ...FIND_RANGES, ...CHOICE_NAMES];

// A term, null for nothing yet, or what is wrong.
function readPart(part: string): FindTerm | string | null {
  if ((part.match(/"/g)?.length ?? 0) % 2 === 1) return `expected a closing quote in ${part}`;
  const not = part.startsWith('!');
  const said = not ? part.slice(1) : part;
  const [, name = '', sign = '', rest = ''] = /^([a-z]+)(>=|<=|=|>|<)(.*)$/s.exec(said) ?? [];
  const value = unquoted(rest);
  const place = FIND_PLACES.find((each) => each === name);
  const range = FIND_RANGES.find((each) => each === name);
  if (range !== undefined) return readRange(range, sign, value, not);
  const choice = CHOICE_NAMES.find((each) => each === name);
  if (choice !== undefined) return readChoice(choice, sign, value, not);
  if (name === 'line' && sign !== '')
    return sign === '=' && /^[1-9]\d*$/.test(value)
      ? { is: 'word', word: '', place: 'file', line: Number(value), not }
      : `expected a line as line=14 or alerts.js:14, found "${said}"`;
  if (place !== undefined && sign === '=')
    return value === ''
      ? `expected a word after "${name}=", as ${name}=${name === 'type' ? 'byte[]' : 'alerts'}`
      : { is: 'word', word: value, place, line: 0, not };
  if (sign === '=')
    return `expected one of ${NAMES.map((each) => `${each}=`).join(', ')} before a word, found "${name}="`;
  const word = unquoted(said);
  const [, file, line] = /^(.*[^:]):([1-9]\d*)$/.exec(word) ?? [];
  if (file !== undefined) return { is: 'word', word: file, place: 'file', line: Number(line), not };
  return word === '' ? null : { is: 'word', word, place: null, line: 0, not };
}

function unquoted(text: string): string {
  return text.replaceAll('"', '').trim();
}

const RANGES: Readonly<{ [R in FindRange]: { readonly parse: (text: string) => number; readonly wanted: string } }> = {
  size: { parse: parseBytes, wanted: 'a size as size>1MiB, size<=64 or size=1KiB..4KiB' },
  age: { parse: parseDuration, wanted: 'an age as age>1min, age<=500ms or age=1s..5s' },
  born: { parse: parseClock, wanted: 'times of birth as born=0:10..0:20, born>1:30 or born<5s' },
};

function readRange(of: FindRange, sign: string, value: string, not: boolean): FindTerm | string {
  const { parse, wanted } = RANGES[of];
  const [low, high] = value.split('..').map(parse);
  const wrong = `expected ${wanted}, found "${of}${sign}${value}"`;
  if (low === undefined || Number.isNaN(low) || (high !== undefined && (sign !== '=' || !(high >= low)))) return wrong;
  switch (sign) {
    case '>':
      return { is: 'range', of, low: justAbove(low), high: Infinity, not };
    case '>=':
      return { is: 'range', of, low, high: Infinity, not };
    case '<':
      return { is: 'range', of, low: 0, high: justBelow(low), not };
    case '<=':
      return { is: 'range', of, low: 0, high: low, not };
    // No object is exactly as old as something: an age or a birth without a range is a slip.
    default:
      return high === undefined && of !== 'size' ? wrong : { is: 'range', of, low, high: high ?? low, not };
  }
}

function readChoice(of: 'fate' | 'when' | 'kind', sign: string, value: string, not: boolean): FindTerm | string {
  const fate = FIND_CHOICES.fate.find((each) => each === value);
  const kind = FIND_CHOICES.kind.find((each) => each === value);
  if (sign === '=' && of === 'fate' && fate !== undefined) return { is: 'choice', of, value: fate, not };
  const when = FIND_CHOICES.when.find((each) => each === value);
  if (sign === '=' && of === 'when' && when !== undefined) return { is: 'choice', of, value: when, not };
  if (sign === '=' && of === 'kind' && kind !== undefined) return { is: 'choice', of, value: kind, not };
  return `expected ${FIND_CHOICES[of].map((each) => `${of}=${each}`).join(', ')}, found "${of}${sign}${value}"`;
}

// The next number either way, a part in 2⁵² of it.
function justAbove(value: number): number {
  return value === 0 ? Number.MIN_VALUE : value * (1 + Number.EPSILON);
}

function justBelow(value: number): number {
  return value * (1 - Number.EPSILON);
}

/** A term that finds a word in one place, quoted where it must be: `thread="tide worker"`. */
export function findTermText(place: FindPlace, word: string): string {
  const plain = word.replaceAll('"', '');
  return `${place}=${/\s/.test(plain) ? `"${plain}"` : plain}`;
}
