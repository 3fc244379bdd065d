import { lastAtOrBefore } from '../../base/binary-search.ts';
import { ELEMENT, ELEMENT_NAME, type HeapGraph, OUTER_SCOPE } from '../../model/heap-graph.ts';
import { type Dominators, dominatorsOf, NOBODY } from './dominators.ts';
import { heldBytesOf, leastHeldBytes, reachedAround } from './held-set.ts';
import { type SampledStrata, weightReader } from './sampled-sets.ts';
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
  /** What the objects stand for, where only those that were sampled are in sets; null where all are. */
  readonly sampled: SampledStrata | null;
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
  /** False where `heldBytes` is a lower bound, what its objects hold one by one, or an estimate. */
  readonly heldIsExact: boolean;
  /** Of how many samples it is known, and the standard errors of its bytes; null where every object is known. */
  readonly sampled: {
    readonly samples: number;
    readonly objectsSe: number;
    readonly ownSe: number;
    readonly heldSe: number;
  } | null;
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

/**
 * The sets that hold most, the heaviest first, exactly as far as the work allows, in objects and references gone over;
 * `count` is how many there are.
 */
export function heldSets(
  holding: Holding,
  { setOf, keys, isOwn }: Omit<ObjectSets, 'sampled'>,
  most: number,
  mostWork = MOST_WORK,
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
    if (mostWork === 0 || (exactly.size > 0 && (exactly.size + 1) * work > mostWork)) break;
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
      sampled: null,
    }))
    .sort((a, b) => b.heldBytes - a.heldBytes || b.ownBytes - a.ownBytes);
  return { sets, count: order.length };
}

/**
 * One set, exactly, and what can be reached without it, 1 in `seen`; null where it has no object that can be reached.
 */
export function heldSet(
  { graph, dominators }: Holding,
  { setOf, keys, isOwn }: ObjectSets,
  set: number,
): { readonly told: HeldSet; readonly seen: Uint8Array } | null {
  const isMember = membersOf(setOf, set);
  let [objects, ownBytes] = [0, 0];
  for (let object = 0; object < graph.objects; object++) {
    if (isMember[object] === 0 || dominators.rankOf[object] === 0) continue;
    objects++;
    ownBytes += graph.ownBytes[object]!;
  }
  if (objects === 0) return null;
  const { seen, bytes } = reachedAround(graph, dominators, isMember);
  const heldBytes = dominators.heldBytes[0]! - bytes;
  const told = {
    set,
    key: keys[set]!,
    isOwn: isOwn[set] === 1,
    objects,
    ownBytes,
    heldBytes,
    heldIsExact: true,
    sampled: null,
  };
  return { told, seen };
}

function membersOf(setOf: Uint32Array, set: number): Uint8Array {
  const isMember = new Uint8Array(setOf.length);
  for (let object = 0; object < setOf.length; object++) if (setOf[object] === set) isMember[object] = 1;
  return isMember;
}

