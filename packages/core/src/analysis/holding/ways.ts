import { ELEMENT, ELEMENT_NAME, type HeapGraph, OUTER_SCOPE, SCOPE } from '../../model/heap-graph.ts';
import { NOBODY } from './dominators.ts';

/** More different ways than this are one together. */
const MOST_WAYS = 2 ** 20;
/** A holder of a type that is among so many before it is a step that repeats: lists, trees and nested maps. */
const FOLD_OVER = 3;
const NO_WAY = 0;

/** A shortest way from a root to every object that can be reached, with equal ways told as one. */
export interface Ways {
  /** Object that the way comes from; NOBODY for one that a root refers to, and for one that cannot be reached. */
  readonly cameFrom: Uint32Array;
  /** Name of the reference by which it comes; of one that a root refers to, the root's kind. */
  readonly cameBy: Uint32Array;
  /** The way of an object; 0 for one that cannot be reached. */
  readonly wayOf: Uint32Array;
  readonly tree: WayTree;
}

/** Ways as a tree from the roots: each has a way before it and one step more. */
export interface WayTree {
  readonly before: readonly number[];
  /** What stands for the holder of the step: a type, or an object that has a name of its own. */
  readonly holder: readonly number[];
  readonly name: readonly number[];
}

/** Breadth first from the roots: linear. */
export function waysOf(graph: HeapGraph): Ways {
  const { objects, firstEdge, edgeTo, edgeName, roots, rootKind } = graph;
  const cameFrom = new Uint32Array(objects).fill(NOBODY);
  const cameBy = new Uint32Array(objects);
  const wayOf = new Uint32Array(objects);
  const queue = new Uint32Array(objects);
  const steps = new WaySteps(Math.max(graph.names.length, graph.rootKinds.length));
  let tail = 0;
  for (let at = 0; at < roots.length; at++) {
    const root = roots[at]!;
    if (wayOf[root] !== NO_WAY) continue;
    wayOf[root] = steps.after(NO_WAY, NOBODY, rootKind[at]!);
    cameBy[root] = rootKind[at]!;
    queue[tail++] = root;
  }
  for (let head = 0; head < tail; head++) {
    const object = queue[head]!;
    const holder = graph.ownName.has(object) ? graph.types.length + object : graph.typeId[object]!;
    const way = wayOf[object]!;
    for (let edge = firstEdge[object]!; edge < firstEdge[object + 1]!; edge++) {
      const to = edgeTo[edge]!;
      if (wayOf[to] !== NO_WAY) continue;
      wayOf[to] = steps.after(way, holder, edgeName[edge]!);
      cameFrom[to] = object;
      cameBy[to] = edgeName[edge]!;
      queue[tail++] = to;
    }
  }
  return { cameFrom, cameBy, wayOf, tree: steps };
}

class WaySteps implements WayTree {
  readonly before: number[] = [0];
  readonly holder: number[] = [NOBODY];
  readonly name: number[] = [0];
  private readonly known = new Map<number, Map<number, number>>();
  private readonly names: number;

  constructor(names: number) {
    this.names = names;
  }

  after(way: number, holder: number, name: number): number {
    // A holder like one just before makes the way no longer: its reference stands in place of that one's.
    for (let back = way, seen = 0; seen < FOLD_OVER && back !== 0; back = this.before[back]!, seen++)
      if (this.holder[back] === holder && holder !== NOBODY) return this.step(this.before[back]!, holder, name);
    return this.step(way, holder, name);
  }

  private step(way: number, holder: number, name: number): number {
    const key = (holder === NOBODY ? 0 : holder + 1) * this.names + name;
    let after = this.known.get(way);
    if (after === undefined) this.known.set(way, (after = new Map()));
    let next = after.get(key);
    if (next === undefined) {
      next = this.before.length;
      // What is one way too many goes with the way before it.
      if (next >= MOST_WAYS) return way;
      after.set(key, next);
      this.before.push(way);
      this.holder.push(holder);
      this.name.push(name);
    }
    return next;
  }
}

/** Words of a way, from the root on: `root: …`, then `Type.field` of each holder. */
export function wordsOfWay(graph: HeapGraph, { before, holder, name }: WayTree, way: number): string[] {
  const steps: string[] = [];
  for (let at = way; at !== NO_WAY; at = before[at]!)
    steps.push(
      holder[at] === NOBODY ? `root: ${graph.rootKinds[name[at]!]!}` : stepWords(graph, holder[at]!, name[at]!),
    );
  return steps.reverse();
}

function stepWords(graph: HeapGraph, holder: number, name: number): string {
  const whose = holder >= graph.types.length ? graph.ownName.get(holder - graph.types.length)! : graph.types[holder]!;
  return referenceWords(graph, whose, name);
}

/** A reference as people say it: `Type.field`, `Type[]` for an element, and a variable of a scope by its name. */
export function referenceWords(graph: HeapGraph, whose: string, name: number): string {
  if (graph.names[name] === OUTER_SCOPE) return 'outer scope';
  if (whose === SCOPE && name !== ELEMENT) return `variable ${graph.names[name]!}`;
  // Of arrays, the type says it already.
  if (name === ELEMENT) return whose.endsWith(ELEMENT_NAME) ? whose : `${whose}${ELEMENT_NAME}`;
  return `${whose}.${graph.names[name]!}`;
}
