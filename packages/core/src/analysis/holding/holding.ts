import { ELEMENT, type HeapGraph } from '../../model/heap-graph.ts';
import { type Dominators, dominatorsOf, NOBODY } from './dominators.ts';
import { heldBytesOf, leastHeldBytes } from './held-set.ts';
import { referenceWords, type Ways, waysOf, wordsOfWay } from './ways.ts';

/** What can be asked of an inventory, worked out once. */
export interface Holding {
  readonly graph: HeapGraph;
  readonly dominators: Dominators;
  readonly ways: Ways;
}

/** Works out who holds whom in a graph, and a way to each object. */
export function holdingOf(graph: HeapGraph): Holding {
  return { graph, dominators: dominatorsOf(graph), ways: waysOf(graph) };
}

/** Objects that are told together: the set of each, NOBODY for none, and what a set is called. */
export interface ObjectSets {
  readonly setOf: Uint32Array;
  readonly keys: readonly string[];
  /** 1 for sets with a type of the program's own. */
  readonly isOwn: Uint8Array;
}

/** Sums of one set. */
export interface HeldSet {
  readonly set: number;
  readonly key: string;
  /** False where all its types are of the runtime's library. */
  readonly isOwn: boolean;
  readonly objects: number;
  readonly ownBytes: number;
  readonly heldBytes: number;
  /** False where `heldBytes` is a lower bound: what its objects hold one by one. */
  readonly heldIsExact: boolean;
}

/** A way by which objects of a set stay. */
export interface HeldWay {
  readonly steps: readonly string[];
  readonly objects: number;
  readonly ownBytes: number;
  readonly shareRatio: number;
}

/** The one object through which nearly all of a set can be reached. */
export interface CommonHolder {
  readonly object: number;
  /** Share of the set's objects that it holds. */
  readonly shareRatio: number;
  /** How it is referred to, and its type: `AlertService.watch`, `java.util.HashMap`. */
  readonly reference: string;
  readonly type: string;
  /** How many objects refer to it, roots together being one. */
  readonly referrers: number;
  /** What kind of root it hangs on. */
  readonly root: string;
}

/** Work that may go into exact sums, in objects and references gone over. */
const MOST_WORK = 1.2e8;
const NEARLY_ALL = 0.9;

/** The sets that hold most, the heaviest first, exactly as far as the work allows; `count` is how many there are. */
export function heldSets(
  holding: Holding,
  { setOf, keys, isOwn }: ObjectSets,
  most: number,
): { readonly sets: HeldSet[]; readonly count: number } {
  const { graph, dominators } = holding;
  const objects = new Float64Array(keys.length);
  const own = new Float64Array(keys.length);
  for (let object = 0; object < graph.objects; object++) {
    const set = setOf[object]!;
    if (set === NOBODY || dominators.rankOf[object] === 0) continue;
    objects[set]!++;
    own[set]! += graph.ownBytes[object]!;
  }
  const least = leastHeldBytes(dominators, setOf, keys.length);
  const order = Array.from(keys, (_, set) => set).filter((set) => objects[set]! > 0);
  const byHeld = (held: ArrayLike<number>) => (a: number, b: number) =>
    held[b]! - held[a]! || own[b]! - own[a]! || a - b;
  order.sort(byHeld(least));
  const work = graph.objects + graph.edgeTo.length;
  const exactly = new Map<number, number>();
  for (const set of order.slice(0, most)) {
    if (exactly.size > 0 && (exactly.size + 1) * work > MOST_WORK) break;
    exactly.set(set, objects[set] === 1 ? least[set]! : heldBytesOf(graph, dominators, membersOf(setOf, set)));
  }
  const sets = order
    .slice(0, most)
    .map((set) => ({
      set,
      key: keys[set]!,
      isOwn: isOwn[set] === 1,
      objects: objects[set]!,
      ownBytes: own[set]!,
      heldBytes: exactly.get(set) ?? least[set]!,
      heldIsExact: exactly.has(set),
    }))
    .sort((a, b) => b.heldBytes - a.heldBytes || b.ownBytes - a.ownBytes);
  return { sets, count: order.length };
}

/** One set, exactly; null where it has no object that can be reached. */
export function heldSet(
  { graph, dominators }: Holding,
  { setOf, keys, isOwn }: ObjectSets,
  set: number,
): HeldSet | null {
  const isMember = membersOf(setOf, set);
  let [objects, ownBytes] = [0, 0];
  for (let object = 0; object < graph.objects; object++) {
    if (isMember[object] === 0 || dominators.rankOf[object] === 0) continue;
    objects++;
    ownBytes += graph.ownBytes[object]!;
  }
  if (objects === 0) return null;
  const heldBytes = heldBytesOf(graph, dominators, isMember);
  return { set, key: keys[set]!, isOwn: isOwn[set] === 1, objects, ownBytes, heldBytes, heldIsExact: true };
}

function membersOf(setOf: Uint32Array, set: number): Uint8Array {
  const isMember = new Uint8Array(setOf.length);
  for (let object = 0; object < setOf.length; object++) if (setOf[object] === set) isMember[object] = 1;
  return isMember;
}

