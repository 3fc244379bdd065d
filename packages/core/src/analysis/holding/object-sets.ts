import { NOBODY } from './dominators.ts';
import type { Holding, ObjectSets } from './holding.ts';
import { keysOfBirths, type SampledBirths } from './sampled-births.ts';
import { sampledStrata } from './sampled-sets.ts';

/**
 * By what objects of an inventory are told together: what each is, or where and when it was born, which is known of
 * those that were sampled.
 */
export const HELD_BY = ['type', 'package', 'site', 'ownFrame', 'thread', 'band'] as const;
export type HeldBy = (typeof HELD_BY)[number];

/** True for what is known of sampled objects only. */
export function isByBirth(by: HeldBy): by is 'site' | 'ownFrame' | 'thread' | 'band' {
  return by !== 'type' && by !== 'package';
}

/** What objects are asked for: words in the type, sizes in bytes, a field on the way; `not` for what must not hold. */
export interface HoldingTerm {
  readonly of: 'type' | 'own' | 'held' | 'field' | 'site';
  /** In lower case; '' for sizes. */
  readonly word: string;
  readonly low: number;
  readonly high: number;
  readonly not: boolean;
}

/**
 * Objects that can be reached and of which all terms hold, by what they are or, of those that were sampled, where they
 * were born. Linear in objects and ways.
 */
export function objectSets(
  holding: Holding,
  by: HeldBy,
  terms: readonly HoldingTerm[],
  births: SampledBirths | null = null,
): ObjectSets {
  const { graph, dominators } = holding;
  const fits = (
    object: number,
    of: readonly { readonly holds: (object: number) => boolean; readonly not: boolean }[],
  ) => of.every(({ holds, not }) => holds(object) !== not);
  const readers = terms.map((term) => ({ holds: holdsOf(holding, term, births), not: term.not, of: term.of }));
  const setOf = new Uint32Array(graph.objects).fill(NOBODY);
  if (births === null && isByBirth(by)) return { setOf, keys: [], isOwn: new Uint8Array(0), sampled: null };
  if (births !== null && isByBirth(by)) {
    // What samples are a part of: all that is such, wherever it was born.
    const ofAll = readers.filter(({ of }) => of !== 'site');
    const domain = new Uint8Array(graph.objects);
    for (let object = 0; object < graph.objects; object++)
      if (dominators.rankOf[object] !== 0 && fits(object, ofAll)) domain[object] = 1;
    const { keys, keyOf } = keysOfBirths(births, by);
    const ofSites = readers.filter(({ of }) => of === 'site');
    births.object.forEach((object, at) => {
      if (domain[object] === 1 && fits(object, ofSites)) setOf[object] = keyOf[at]!;
    });
    return { setOf, keys, isOwn: new Uint8Array(keys.length).fill(1), sampled: sampledStrata(holding, births, domain) };
  }
  const { keys, keyOf } = keysBy(graph.types, by === 'package');
  for (let object = 0; object < graph.objects; object++)
    if (dominators.rankOf[object] !== 0 && fits(object, readers)) setOf[object] = keyOf[graph.typeId[object]!]!;
  const isOwn = new Uint8Array(keys.length);
  graph.types.forEach((_, type) => {
    if (graph.isLibrary[type] === 0) isOwn[keyOf[type]!] = 1;
  });
  return { setOf, keys, isOwn, sampled: null };
}

function holdsOf(
  { graph, dominators, ways }: Holding,
  { of, word, low, high }: HoldingTerm,
  births: SampledBirths | null,
): (object: number) => boolean {
  const isIn = (bytes: number): boolean => bytes >= low && bytes <= high;
  switch (of) {
    case 'own':
      return (object) => isIn(graph.ownBytes[object]!);
    case 'held':
      return (object) => isIn(dominators.heldBytes[dominators.rankOf[object]!]!);
    case 'type': {
      const fits = Uint8Array.from(graph.types, (type) => Number(type.toLowerCase().includes(word)));
      return (object) => fits[graph.typeId[object]!] === 1;
    }
    case 'site': {
      if (births === null) return () => false;
      const { keys, keyOf } = keysOfBirths(births, 'site');
      const fits = Uint8Array.from(keys, (key) => Number(key.toLowerCase().includes(word)));
      const isBorn = new Uint8Array(graph.objects);
      births.object.forEach((object, at) => (isBorn[object] = fits[keyOf[at]!]!));
      return (object) => isBorn[object] === 1;
    }
    case 'field': {
      const { before, holder, name } = ways.tree;
      const fits = new Uint8Array(before.length);
      // A way comes after the one before it.
      for (let way = 1; way < fits.length; way++) {
        const isNamed = holder[way] !== NOBODY && graph.names[name[way]!]!.toLowerCase().includes(word);
        fits[way] = isNamed ? 1 : fits[before[way]!]!;
      }
      return (object) => fits[ways.wayOf[object]!] === 1;
    }
  }
}

function keysBy(types: readonly string[], byPackage: boolean): { keys: string[]; keyOf: Uint32Array } {
  if (!byPackage) return { keys: [...types], keyOf: Uint32Array.from(types, (_, type) => type) };
  const ids = new Map<string, number>();
  const keyOf = Uint32Array.from(types, (type) => {
    const key = packageOf(type);
    const id = ids.get(key) ?? ids.size;
    ids.set(key, id);
    return id;
  });
  return { keys: [...ids.keys()], keyOf };
}

// What stands before the class's name; arrays of basic types and types without a package go together.
function packageOf(type: string): string {
  const end = type.replace(/(?:\[\])+$/, '').lastIndexOf('.');
  return end < 0 ? '(no package)' : type.slice(0, end);
}
