import { NONE } from '../base/ids.ts';
import type { Recording } from '../model/recording.ts';
import type { PathShape } from './path-shape.ts';

/** Which end of the call paths the tree grows from. */
export type PathDirection = 'entry' | 'allocation';

/** What each call path carries: by node of the shape, of itself and with all its descendants. */
export interface PathSums {
  readonly self: Float64Array;
  readonly selfVariance: Float64Array;
  readonly total: Float64Array;
  readonly totalVariance: Float64Array;
  /** Sum of all paths, and what has no path. */
  readonly all: number;
  readonly withoutPath: number;
}

/** Gathers values of origins by node, then adds every node to its caller. One pass over origins and nodes. */
export function pathSums(
  recording: Recording,
  shape: PathShape,
  value: Float64Array,
  variance: Float64Array,
): PathSums {
  const { origins } = recording.tables;
  const self = new Float64Array(shape.length);
  const selfVariance = new Float64Array(shape.length);
  let [all, withoutPath] = [0, 0];
  for (let originId = 0; originId < origins.length; originId++) {
    const pathId = origins.col.pathId[originId]!;
    all += value[originId]!;
    if (pathId === NONE) withoutPath += value[originId]!;
    else {
      const node = shape.nodeOf[pathId]!;
      self[node]! += value[originId]!;
      selfVariance[node]! += variance[originId]!;
    }
  }
  return { ...rolledUp(shape, self, selfVariance), all, withoutPath };
}

/** Sums of nodes by their own values: every node is added to its caller. Borrows the values. */
export function rolledUp(
  { length, parentId }: Pick<PathShape, 'length' | 'parentId'>,
  self: Float64Array,
  selfVariance: Float64Array,
): PathSums {
  const total = self.slice();
  const totalVariance = selfVariance.slice();
  // Parents come before their children, so from the last path on every sum is whole when it is passed on.
  for (let node = length - 1; node >= 0; node--) {
    const parent = parentId[node]!;
    if (parent === NONE) continue;
    total[parent]! += total[node]!;
    totalVariance[parent]! += totalVariance[node]!;
  }
  return { self, selfVariance, total, totalVariance, all: self.reduce((sum, value) => sum + value, 0), withoutPath: 0 };
}
