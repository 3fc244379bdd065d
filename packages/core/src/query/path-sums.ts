import { NONE } from '../base/ids.ts';
import type { Recording } from '../model/recording.ts';

/** Which end of the call paths the tree grows from. */
export type PathDirection = 'entry' | 'allocation';

/** What each call path carries: by path id, of itself and with all its descendants. */
export interface PathSums {
  readonly self: Float64Array;
  readonly selfVariance: Float64Array;
  readonly total: Float64Array;
  readonly totalVariance: Float64Array;
  /** Sum of all paths, and what has no path. */
  readonly all: number;
  readonly withoutPath: number;
}

/** Gathers values of origins by path, then adds every path to its caller. One pass over origins and paths. */
export function pathSums(recording: Recording, value: Float64Array, variance: Float64Array): PathSums {
  const { origins, paths } = recording.tables;
  const self = new Float64Array(paths.length);
  const selfVariance = new Float64Array(paths.length);
  let [all, withoutPath] = [0, 0];
  for (let originId = 0; originId < origins.length; originId++) {
    const pathId = origins.col.pathId[originId]!;
    all += value[originId]!;
    if (pathId === NONE) withoutPath += value[originId]!;
    else {
      self[pathId]! += value[originId]!;
      selfVariance[pathId]! += variance[originId]!;
    }
  }
  const total = self.slice();
  const totalVariance = selfVariance.slice();
  // Parents come before their children, so from the last path on every sum is whole when it is passed on.
  for (let pathId = paths.length - 1; pathId >= 0; pathId--) {
    const parent = paths.col.parentId[pathId]!;
    if (parent === NONE) continue;
    total[parent]! += total[pathId]!;
    totalVariance[parent]! += totalVariance[pathId]!;
  }
  return { self, selfVariance, total, totalVariance, all, withoutPath };
}
