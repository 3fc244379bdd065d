import { NONE } from '../base/ids.ts';
import type { Recording } from '../model/recording.ts';

/** How recursion is told: what a function calls again belongs to its first call, or every call stands as it was. */
export const RECURSIONS = ['folded', 'unfolded'] as const;
export type Recursion = (typeof RECURSIONS)[number];

/** Call paths as a tree is built from them: nodes with a parent and a frame, parents before children. */
export interface PathShape {
  readonly length: number;
  readonly parentId: Uint32Array;
  readonly frameId: Uint32Array;
  /** Node of each of the recording's paths, by path id. */
  readonly nodeOf: Uint32Array;
}

/**
 * The recording's paths, with recursion folded or not. Folded, a frame that stands on the way to the entry already is
 * that call again, directly or through others: what follows hangs under it, so that no frame stands above itself.
 * O(paths · depth).
 */
export function pathShape({ tables: { paths } }: Recording, recursion: Recursion): PathShape {
  const {
    length,
    col: { parentId, frameId },
  } = paths;
  if (recursion === 'unfolded')
    return {
      length,
      parentId: parentId.subarray(0, length),
      frameId: frameId.subarray(0, length),
      nodeOf: Uint32Array.from({ length }, (_, pathId) => pathId),
    };
  const [parents, frames, nodeOf] = [new Uint32Array(length), new Uint32Array(length), new Uint32Array(length)];
  const known = new Map<number, number>();
  for (let pathId = 0; pathId < length; pathId++) {
    const frame = frameId[pathId]!;
    const parent = parentId[pathId] === NONE ? NONE : nodeOf[parentId[pathId]!]!;
    let node = parent;
    while (node !== NONE && frames[node] !== frame) node = parents[node]!;
    if (node === NONE) {
      // Below 2⁵³ for all ids that memory has room for.
      const key = (parent === NONE ? 0 : parent + 1) * 2 ** 24 + frame;
      const found = known.get(key);
      node = found ?? known.size;
      if (found === undefined) {
        known.set(key, node);
        parents[node] = parent;
        frames[node] = frame;
      }
    }
    nodeOf[pathId] = node;
  }
  return {
    length: known.size,
    parentId: parents.subarray(0, known.size),
    frameId: frames.subarray(0, known.size),
    nodeOf,
  };
}
