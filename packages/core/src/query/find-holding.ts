import type { HoldingTerm } from '../analysis/holding/object-sets.ts';
import { parseBytes } from '../base/parse-units.ts';
import { findParts } from './find-terms.ts';

/** What a find of an inventory asks for; `problem` says what could not be understood, '' when all was. */
export interface HoldingFind {
  readonly terms: readonly HoldingTerm[];
  readonly problem: string;
}

const ANY = { word: '', low: 0, high: Infinity } as const;
const EXPECTED = 'a word, type=Buffer, own>1MiB, held>10MiB, field=cache or site=alerts';

/** Reads a find of an inventory: words of types, `type=`, `own` and `held` with a size, `field=`, `site=`; `!` for what must not hold. */
export function readHoldingFind(text: string): HoldingFind {
  const read = findParts(text).map(({ text: part }) => readTerm(part));
  return {
    terms: read.filter((each): each is HoldingTerm => typeof each !== 'string'),
    problem: read.find((each): each is string => typeof each === 'string') ?? '',
  };
}

function readTerm(part: string): HoldingTerm | string {
  const not = part.startsWith('!');
  const said = not ? part.slice(1) : part;
  const [, name = '', sign = '', rest = ''] = /^([a-z]+)(>=|<=|=|>|<)(.*)$/s.exec(said) ?? [];
  if (name === 'own' || name === 'size' || name === 'held') return readSizes(name, sign, rest, not);
  const word = (name === '' ? said : rest).replaceAll('"', '').toLowerCase();
  const isWord = name === '' || ((name === 'type' || name === 'field' || name === 'site') && sign === '=');
  if (!isWord || word === '') return `expected ${EXPECTED}, found "${part}"`;
  return { ...ANY, of: name === 'field' || name === 'site' ? name : 'type', word, not };
}

function readSizes(name: 'own' | 'size' | 'held', sign: string, rest: string, not: boolean): HoldingTerm | string {
  const [low = NaN, high = low] = rest.split('..').map(parseBytes);
  const of = name === 'held' ? 'held' : 'own';
  if (Number.isNaN(low + high))
    return `expected sizes as ${name}>1MiB or ${name}=1KiB..4KiB, found "${name}${sign}${rest}"`;
  if (sign === '=') return { ...ANY, of, low, high, not };
  if (sign.startsWith('>')) return { ...ANY, of, low: sign === '>' ? low + 1 : low, not };
  return { ...ANY, of, high: sign === '<' ? low - 1 : low, not };
}
