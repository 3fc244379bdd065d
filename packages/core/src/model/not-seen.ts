import { NONE } from '../base/ids.ts';
import type { Recording } from './recording.ts';

/** What stands for a call path where it is known that something was allocated, and not by whom. */
export const NOT_SEEN = '(not seen)';

/** Makes the origin of a heap for what was allocated and not seen. */
export function addOriginNotSeen(recording: Recording, heapId: number): void {
  const path = recording.internPath(NONE, recording.internFrame(NOT_SEEN, '', 0, 0));
  recording.internOrigin(path, NONE, NONE, heapId);
}

/** Row of that origin; `NONE` where the heap has none. */
export function originNotSeen(recording: Recording, heapId: number): number {
  const { origins, paths, frames } = recording.tables;
  const nameId = recording.strings.find(NOT_SEEN);
  if (nameId === NONE) return NONE;
  for (let row = 0; row < origins.length; row++) {
    const pathId = origins.col.pathId[row]!;
    if (
      origins.col.heapId[row] === heapId &&
      paths.col.parentId[pathId] === NONE &&
      frames.col.functionId[paths.col.frameId[pathId]!] === nameId
    )
      return row;
  }
  return NONE;
}
