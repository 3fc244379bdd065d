/** Where a word is looked for. */
export const FIND_PLACES = ['function', 'file', 'package', 'type', 'thread'] as const;
export type FindPlace = (typeof FIND_PLACES)[number];

/** One word of the find field: in lower case, looked for in one place or in all; `not` for what must not be there. */
export interface FindTerm {
  readonly word: string;
  readonly place: FindPlace | null;
  readonly not: boolean;
}

export interface FindTerms {
  readonly terms: readonly FindTerm[];
  /** What could not be understood, for people; '' when all was. Words that were are looked for all the same. */
  readonly problem: string;
}

/**
 * Reads the find field: words apart by blanks, each found anywhere; `type=byte[]` in one place only; `!word` or `!file=wire.js` for what
 * must not be there. Never throws.
 */
export function readFind(text: string): FindTerms {
  const terms: FindTerm[] = [];
  let problem = '';
  for (const part of text.toLowerCase().split(/\s+/).filter((each) => each !== '' && each !== '!')) {
    const not = part.startsWith('!');
    const said = not ? part.slice(1) : part;
    const equals = said.indexOf('=');
    const name = said.slice(0, Math.max(0, equals));
    const place = FIND_PLACES.find((each) => each === name) ?? null;
    if (equals > 0 && /^[a-z]+$/.test(name) && place === null) problem = `expected one of ${FIND_PLACES.map((each) => `${each}=`).join(', ')} before a word, found "${name}="`;
    else if (place !== null && equals === said.length - 1) problem = `expected a word after "${said}", as ${said}${place === 'type' ? 'byte[]' : 'alerts'}`;
    else terms.push({ word: place === null ? said : said.slice(equals + 1), place, not });
  }
  return { terms, problem };
}
