import { formatBytes } from '../../../base/units.ts';
import { ELEMENT, type HeapGraph } from '../../../model/heap-graph.ts';
import { valueBytes } from '../../../model/heap-values.ts';
import { NOBODY } from '../dominators.ts';
import { BOXES, findType, heldTogether, type Reason, type ReasonSubject, referred } from './reason.ts';

/** A map with fewer keys is nothing to speak of. */
const LEAST_KEYS = 100;
/** Share of a map's keys that are like another one in it. */
const MOST_ALIKE = 0.5;
/** Maps of the library that look keys up by their equality; the program's own types may be made of one. */
const MAP = /^java\.util\.(?:Linked)?HashMap$|^java\.util\.(?:Hashtable|concurrent\.ConcurrentHashMap)$/;
const STRING = 'java.lang.String';

interface AlikeKeys {
  readonly map: number;
  readonly keyType: number;
  readonly keys: number;
  /** Entries whose key is like that of another. */
  readonly entries: readonly number[];
}

/**
 * Keys of one map with the same in them: a map that looks for an equal key never finds one, and grows. Keys are alike
 * when their numbers are, their texts, and whatever else they refer to is the same object; one of which the numbers are
 * not kept is like no other.
 */
export function alikeKeyReasons({ holding, source, isWhole, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph, dominators } = holding;
  if (source !== 'jvm' || !isWhole || graph.values.objects.length === 0) return [];
  const isMap = graph.types.map((type, id) => graph.isLibrary[id] === 0 || MAP.test(type));
  const found: AlikeKeys[] = [];
  const names = { table: nameOf(graph, 'table'), key: nameOf(graph, 'key'), next: nameOf(graph, 'next') };
  // There are no more entries than objects; a damaged chain may bite its tail.
  const budget = { entries: graph.objects };
  for (let map = 0; map < graph.objects; map++) {
    if (!isMap[graph.typeId[map]!] || dominators.rankOf[map] === 0) continue;
    const alike = alikeIn(graph, map, names, budget);
    if (alike !== null) found.push(alike);
  }
  return found
    .sort((a, b) => b.entries.length - a.entries.length)
    .slice(0, 3)
    .flatMap(({ map, keyType, keys, entries }): Reason[] => {
      const heldBytes = heldTogether(holding, entries);
      if (heldBytes < leastBytes) return [];
      const key = graph.types[keyType]!;
      const mapType = graph.types[graph.typeId[map]!]!;
      return [
        {
          code: 'alike-keys',
          sentence: `${entries.length.toLocaleString('en')} of the ${keys.toLocaleString('en')} ${key} objects that are keys of one ${mapType} are like another in all that is in them: it holds them apart, with ${formatBytes(heldBytes)}.`,
          rule: `of ${LEAST_KEYS} or more keys of one type in a map, half or more have the same numbers, texts and references as another`,
          advice: `Give ${key} equals and hashCode that look at what is in it, make it a record, or look up by a text or number: a key that is made anew finds nothing otherwise.`,
          heldBytes,
          objects: entries.length,
          find: findType(key),
          key,
        },
      ];
    });
}

interface EntryNames {
  readonly table: number;
  readonly key: number;
  readonly next: number;
}

// Keys of the program's own types in a map, by what is in them.
function alikeIn(graph: HeapGraph, map: number, names: EntryNames, budget: { entries: number }): AlikeKeys | null {
  const table = referred(graph, map, names.table);
  if (table === NOBODY) return null;
  const seen = new Map<number, Set<number>>();
  const alike = new Map<number, { keys: number; entries: number[] }>();
  for (let edge = graph.firstEdge[table]!; edge < graph.firstEdge[table + 1]!; edge++) {
    if (graph.edgeName[edge] !== ELEMENT) continue;
    for (let entry = graph.edgeTo[edge]!; entry !== NOBODY; entry = referred(graph, entry, names.next)) {
      if (budget.entries-- === 0) return null;
      const key = referred(graph, entry, names.key);
      const content = key === NOBODY ? null : contentOf(graph, key);
      if (content === null) continue;
      const type = graph.typeId[key]!;
      const known = seen.get(type) ?? new Set<number>();
      const sum = alike.get(type) ?? { keys: 0, entries: [] };
      sum.keys++;
      if (known.has(content)) sum.entries.push(entry);
      seen.set(type, known.add(content));
      alike.set(type, sum);
    }
  }
  const [most] = [...alike].sort((a, b) => b[1].entries.length - a[1].entries.length);
  if (most === undefined || most[1].keys < LEAST_KEYS || most[1].entries.length < MOST_ALIKE * most[1].keys)
    return null;
  return { map, keyType: most[0], ...most[1] };
}

// A number of 52 bits made of all that is in an object of the program's own types; null where some of it is not known, or
// nothing is in it.
function contentOf(graph: HeapGraph, object: number): number | null {
  const type = graph.typeId[object]!;
  if (graph.isLibrary[type] === 1) return null;
  const numbers = valueBytes(graph.values, object);
  const [first, end] = [graph.firstEdge[object]!, graph.firstEdge[object + 1]!];
  if (numbers === null && (first === end || !graph.values.typesWithout.has(type))) return null;
  const mixed = new Mixed();
  for (const byte of numbers ?? []) mixed.add(byte);
  for (let edge = first; edge < end; edge++) {
    mixed.add(graph.edgeName[edge]!);
    mixReferred(graph, graph.edgeTo[edge]!, mixed);
  }
  return mixed.value;
}

// A text by what it says, a boxed number by its value, anything else by being itself.
function mixReferred(graph: HeapGraph, object: number, mixed: Mixed): void {
  const type = graph.types[graph.typeId[object]!]!;
  const boxed = BOXES.test(type) ? valueBytes(graph.values, object) : null;
  const array = type === STRING ? textOf(graph, object) : NOBODY;
  const content = array === NOBODY ? 0 : graph.content[array]!;
  if (boxed !== null) for (const byte of boxed) mixed.add(byte);
  else if (content === 0) mixed.add(object);
  else {
    mixed.add(content);
    mixed.add(graph.ownBytes[array]!);
  }
}

const textOf = ({ firstEdge, edgeTo }: HeapGraph, string: number): number =>
  firstEdge[string]! < firstEdge[string + 1]! ? edgeTo[firstEdge[string]!]! : NOBODY;

/** Two sums as FNV-1a makes them, of values of 32 bits instead of bytes. */
class Mixed {
  private high = 0x811c9dc5;
  private low = 0x9747b28c;

  add(value: number): void {
    this.high = Math.imul(this.high ^ value, 0x01000193);
    this.low = Math.imul(this.low ^ value ^ (value >>> 15), 0x85ebca6b);
    this.low ^= this.low >>> 13;
  }

  get value(): number {
    return (this.high >>> 0) * 2 ** 20 + (this.low & 0xfffff);
  }
}

function nameOf(graph: HeapGraph, name: string): number {
  return graph.names.indexOf(name);
}