/** Ways of the objects of some sets, of each those of most bytes first. One pass over the objects for all. */
export function heldWays(
  { graph, ways }: Holding,
  { setOf, keys }: ObjectSets,
  sets: readonly number[],
  most: number,
): HeldWay[][] {
  const placeOf = new Int32Array(keys.length).fill(-1);
  sets.forEach((set, place) => (placeOf[set] = place));
  const sums = sets.map(() => new Map<number, { objects: number; bytes: number }>());
  for (let object = 0; object < graph.objects; object++) {
    const set = setOf[object]!;
    const place = set === NOBODY ? -1 : placeOf[set]!;
    if (place < 0) continue;
    const way = ways.wayOf[object]!;
    const sum = sums[place]!.get(way);
    if (sum === undefined) sums[place]!.set(way, { objects: 1, bytes: graph.ownBytes[object]! });
    else {
      sum.objects++;
      sum.bytes += graph.ownBytes[object]!;
    }
  }
  return sums.map((ofSet) => {
    let all = 0;
    for (const { objects } of ofSet.values()) all += objects;
    return [...ofSet]
      .sort(([, a], [, b]) => b.bytes - a.bytes || b.objects - a.objects)
      .slice(0, most)
      .map(([way, { objects, bytes }]) => ({
        steps: wordsOfWay(graph, ways.tree, way),
        objects,
        ownBytes: bytes,
        shareRatio: objects / all,
      }));
  });
}

/**
 * The lowest object that holds nine tenths of a set, and of those in the set the highest; null where there is none.
 */
export function commonHolder(holding: Holding, { setOf }: ObjectSets, set: number): CommonHolder | null {
  const { reached, objectAt, holder } = holding.dominators;
  const below = new Uint32Array(reached);
  let all = 0;
  for (let rank = reached - 1; rank > 0; rank--) {
    if (setOf[objectAt[rank]!] === set) {
      below[rank]!++;
      all++;
    }
    below[holder[rank]!]! += below[rank]!;
  }
  // They are a chain, each below the one before. A member that holds the others, as the head of a list, is where to look.
  let lowest = 0;
  for (let rank = 1; rank < reached; rank++) {
    if (below[rank]! < NEARLY_ALL * all) continue;
    lowest = rank;
    if (setOf[objectAt[rank]!] === set) break;
  }
  if (lowest === 0 || all === 0) return null;
  return { ...named(holding, objectAt[lowest]!), shareRatio: below[lowest]! / all };
}

// A holder inside the library's collections is told by the nearest of those above it, all of which hold the set, that
// something of the program's own refers to; where there is none, by the highest that a field refers to.
function named(holding: Holding, object: number): Omit<CommonHolder, 'shareRatio'> {
  const { graph, dominators } = holding;
  let told: Referrer | null = null;
  let highest: Referrer | null = null;
  for (let rank = dominators.rankOf[object]!; rank !== 0 && told === null; rank = dominators.holder[rank]!) {
    const found = bestReferrer(holding, dominators.objectAt[rank]!);
    if (found.worth === Worth.own) told = found;
    if (highest === null || found.worth >= Worth.field) highest = found;
  }
  const { to, from, name, referrers } = told ?? highest!;
  const whose = from === NOBODY ? '' : (graph.ownName.get(from) ?? graph.types[graph.typeId[from]!]!);
  return {
    object: to,
    reference: from === NOBODY ? '' : referenceWords(graph, whose, name),
    type: graph.ownName.has(to) ? `class ${graph.ownName.get(to)!}` : graph.types[graph.typeId[to]!]!,
    referrers,
    root: rootOf(holding, to),
  };
}

const Worth = { root: 0, element: 1, field: 2, own: 3 } as const;

interface Referrer {
  readonly to: number;
  /** NOBODY for a root. */
  readonly from: number;
  readonly name: number;
  readonly worth: number;
  /** How many objects refer to it, roots together being one. */
  readonly referrers: number;
}

// Who refers to an object: the one whose words tell most. One pass over the references.
function bestReferrer({ graph, dominators }: Holding, to: number): Referrer {
  const { edgeTo, edgeName, firstEdge, roots } = graph;
  let best: Omit<Referrer, 'referrers'> = { to, from: NOBODY, name: 0, worth: Worth.root };
  let referrers = roots.includes(to) ? 1 : 0;
  let from = 0;
  for (let edge = 0; edge < edgeTo.length; edge++) {
    if (edgeTo[edge] !== to) continue;
    from = objectOfEdge(firstEdge, edge, from);
    if (dominators.rankOf[from] === 0 || from === to) continue;
    referrers++;
    const worth = edgeName[edge] === ELEMENT ? Worth.element : isOwn(graph, from) ? Worth.own : Worth.field;
    if (worth > best.worth) best = { to, from, name: edgeName[edge]!, worth };
  }
  return { ...best, referrers };
}

// The object whose reference an edge is, looked for by halves among those from `low` on.
function objectOfEdge(firstEdge: Uint32Array, edge: number, low: number): number {
  let high = firstEdge.length - 1;
  while (low + 1 < high) {
    const middle = (low + high) >>> 1;
    if (firstEdge[middle]! <= edge) low = middle;
    else high = middle;
  }
  return low;
}

const isOwn = (graph: HeapGraph, object: number): boolean =>
  graph.ownName.has(object) ? !isLibraryName(graph, object) : graph.isLibrary[graph.typeId[object]!] === 0;

function rootOf({ graph, ways }: Holding, object: number): string {
  let top = object;
  while (ways.cameFrom[top] !== NOBODY) top = ways.cameFrom[top]!;
  return graph.rootKinds[ways.cameBy[top]!]!;
}

function isLibraryName(graph: HeapGraph, object: number): boolean {
  const type = graph.types.indexOf(graph.ownName.get(object)!);
  return type >= 0 && graph.isLibrary[type] === 1;
}
