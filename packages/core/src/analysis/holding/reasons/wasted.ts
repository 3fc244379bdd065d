import { formatBytes } from '../../../base/units.ts';
import { BOXES, findType, objectsOf, ownTogether, type Reason, type ReasonSubject, typesWhere } from './reason.ts';

/** Fields of the library's collections under which their arrays hang. */
const ROOMS = ['elementData', 'table', 'elements', 'queue'];
/** What is used of an array that is nearly empty. */
const NEARLY_EMPTY = 0.25;
const ARRAY_HEADER_BYTES = 16;

/** Strings, and arrays of basic values, that are there several times with the same in them. */
export function duplicateReasons({ holding, source, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph, dominators } = holding;
  const first = new Map<number, number>();
  const saved = new Map<number, { objects: number; bytes: number }>();
  for (let object = 0; object < graph.objects; object++) {
    const content = graph.content[object]!;
    if (content === 0 || dominators.rankOf[object] === 0) continue;
    const type = graph.typeId[object]!;
    // Alike numbers with unlike sizes are no copies.
    const key = content * 4096 + ((graph.ownBytes[object]! / 8) % 4096);
    const before = first.get(key);
    if (before === undefined || graph.typeId[before] !== type || graph.ownBytes[before] !== graph.ownBytes[object]) {
      if (before === undefined) first.set(key, object);
      continue;
    }
    const sum = saved.get(type);
    if (sum === undefined) saved.set(type, { objects: 1, bytes: graph.ownBytes[object]! });
    else {
      sum.objects++;
      sum.bytes += graph.ownBytes[object]!;
    }
  }
  return [...saved]
    .filter(([, { bytes }]) => bytes >= leastBytes)
    .map(([type, { objects, bytes }]): Reason => {
      const key = graph.types[type]!;
      const isText = source === 'v8' || key === 'byte[]' || key === 'char[]';
      return {
        code: 'duplicates',
        sentence: `${objects.toLocaleString('en')} ${key} objects are copies of others: one of each would save ${formatBytes(bytes)}.`,
        rule: 'objects of one type and size with the same in them, by a number of 32 bits made of it; all but the first count',
        advice: isText
          ? 'Keep one text of each: a table of those that are known, -XX:+UseStringDeduplication, or numbers instead of texts.'
          : 'Share one array where nobody writes into it.',
        heldBytes: bytes,
        objects,
        find: findType(key),
        key,
      };
    });
}

/** Numbers that are objects. */
export function boxReasons({ holding, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph } = holding;
  return [...typesWhere(graph, (name) => BOXES.test(name))].flatMap((type): Reason[] => {
    const objects = objectsOf(holding, new Set([type]));
    const bytes = ownTogether(holding, objects);
    if (bytes < leastBytes) return [];
    const key = graph.types[type]!;
    return [
      {
        code: 'boxed-numbers',
        sentence: `${objects.length.toLocaleString('en')} numbers are objects of their own (${key}) and take ${formatBytes(bytes)}.`,
        rule: 'numbers that are boxed, by their own bytes',
        advice: 'Keep many numbers in an array of them, or in a collection that is made for numbers.',
        heldBytes: bytes,
        objects: objects.length,
        find: `type=${key}`,
        key,
      },
    ];
  });
}

/** Arrays of the library's collections that are empty or nearly so. Of V8 the room of an array is not told. */
export function emptyReasons({ holding, leastBytes }: ReasonSubject): readonly Reason[] {
  const { graph, dominators } = holding;
  if (Number.isNaN(graph.referenceBytes)) return [];
  const isRoom = graph.names.map((name) => ROOMS.includes(name));
  const seen = new Uint8Array(graph.objects);
  const wasted = new Map<number, { objects: number; bytes: number }>();
  for (let object = 0; object < graph.objects; object++) {
    const type = graph.typeId[object]!;
    if (graph.isLibrary[type] === 0 || dominators.rankOf[object] === 0) continue;
    for (let edge = graph.firstEdge[object]!; edge < graph.firstEdge[object + 1]!; edge++) {
      const array = graph.edgeTo[edge]!;
      if (!isRoom[graph.edgeName[edge]!] || seen[array] === 1) continue;
      seen[array] = 1;
      if (!graph.types[graph.typeId[array]!]!.endsWith('[]')) continue;
      const room = Math.max(0, Math.floor((graph.ownBytes[array]! - ARRAY_HEADER_BYTES) / graph.referenceBytes));
      const used = graph.firstEdge[array + 1]! - graph.firstEdge[array]!;
      if (room === 0 || used > NEARLY_EMPTY * room) continue;
      const sum = wasted.get(type) ?? { objects: 0, bytes: 0 };
      wasted.set(type, { objects: sum.objects + 1, bytes: sum.bytes + (room - used) * graph.referenceBytes });
    }
  }
  return [...wasted]
    .filter(([, { bytes }]) => bytes >= leastBytes)
    .map(([type, { objects, bytes }]): Reason => {
      const key = graph.types[type]!;
      return {
        code: 'empty-collections',
        sentence: `${objects.toLocaleString('en')} ${key} objects have room for four times what is in them and more: ${formatBytes(bytes)} lie empty.`,
        rule: 'arrays of collections of which a quarter or less is used, by the references that are empty',
        advice: 'Make a collection when its first element comes, and with the size that it will have.',
        heldBytes: bytes,
        objects,
        find: findType(key),
        key,
      };
    });
}
