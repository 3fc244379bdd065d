import { NONE } from '../base/ids.ts';
import type { OriginChoice } from '../analysis/charge-table.ts';
import { nearestOwnPaths } from '../model/own-frame.ts';
import { packageName } from '../model/package-name.ts';
import type { Recording } from '../model/recording.ts';
import { readFind, type FindPlace } from './find-terms.ts';

/**
 * Origins that have every word of a find (query/find-terms.ts), whatever its case: in the function, file or package of the
 * allocating frame or of the nearest own one, in the type or in the thread. Null, for all, when there is no word. Each string is
 * looked at once a word.
 */
export function findOrigins(recording: Recording, text: string): OriginChoice {
  const { terms } = readFind(text);
  if (terms.length === 0) return null;
  const { origins, paths } = recording.tables;
  const { pathId, typeId, threadId } = origins.col;
  const nearest = nearestOwnPaths(recording);
  const chosen = new Uint8Array(origins.length).fill(1);
  for (const { word, place, not } of terms) {
    const inString = Uint8Array.from({ length: recording.strings.length }, (_, id) => (recording.strings.text(id).toLowerCase().includes(word) ? 1 : 0));
    const inFrame = framesWith(recording, inString, word, place);
    const isAt = (wanted: FindPlace): boolean => place === null || place === wanted;
    for (let originId = 0; originId < origins.length; originId++) {
      const path = pathId[originId]!;
      const found = (path !== NONE && (inFrame[paths.col.frameId[path]!]! | inFrame[paths.col.frameId[nearest[path]!]!]!) !== 0)
        || (isAt('type') && (inString[typeId[originId]!] ?? 0) !== 0) || (isAt('thread') && (inString[threadId[originId]!] ?? 0) !== 0);
      if (found === not) chosen[originId] = 0;
    }
  }
  return chosen;
}

// Frames that have the word where it is looked for; a package is a part of its file's address, but for how it is written.
function framesWith(recording: Recording, inString: Uint8Array, word: string, place: FindPlace | null): Uint8Array {
  const { length, col } = recording.tables.frames;
  const found = new Uint8Array(length);
  for (let frameId = 0; frameId < length; frameId++) {
    const inFunction = (place === null || place === 'function') && inString[col.functionId[frameId]!] === 1;
    const inFile = (place === null || place === 'file') && inString[col.fileId[frameId]!] === 1;
    const inPackage = (place === null || place === 'package') && packageName(recording.strings.text(col.fileId[frameId]!)).toLowerCase().includes(word);
    found[frameId] = inFunction || inFile || inPackage ? 1 : 0;
  }
  return found;
}
