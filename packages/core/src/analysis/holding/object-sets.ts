import { NOBODY } from './dominators.ts';
import type { Holding, ObjectSets } from './holding.ts';

/** By what objects of an inventory are told together. */
export const HELD_BY = ['type', 'package'] as const;
export type HeldBy = (typeof HELD_BY)[number];

/** What objects are asked for: words in the type, sizes in bytes, a field on the way; `not` for what must not hold. */
export interface HoldingTerm {
  readonly of: 'type' | 'own' | 'held' | 'field';
  /** In lower case; '' for sizes. */
  readonly word: string;
  readonly low: number;
  readonly high: number;
  readonly not: boolean;
}

/** Objects that can be reached and of which all terms hold, by type or package. Linear in objects and ways. */
export function objectSets(holding: Holding, by: HeldBy, terms: readonly HoldingTerm[]): ObjectSets {
  const { graph, dominators } = holding;
  const { keys, keyOf } = keysBy(graph.types, by);
  const holds = terms.map((term) => holdsOf(holding, term));
  const setOf = new Uint32Array(graph.objects).fill(NOBODY);
  for (let object = 0; object < graph.objects; object++)
    if (dominators.rankOf[object] !== 0 && holds.every((each, at) => each(object) !== terms[at]!.not))
      setOf[object] = keyOf[graph.typeId[object]!]!;
  const isOwn = new Uint8Array(keys.length);
  graph.types.forEach((_, type) => {
    if (graph.isLibrary[type] === 0) isOwn[keyOf[type]!] = 1;
  });
  return { setOf, keys, isOwn };
}

function holdsOf(
  { graph, dominators, ways }: Holding,
  { of, word, low, high }: HoldingTerm,
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

function keysBy(types: readonly string[], by: HeldBy): { keys: string[]; keyOf: Uint32Array } {
  if (by === 'type') return { keys: [...types], keyOf: Uint32Array.from(types, (_, type) => type) };
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
