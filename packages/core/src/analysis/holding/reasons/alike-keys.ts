import { formatBytes } from '../../../base/units.ts';
import { ELEMENT, type HeapGraph } from '../../../model/heap-graph.ts';
import { valueBytes } from '../../../model/heap-values.ts';
import { NOBODY } from '../dominators.ts';
import { BOXES, findType, heldTogether, type Reason, type ReasonSubject, referred } from './reason.ts';

/** A map with fewer keys is nothing to speak of. */
const LEAST_KEYS = 100;
/** Share of a map's keys that are like another one in it. */
const MOST_ALIKE = 0.5;
/** Maps of the library that look keys up by their equality. */
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
export function alikeKeyReasons({ holding, source, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph, dominators } = holding;
  if (source !== 'jvm' || graph.values.objects.length === 0) return [];
  const isMap = graph.types.map((type) => MAP.test(type));
  const found: AlikeKeys[] = [];
  const names = { table: nameOf(graph, 'table'), key: nameOf(graph, 'key'), next: nameOf(graph, 'next') };
  for (let map = 0; map < graph.objects; map++) {
    if (!isMap[graph.typeId[map]!] || dominators.rankOf[map] === 0) continue;
    const alike = alikeIn(graph, map, names);
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
function alikeIn(graph: HeapGraph, map: number, names: EntryNames): AlikeKeys | null {
  const table = referred(graph, map, names.table);
  if (table === NOBODY) return null;
  const seen = new Map<number, Set<string>>();
  const alike = new Map<number, { keys: number; entries: number[] }>();
  for (let edge = graph.firstEdge[table]!; edge < graph.firstEdge[table + 1]!; edge++) {
    if (graph.edgeName[edge] !== ELEMENT) continue;
    // A damaged chain may bite its tail.
    const most = graph.objects;
    let entry = graph.edgeTo[edge]!;
    for (let links = 0; entry !== NOBODY && links < most; links++, entry = referred(graph, entry, names.next)) {
      const key = referred(graph, entry, names.key);
      const content = key === NOBODY ? null : contentOf(graph, key);
      if (content === null) continue;
      const type = graph.typeId[key]!;
      const known = seen.get(type) ?? new Set();
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

// All that is in an object of the program's own types; null where some of it is not known, or nothing is in it.
function contentOf(graph: HeapGraph, object: number): string | null {
  if (graph.isLibrary[graph.typeId[object]!] === 1) return null;
  const numbers = valueBytes(graph.values, object);
  const parts: string[] = [];
  for (let edge = graph.firstEdge[object]!; edge < graph.firstEdge[object + 1]!; edge++)
    parts.push(`${graph.edgeName[edge]!}:${referredContent(graph, graph.edgeTo[edge]!)}`);
  if (numbers === null && (parts.length === 0 || !graph.values.typesWithout.has(graph.typeId[object]!))) return null;
  return `${numbers?.join() ?? ''};${parts.join()}`;
}

// A text by what it says, a boxed number by its value, anything else by being itself.
function referredContent(graph: HeapGraph, object: number): string {
  const type = graph.types[graph.typeId[object]!]!;
  if (BOXES.test(type)) return valueBytes(graph.values, object)?.join() ?? `@${object}`;
  if (type !== STRING) return `@${object}`;
  const array =
    graph.firstEdge[object]! < graph.firstEdge[object + 1]! ? graph.edgeTo[graph.firstEdge[object]!]! : NOBODY;
  const content = array === NOBODY ? 0 : graph.content[array]!;
  return content === 0 ? `@${object}` : `${content}/${graph.ownBytes[array]!}`;
}

function nameOf(graph: HeapGraph, name: string): number {
  return graph.names.indexOf(name);
}
