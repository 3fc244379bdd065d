import { NONE } from '../base/ids.ts';
import type { Recording } from './recording.ts';

/** One frame in words. Line and column count from 1; 0 when unknown. */
export interface FrameText {
  readonly functionName: string;
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

/** What a function without a name is called; its place tells it from others. */
export const ANONYMOUS = '(anonymous)';

/** The frame's words. */
export function frameText(recording: Recording, frameId: number): FrameText {
  const { col } = recording.tables.frames;
  return {
    functionName: recording.strings.text(col.functionId[frameId]!) || ANONYMOUS,
    file: recording.strings.text(col.fileId[frameId]!),
    line: col.line[frameId]!,
    column: col.column[frameId]!,
  };
}

/** Frames of a path from the entry to the allocation; empty for NONE. Cost: the path's depth. */
export function pathFrames(recording: Recording, pathId: number): FrameText[] {
  const { col } = recording.tables.paths;
  const frames: FrameText[] = [];
  for (let at = pathId; at !== NONE; at = col.parentId[at]!) frames.push(frameText(recording, col.frameId[at]!));
  return frames.reverse();
}

/** Last part of a file's address: `alerts.ts` of `file:///srv/app/alerts.ts`. */
export function fileName(file: string): string {
  const cut = Math.max(file.lastIndexOf('/'), file.lastIndexOf('\\'));
  return cut < 0 ? file : file.slice(cut + 1);
}

/**
 * A file as it is named beside a function: a dependency's with the package it is of, `reed-list/index.js`; others by
 * their last part.
 */
export function placeName(file: string): string {
  const module = /^.*[/\\]node_modules[/\\]((?:@[^/\\]+[/\\])?[^/\\]+)[/\\]/.exec(file);
  return module === null ? fileName(file) : `${module[1]!}/${fileName(file)}`;
}

/** A site as one line: `subscribe alerts.ts:88`, `add reed-list/index.js:5`. */
export function siteLabel(frame: FrameText): string {
  if (frame.file === '') return frame.functionName;
  return `${frame.functionName} ${placeName(frame.file)}${frame.line > 0 ? `:${frame.line}` : ''}`;
}
