import type { HeapGraph } from '../../model/heap-graph.ts';
import { type Dominators, NOBODY } from './dominators.ts';

/**
 * Own bytes of all that could no longer be reached if every object of a set went: the set itself, and what only it
 * holds. Exact: one search from the roots around the set. `isMember` is 1 for members.
 */
export function heldBytesOf(graph: HeapGraph, dominators: Dominators, isMember: Uint8Array): number {
  return dominators.heldBytes[0]! - reachedAround(graph, dominators, isMember).bytes;
}

/** What can be reached from the roots around a set: 1 in `seen` for each such object, and their own bytes. */
export function reachedAround(
  graph: HeapGraph,
  dominators: Dominators,
  isMember: Uint8Array,
): { readonly seen: Uint8Array; readonly bytes: number } {
  const { firstEdge, edgeTo, ownBytes, roots } = graph;
  const seen = new Uint8Array(graph.objects);
  const stack = new Uint32Array(dominators.reached);
  let depth = 0;
  let bytes = 0;
  for (const root of roots) {
    if (seen[root] === 1 || isMember[root] === 1) continue;
    seen[root] = 1;
    stack[depth++] = root;
  }
  while (depth > 0) {
    const object = stack[--depth]!;
    bytes += ownBytes[object]!;
    for (let edge = firstEdge[object]!; edge < firstEdge[object + 1]!; edge++) {
      const to = edgeTo[edge]!;
      if (seen[to] === 1 || isMember[to] === 1) continue;
      seen[to] = 1;
      stack[depth++] = to;
    }
  }
  return { seen, bytes };
}

/**
 * For each of many sets that share no object, what its members hold one by one, those below another member of the same
 * set left out: a lower bound of what the set holds together, made for all sets in one pass. `setOf` is the set of an
 * object, NOBODY for none.
 */
export function leastHeldBytes(dominators: Dominators, setOf: Uint32Array, sets: number): Float64Array {
  const { reached, objectAt, holder, heldBytes } = dominators;
  const held = new Float64Array(sets);
  // How many members of each set stand above the rank that is gone through.
  const { firstChild, nextSibling } = childrenOf(holder, reached);
  const open = new Uint32Array(sets);
  const stack = new Uint32Array(reached + 1);
  let depth = 0;
  let rank = 0;
  for (;;) {
    const set = rank === 0 ? NOBODY : setOf[objectAt[rank]!]!;
    if (set !== NOBODY && open[set]!++ === 0) held[set]! += heldBytes[rank]!;
    if (firstChild[rank] !== 0) {
      stack[depth++] = rank;
      rank = firstChild[rank]!;
      continue;
    }
    for (;;) {
      const left = rank === 0 ? NOBODY : setOf[objectAt[rank]!]!;
      if (left !== NOBODY) open[left]!--;
      if (nextSibling[rank] !== 0) {
        rank = nextSibling[rank]!;
        break;
      }
      if (depth === 0) return held;
      rank = stack[--depth]!;
    }
  }
}

// Children in the tree of dominators, by rank; 0 for none.
function childrenOf(
  holder: Uint32Array,
  reached: number,
): { readonly firstChild: Uint32Array; readonly nextSibling: Uint32Array } {
  const firstChild = new Uint32Array(reached);
  const nextSibling = new Uint32Array(reached);
  for (let rank = reached - 1; rank > 0; rank--) {
    nextSibling[rank] = firstChild[holder[rank]!]!;
    firstChild[holder[rank]!] = rank;
  }
  return { firstChild, nextSibling };
}
