import { NONE } from '../base/ids.ts';
import type { OriginChoice } from '../model/charge.ts';
import { ANONYMOUS } from '../model/call-path.ts';
import { nearestOwnPaths } from '../model/own-frame.ts';
import { packageName } from '../model/package-name.ts';
import type { Recording } from '../model/recording.ts';
import { Space, SPACE_WORDS } from '../model/space.ts';
import { readFind, type FindPlace, type WordTerm } from './find-terms.ts';

/**
 * Origins that have every word of a find (query/find-terms.ts), whatever its case: in the function, file or package of
 * the allocating frame or of the nearest own one, in the type, in the thread or, where asked for, in the heap's name or
 * the space. Null, for all, when there is no word. Each string is looked at once a word.
 */
export function findOrigins(recording: Recording, text: string): OriginChoice {
  const words = readFind(text).terms.filter((term) => term.is === 'word');
  if (words.length === 0) return null;
  const { origins, paths } = recording.tables;
  const nearest = nearestOwnPaths(recording);
  const chosen = new Uint8Array(origins.length).fill(1);
  const { pathId, typeId, threadId, heapId } = origins.col;
  for (const term of words) {
    const inString = Uint8Array.from({ length: recording.strings.length }, (_, id) =>
      recording.strings.text(id).toLowerCase().includes(term.word) ? 1 : 0,
    );
    const inFrame = framesWith(recording, inString, term);
    const inHeap = Uint8Array.from(recording.heaps, ({ name }) =>
      term.place === 'heap' && name.toLowerCase().includes(term.word) ? 1 : 0,
    );
    const spaces = term.place === 'space' ? SPACE_WORDS.map((word) => word.includes(term.word)) : null;
    const isAt = (wanted: FindPlace): boolean => term.place === null || term.place === wanted;
    const [atType, atThread] = [isAt('type'), isAt('thread')];
    for (let originId = 0; originId < origins.length; originId++) {
      const path = pathId[originId]!;
      const found =
        (path !== NONE && (inFrame[paths.col.frameId[path]!]! | inFrame[paths.col.frameId[nearest[path]!]!]!) !== 0) ||
        (atType && inString[typeId[originId]!] === 1) ||
        (atThread && inString[threadId[originId]!] === 1) ||
        inHeap[heapId[originId]!] === 1 ||
        (spaces !== null &&
          spaces[recording.outsideTypes.has(typeId[originId]!) ? Space.outside : Space.heap] === true);
      if (found === term.not) chosen[originId] = 0;
    }
  }
  return chosen;
}

// Frames that have the word where it is looked for; a package is a part of its file's address, but for how it is
// written.
function framesWith(recording: Recording, inString: Uint8Array, { word, place, line }: WordTerm): Uint8Array {
  const { length, col } = recording.tables.frames;
  const found = new Uint8Array(length);
  // A function without a name is found by what it is called.
  const isUnnamed = ANONYMOUS.includes(word);
  const hasWord = (id: number): boolean => inString[id] === 1 || (isUnnamed && recording.strings.text(id) === '');
  for (let frameId = 0; frameId < length; frameId++) {
    if (line > 0 && col.line[frameId] !== line) continue;
    const inFunction = (place === null || place === 'function') && hasWord(col.functionId[frameId]!);
    const inFile = (place === null || place === 'file') && inString[col.fileId[frameId]!] === 1;
    const inPackage =
      (place === null || place === 'package') &&
      packageName(recording.strings.text(col.fileId[frameId]!)).toLowerCase().includes(word);
    found[frameId] = inFunction || inFile || inPackage ? 1 : 0;
  }
  return found;
}
