import { fileName, type FrameText, frameText } from '../model/call-path.ts';
import { isOwnFile } from '../model/own-frame.ts';
import { packageName } from '../model/package-name.ts';
import type { Recording } from '../model/recording.ts';

/** One frame of a node, or a run of frames that are not the engineer's own. */
export type PathWord =
  | { readonly kind: 'frame'; readonly name: string; readonly place: string; readonly isOwn: boolean }
  | { readonly kind: 'through'; readonly count: number; readonly of: string };

/** A frame, and whether it is the engineer's own. */
export interface WordFrame extends FrameText {
  readonly isOwn: boolean;
}

/** A frame of a recording by its id. */
export function wordFrame(recording: Recording, frameId: number): WordFrame {
  const text = frameText(recording, frameId);
  return { ...text, isOwn: isOwnFile(text.file, recording.ownRules) };
}

/** Frames of one recording by their ids. */
export function framesOf(recording: Recording, frameIds: readonly number[]): WordFrame[] {
  return frameIds.map((frameId) => wordFrame(recording, frameId));
}

/** The frame that says most: the last own one of the chain, else its last. */
export function cellWords(frames: readonly WordFrame[]): {
  readonly text: string;
  readonly place: string;
  readonly isOwn: boolean;
} {
  const words = pathWords(frames);
  const own = words.filter((word) => word.kind === 'frame' && word.isOwn);
  const [first] = own.length > 0 ? own : words.slice(-1);
  return {
    text: first === undefined ? '' : first.kind === 'frame' ? first.name : `through ${first.of}`,
    place: first?.kind === 'frame' ? first.place : '',
    isOwn: own.length > 0,
  };
}

/** Functions, files and packages of frames in lower case, to be looked through for a word. */
export function soughtWords(frames: readonly WordFrame[]): string {
  return frames
    .map(({ functionName, file }) => `${functionName} ${fileName(file)} ${packageName(file)}`)
    .join(' ')
    .toLowerCase();
}

/** Frames in words: own ones and the last each by itself, runs of others as one. */
export function pathWords(frames: readonly WordFrame[]): PathWord[] {
  const words: PathWord[] = [];
  frames.forEach(({ functionName, file, line, isOwn }, place) => {
    const last = words[words.length - 1];
    const isEnd = place === frames.length - 1;
    if (isOwn || isEnd)
      words.push({
        kind: 'frame',
        name: functionName,
        place: file === '' ? '' : `${fileName(file)}${line > 0 ? `:${line}` : ''}`,
        isOwn,
      });
    else if (last?.kind === 'through') words[words.length - 1] = { ...last, count: last.count + 1 };
    else words.push({ kind: 'through', count: 1, of: packageName(file) });
  });
  return words;
}

/** Words of a chain of frames as one line, for a terminal. */
export function chainText(words: readonly PathWord[]): string {
  return words
    .map((word) => (word.kind === 'frame' ? `${word.name} ${word.place}` : `(${word.count} of ${word.of})`))
    .join(' › ');
}
