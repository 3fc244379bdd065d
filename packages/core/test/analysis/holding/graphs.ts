import { NO_VALUES } from '../../../src/model/heap-values.ts';
import { ELEMENT_NAME, type HeapGraph } from '../../../src/model/heap-graph.ts';

/** A graph by hand: own bytes of each object, references as [from, to, name], and roots. */
export function graphOf(
  ownBytes: readonly number[],
  references: readonly (readonly [from: number, to: number, name?: string])[],
  roots: readonly number[],
  types: readonly string[] = ownBytes.map((_, object) => `T${object % 3}`),
): HeapGraph {
  const typeNames = [...new Set(types)];
  const names = [ELEMENT_NAME, ...new Set(references.flatMap(([, , name]) => (name === undefined ? [] : [name])))];
  const inOrder = [...references].sort(([a], [b]) => a - b);
  const firstEdge = new Uint32Array(ownBytes.length + 1);
  for (const [from] of inOrder) firstEdge[from + 1]!++;
  for (let object = 0; object < ownBytes.length; object++) firstEdge[object + 1]! += firstEdge[object]!;
  return {
    objects: ownBytes.length,
    typeId: Uint32Array.from(types, (type) => typeNames.indexOf(type)),
    ownBytes: Float64Array.from(ownBytes),
    id: Float64Array.from(ownBytes, (_, object) => 8 * object),
    firstEdge,
    edgeTo: Uint32Array.from(inOrder, ([, to]) => to),
    edgeName: Uint32Array.from(inOrder, ([, , name]) => (name === undefined ? 0 : names.indexOf(name))),
    roots: Uint32Array.from(roots),
    rootKind: Uint32Array.from(roots, () => 0),
    rootKinds: ['stack of a thread'],
    types: typeNames,
    names,
    content: new Uint32Array(ownBytes.length),
    values: NO_VALUES,
    referenceBytes: NaN,
    text: new Map(),
    ownName: new Map(),
    isLibrary: Uint8Array.from(typeNames, (type) => Number(type.startsWith('java.'))),
  };
}

/** Bytes that can be reached from the roots while some objects are gone. */
export function reachableBytes(graph: HeapGraph, isGone: (object: number) => boolean): number {
  const seen = new Set<number>();
  const open = Array.from(graph.roots);
  let bytes = 0;
  for (let object = open.pop(); object !== undefined; object = open.pop()) {
    if (seen.has(object) || isGone(object)) continue;
    seen.add(object);
    bytes += graph.ownBytes[object]!;
    for (let edge = graph.firstEdge[object]!; edge < graph.firstEdge[object + 1]!; edge++)
      open.push(graph.edgeTo[edge]!);
  }
  return bytes;
}