/** Ways of the objects of some sets, of each those of most bytes first. One pass over the objects for all. */
export function heldWays(
  { graph, ways }: Holding,
  { setOf, keys, sampled }: ObjectSets,
  sets: readonly number[],
  most: number,
): HeldWay[][] {
  const weightOf = weightReader(sampled);
  const placeOf = new Int32Array(keys.length).fill(-1);
  sets.forEach((set, place) => (placeOf[set] = place));
  const sums = sets.map(() => new Map<number, { objects: number; bytes: number }>());
  for (let object = 0; object < graph.objects; object++) {
    const set = setOf[object]!;
    const place = set === NOBODY ? -1 : placeOf[set]!;
    if (place < 0) continue;
    const way = ways.wayOf[object]!;
    const sum = sums[place]!.get(way);
    const weight = weightOf(object);
    const bytes = weight * graph.ownBytes[object]!;
    if (sum === undefined) sums[place]!.set(way, { objects: weight, bytes });
    else {
      sum.objects += weight;
      sum.bytes += bytes;
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
export function commonHolder(holding: Holding, { setOf, sampled }: ObjectSets, set: number): CommonHolder | null {
  const { reached, objectAt, holder } = holding.dominators;
  const weightOf = weightReader(sampled);
  const below = new Float64Array(reached);
  let all = 0;
  for (let rank = reached - 1; rank > 0; rank--) {
    const object = objectAt[rank]!;
    if (setOf[object] === set) {
      const weight = weightOf(object);
      below[rank]! += weight;
      all += weight;
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
  const { rank, ...told } = named(holding, headOfList(holding, lowest));
  return { ...told, shareRatio: below[rank]! / all };
}

/** So many holders of one type, each below the other, are a list. */
const LEAST_LINKS = 8;
/** Holders of one type may have one of another between them. */
const LINKS_APART = 2;

// Each link of a list holds all that come after it: of those that hold nine tenths the lowest is somewhere in it.
function headOfList({ graph, dominators }: Holding, lowest: number): number {
  const { objectAt, holder } = dominators;
  const type = graph.typeId[objectAt[lowest]!]!;
  let [head, links] = [lowest, 1];
  for (let rank = holder[lowest]!, apart = 1; rank !== 0 && apart <= LINKS_APART; rank = holder[rank]!, apart++) {
    if (graph.typeId[objectAt[rank]!] !== type) continue;
    [head, apart] = [rank, 0];
    links++;
  }
  return links < LEAST_LINKS ? lowest : head;
}

// A holder inside the library's collections is told by the nearest of those above it, all of which hold the set, that
// something of the program's own refers to; where there is none, by the highest that a field refers to. They may be as
// many as a list is long, so the references are gone over once for all of them.
function named(
  { graph, dominators, ways }: Holding,
  lowest: number,
): Omit<CommonHolder, 'shareRatio'> & { readonly rank: number } {
  const chain: Referred[] = [];
  const placeOf = new Int32Array(graph.objects).fill(-1);
  for (let rank = lowest; rank !== 0; rank = dominators.holder[rank]!) {
    const object = dominators.objectAt[rank]!;
    placeOf[object] = chain.length;
    chain.push({ rank, object, from: NOBODY, name: 0, worth: Worth.root, referrers: 0 });
  }
  addReferrers(graph, { dominators, ways }, chain, placeOf);
  const { rank, object, from, name, referrers } =
    chain.find(({ worth }) => worth >= Worth.plain) ?? highest(graph, chain);
  let top = object;
  while (ways.cameFrom[top] !== NOBODY) top = ways.cameFrom[top]!;
  return {
    rank,
    object,
    reference: from === NOBODY ? '' : referenceTo(graph, ways, from, name),
    type: graph.ownName.has(object) ? `class ${graph.ownName.get(object)!}` : graph.types[graph.typeId[object]!]!,
    referrers,
    root: graph.rootKinds[ways.cameBy[top]!]!,
  };
}

// An object without a class of its own is told by the field that it stands in itself: `global.all.closures`.
function referenceTo(graph: HeapGraph, { cameFrom, cameBy }: Ways, from: number, name: number): string {
  const whose = graph.ownName.get(from) ?? graph.types[graph.typeId[from]!]!;
  const above = cameFrom[from]!;
  const isNamed = whose === PLAIN && name !== ELEMENT && above !== NOBODY && cameBy[from] !== ELEMENT;
  if (!isNamed) return referenceWords(graph, whose, name);
  const type = graph.ownName.get(above) ?? graph.types[graph.typeId[above]!]!;
  return `${referenceWords(graph, type, cameBy[from]!)}.${graph.names[name]!}`;
}

// The highest that a field refers to; of an array in a collection that only a root refers to, the collection.
function highest({ types, typeId }: HeapGraph, chain: readonly Referred[]): Referred {
  const top = chain.at(-1)!;
  const inField = chain.findLast(({ worth }) => worth === Worth.field);
  if (inField === undefined) return chain[0]!;
  return inField.from === top.object && types[typeId[inField.object]!]!.endsWith(ELEMENT_NAME) ? top : inField;
}

const Worth = { root: 0, element: 1, field: 2, plain: 3, own: 4 } as const;
/** Objects without a class of their own are the runtime's by their type, and the program's by their fields. */
const PLAIN = 'Object';

/** An object of a chain of holders, with the reference to it that tells most. */
interface Referred {
  readonly rank: number;
  readonly object: number;
  /** Who refers to it; NOBODY for a root. */
  from: number;
  name: number;
  worth: number;
  /** How many objects refer to it, roots together being one. */
  referrers: number;
}

function addReferrers(
  graph: HeapGraph,
  { dominators: { rankOf }, ways }: Pick<Holding, 'dominators' | 'ways'>,
  chain: readonly Referred[],
  placeOf: Int32Array,
): void {
  const { edgeTo, edgeName, firstEdge } = graph;
  for (const root of new Set(graph.roots)) if (placeOf[root]! >= 0) chain[placeOf[root]!]!.referrers++;
  let from = 0;
  for (let edge = 0; edge < edgeTo.length; edge++) {
    const to = edgeTo[edge]!;
    if (placeOf[to]! < 0) continue;
    from = lastAtOrBefore(firstEdge, edge, from);
    if (rankOf[from] === 0 || from === to) continue;
    const referred = chain[placeOf[to]!]!;
    referred.referrers++;
    const name = edgeName[edge]!;
    const isPlain = name === ELEMENT || graph.names[name] === OUTER_SCOPE;
    const worth = isPlain ? Worth.element : worthOfField(graph, ways, from);
    if (worth > referred.worth) Object.assign(referred, { from, name, worth });
  }
}

function worthOfField(graph: HeapGraph, { cameFrom, cameBy }: Ways, from: number): number {
  if (isOwn(graph, from)) return Worth.own;
  if (graph.types[graph.typeId[from]!] !== PLAIN) return Worth.field;
  // One that a class of the library keeps its own things in, as an emitter its listeners.
  const above = cameFrom[from]!;
  const isInner = above !== NOBODY && cameBy[from] !== ELEMENT && !isOwn(graph, above);
  return isInner && graph.types[graph.typeId[above]!] !== PLAIN ? Worth.field : Worth.plain;
}

const isOwn = (graph: HeapGraph, object: number): boolean =>
  graph.ownName.has(object) ? !isLibraryName(graph, object) : graph.isLibrary[graph.typeId[object]!] === 0;

function isLibraryName(graph: HeapGraph, object: number): boolean {
  const type = graph.types.indexOf(graph.ownName.get(object)!);
  return type >= 0 && graph.isLibrary[type] === 1;
}
