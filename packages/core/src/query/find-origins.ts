import { NONE } from '../base/ids.ts';
import type { OriginChoice } from '../analysis/charge-table.ts';
import { nearestOwnPaths } from '../model/own-frame.ts';
import type { Recording } from '../model/recording.ts';

/**
 * Origins in which every word is found, whatever its case: in the function or file of the allocating frame or of the nearest own
 * one, in the type or in the thread. Null, for all, when there is no word. Each string is looked at once a word.
 */
export function findOrigins(recording: Recording, text: string): OriginChoice {
  const words = text.toLowerCase().split(/\s+/).filter((word) => word !== '');
  if (words.length === 0) return null;
  const { origins, paths, frames } = recording.tables;
  const { pathId, typeId, threadId } = origins.col;
  const nearest = nearestOwnPaths(recording);
  const chosen = new Uint8Array(origins.length).fill(1);
  for (const word of words) {
    const inString = Uint8Array.from({ length: recording.strings.length }, (_, id) => (recording.strings.text(id).toLowerCase().includes(word) ? 1 : 0));
    const inFrame = Uint8Array.from({ length: frames.length }, (_, id) => inString[frames.col.functionId[id]!]! | inString[frames.col.fileId[id]!]!);
    for (let originId = 0; originId < origins.length; originId++) {
      const path = pathId[originId]!;
      const found = (path !== NONE && (inFrame[paths.col.frameId[path]!]! | inFrame[paths.col.frameId[nearest[path]!]!]!) !== 0)
        || (inString[typeId[originId]!] ?? 0) !== 0 || (inString[threadId[originId]!] ?? 0) !== 0;
      if (!found) chosen[originId] = 0;
    }
  }
  return chosen;
}
