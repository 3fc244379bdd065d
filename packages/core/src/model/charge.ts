import { nearestOwnPaths } from './own-frame.ts';
import type { Recording } from './recording.ts';

/** What an allocation is counted under. */
export type Charge = 'site' | 'ownFrame';

/**
 * For each call path the key it is charged to: the frame id of its allocating frame, or of its nearest own frame.
 * One pass over the paths.
 */
export function chargeKeys(recording: Recording, charge: Charge): Uint32Array {
  const { paths } = recording.tables;
  const keys = new Uint32Array(paths.length);
  const nearest = charge === 'ownFrame' ? nearestOwnPaths(recording) : null;
  for (let pathId = 0; pathId < paths.length; pathId++) {
    keys[pathId] = paths.col.frameId[nearest === null ? pathId : nearest[pathId]!]!;
  }
  return keys;
}
