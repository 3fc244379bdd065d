import type { HeapGraph } from '../../model/heap-graph.ts';
import type { Holding, ObjectSets } from './holding.ts';
import { keysOfBirths, type SampledBirths } from './sampled-births.ts';
import { referenceWords } from './ways.ts';

/** References of one kind, from or to the objects of a set. */
export interface ReferenceSum {
  /** `Type.field` of who refers, and on the way out the type of what is referred to. */
  readonly words: string;
  readonly references: number;
  /** Own bytes of the objects at their far end, each as often as it is referred to. */
  readonly ownBytes: number;
}

/** What a set holds of one type, itself included. */
export interface HeldType {
  readonly type: string;
  readonly objects: number;
  readonly ownBytes: number;
}

/** One object of a set. */
export interface HeldObject {
  /** Its row in the graph. */
  readonly object: number;
  /** Its address or number, as the runtime tells it. */
  readonly id: number;
  readonly type: string;
  readonly ownBytes: number;
  readonly heldBytes: number;
  /** Where it was allocated; '' for one that was not sampled. */
  readonly site: string;
  /** What stands in it, of a string; '' for others and where that is not kept. */
  readonly text: string;
}

/** What stands around the objects of a set: one step either way, what they hold, and the largest of them. */
export interface Around {
  readonly referredBy: readonly ReferenceSum[];
  readonly refersTo: readonly ReferenceSum[];
  readonly holds: readonly HeldType[];
  readonly largest: readonly HeldObject[];
  /** Some of them, taken evenly over all. */
  readonly some: readonly HeldObject[];
}

/**
 * What stands around a set, of each the `most` that weigh most; `seen` is 1 for what can be reached without the set.
 * Some passes over objects and references.
 */
export function aroundOf(
  holding: Holding,
  { setOf }: ObjectSets,
  { set, seen }: { readonly set: number; readonly seen: Uint8Array },
  births: SampledBirths | null,
  most: number,
): Around {
  const { graph, dominators } = holding;
  const [into, out] = [new References(graph), new References(graph)];
  for (let from = 0; from < graph.objects; from++) {
    if (dominators.rankOf[from] === 0) continue;
    const isFrom = setOf[from] === set;
    for (let edge = graph.firstEdge[from]!; edge < graph.firstEdge[from + 1]!; edge++) {
      const to = graph.edgeTo[edge]!;
      if (setOf[to] === set) into.add(from, graph.edgeName[edge]!, from, graph.typeId[to]!);
      if (isFrom) out.add(from, graph.edgeName[edge]!, to, graph.typeId[to]!);
    }
  }
  return {
    referredBy: into.sums(most, false),
    refersTo: out.sums(most, true),
    holds: heldTypes(holding, seen).slice(0, most),
    ...singleObjects(holding, setOf, set, births, most),
  };
}

class References {
  private readonly graph: HeapGraph;
  private readonly known = new Map<
    number,
    { holder: number; name: number; type: number; references: number; ownBytes: number }
  >();

  constructor(graph: HeapGraph) {
    this.graph = graph;
  }

  add(from: number, name: number, far: number, type: number): void {
    const { graph } = this;
    const holder = graph.ownName.has(from) ? graph.types.length + from : graph.typeId[from]!;
    const key = (holder * graph.names.length + name) * graph.types.length + type;
    const sum = this.known.get(key);
    const own = graph.ownBytes[far]!;
    if (sum === undefined) this.known.set(key, { holder, name, type, references: 1, ownBytes: own });
    else {
      sum.references++;
      sum.ownBytes += own;
    }
  }

  sums(most: number, withType: boolean): ReferenceSum[] {
    const { graph } = this;
    return [...this.known.values()]
      .sort((a, b) => b.references - a.references || b.ownBytes - a.ownBytes)
      .slice(0, most)
      .map(({ holder, name, type, references, ownBytes }) => {
        const whose = graph.ownName.get(holder - graph.types.length) ?? graph.types[holder]!;
        const words = referenceWords(graph, whose, name);
        return { words: withType ? `${words}: ${graph.types[type]!}` : words, references, ownBytes };
      });
  }
}

function heldTypes({ graph, dominators }: Holding, seen: Uint8Array): HeldType[] {
  const objects = new Float64Array(graph.types.length);
  const bytes = new Float64Array(graph.types.length);
  for (let object = 0; object < graph.objects; object++) {
    if (seen[object] === 1 || dominators.rankOf[object] === 0) continue;
    objects[graph.typeId[object]!]!++;
    bytes[graph.typeId[object]!]! += graph.ownBytes[object]!;
  }
  return graph.types
    .map((type, at) => ({ type, objects: objects[at]!, ownBytes: bytes[at]! }))
    .filter((each) => each.objects > 0)
    .sort((a, b) => b.ownBytes - a.ownBytes);
}

// The few largest are kept in order while all are gone over, and every so-many-th of them.
function singleObjects(
  { graph, dominators }: Holding,
  setOf: Uint32Array,
  set: number,
  births: SampledBirths | null,
  most: number,
): { readonly largest: HeldObject[]; readonly some: HeldObject[] } {
  const heldBytes = (object: number): number => dominators.heldBytes[dominators.rankOf[object]!]!;
  const best: number[] = [];
  let members = 0;
  for (let object = 0; object < graph.objects; object++) {
    if (setOf[object] !== set || dominators.rankOf[object] === 0) continue;
    members++;
    const held = heldBytes(object);
    if (best.length === most && held <= heldBytes(best[most - 1]!)) continue;
    const at = best.findIndex((each) => heldBytes(each) < held);
    best.splice(at < 0 ? best.length : at, 0, object);
    if (best.length > most) best.pop();
  }
  const told = objectTeller({ graph, dominators }, siteReader(births));
  const some: number[] = [];
  for (let object = 0, at = 0; object < graph.objects && members > most; object++) {
    if (setOf[object] !== set || dominators.rankOf[object] === 0) continue;
    if (Math.floor((at * most) / members) === some.length) some.push(object);
    at++;
  }
  return { largest: best.map(told), some: some.map(told) };
}

/** Tells single objects. */
export function objectTeller(
  { graph, dominators }: Pick<Holding, 'graph' | 'dominators'>,
  siteOf: (object: number) => string,
): (object: number) => HeldObject {
  return (object) => ({
    object,
    id: graph.id[object]!,
    type: graph.ownName.has(object) ? `class ${graph.ownName.get(object)!}` : graph.types[graph.typeId[object]!]!,
    ownBytes: graph.ownBytes[object]!,
    heldBytes: dominators.heldBytes[dominators.rankOf[object]!]!,
    site: siteOf(object),
    text: textOf(graph, object),
  });
}

// Of a string that keeps its letters in an array, what that says.
function textOf(graph: HeapGraph, object: number): string {
  if (graph.types[graph.typeId[object]!] !== 'java.lang.String') return graph.text.get(object) ?? '';
  const edge = graph.firstEdge[object]!;
  return edge < graph.firstEdge[object + 1]! ? (graph.text.get(graph.edgeTo[edge]!) ?? '') : '';
}

/** Where each sampled object was allocated. */
export function siteReader(births: SampledBirths | null): (object: number) => string {
  if (births === null || births.object.length === 0) return () => '';
  const { keys, keyOf } = keysOfBirths(births, 'site');
  const at = new Map<number, number>();
  births.object.forEach((object, place) => at.set(object, place));
  return (object) => {
    const place = at.get(object);
    return place === undefined ? '' : keys[keyOf[place]!]!;
  };
}
