import type { FrameText, SourceExcerpt } from '@brisk-heron/core';
import { originalPositionFor, sourceContentFor, TraceMap } from '@jridgewell/trace-mapping';
import { matchSource } from './match-source.ts';
import type { SourceFile, SourceFolder } from './source-folder.ts';

/** Lines of the user's own files around a frame. */
export interface FoundSource {
  /** Path of the file within the folder, or as the source map names it. */
  readonly path: string;
  readonly line: number;
  readonly excerpt: SourceExcerpt;
  /** File that ran, where a source map led from it to the source; '' elsewhere. */
  readonly mappedFrom: string;
  /** Other files that fit the frame as well. */
  readonly others: readonly string[];
}

/** Where the source of a frame was found, or why it was not. */
export type SourceAnswer =
  { readonly ok: true; readonly found: FoundSource } | { readonly ok: false; readonly why: string };

const LINES_BEFORE = 6;
const LINES_AFTER = 14;
const MOST_CHARS = 400;
const MAP_COMMENT = /^\s*\/\/[#@] sourceMappingURL=(\S+)\s*$/gm;

/**
 * The lines around a frame out of a folder: of the file that the frame names, or of the source that its source map
 * leads to. `prefer` is the path to take where several fit. Says why where there is none.
 */
export async function findSource(folder: SourceFolder, frame: FrameText, prefer = ''): Promise<SourceAnswer> {
  const fitting = matchSource(folder, frame.file);
  const file = fitting.find(({ path }) => path === prefer) ?? fitting[0];
  if (file === undefined)
    return {
      ok: false,
      why: `expected a file like ${shortName(frame.file)} in “${folder.name}”, and found none: is it the folder that the program was built from?`,
    };
  const text = await readText(file);
  if (text === null) return { ok: false, why: `${file.path} can no longer be read: choose the folder again` };
  const others = fitting.filter((each) => each !== file).map(({ path }) => path);
  const mapped = await originalOf(folder, file, text, frame);
  if (mapped !== null) return { ok: true, found: { ...mapped, mappedFrom: `${file.path}:${frame.line}`, others } };
  const excerpt = excerptOf(text, frame.line);
  if (excerpt === null)
    return { ok: false, why: `${file.path} has no line ${frame.line}: it may have changed since the recording` };
  return { ok: true, found: { path: file.path, line: frame.line, excerpt, mappedFrom: '', others } };
}

// Where the frame's place comes from by the file's map; null without a map that tells.
async function originalOf(
  folder: SourceFolder,
  file: SourceFile,
  text: string,
  frame: FrameText,
): Promise<Pick<FoundSource, 'path' | 'line' | 'excerpt'> | null> {
  const named = [...text.matchAll(MAP_COMMENT)].pop()?.[1];
  if (named === undefined || frame.line < 1) return null;
  try {
    const mapText = await mapTextOf(folder, file, named);
    if (mapText === null) return null;
    const map = new TraceMap(mapText, named.startsWith('data:') ? file.path : joined(file.path, named));
    const { source, line } = originalPositionFor(map, { line: frame.line, column: Math.max(0, frame.column - 1) });
    if (source === null || line === null) return null;
    const [original] = matchSource(folder, source);
    const content = (original === undefined ? null : await readText(original)) ?? sourceContentFor(map, source);
    const excerpt = content === null ? null : excerptOf(content, line);
    return excerpt === null ? null : { path: original?.path ?? source, line, excerpt };
  } catch {
    // A map that cannot be read is no map: the file itself is shown.
    return null;
  }
}

async function mapTextOf(folder: SourceFolder, file: SourceFile, named: string): Promise<string | null> {
  const inline = /^data:application\/json[^,]*?(;base64)?,(.*)$/s.exec(named);
  if (inline !== null)
    return inline[1] === undefined
      ? decodeURIComponent(inline[2]!)
      : new TextDecoder().decode(Uint8Array.from(atob(inline[2]!), (letter) => letter.charCodeAt(0)));
  const path = joined(file.path, named);
  const beside = folder.files.find((each) => each.path === path);
  return beside === undefined ? null : readText(beside);
}

async function readText(file: SourceFile): Promise<string | null> {
  try {
    return await file.read();
  } catch {
    return null;
  }
}

function excerptOf(text: string, line: number): SourceExcerpt | null {
  const lines = text.split(/\r?\n/);
  if (line < 1 || line > lines.length) return null;
  const firstLine = Math.max(1, line - LINES_BEFORE);
  return { firstLine, lines: lines.slice(firstLine - 1, line + LINES_AFTER).map((each) => each.slice(0, MOST_CHARS)) };
}

// A path beside a file, `..` taken away.
function joined(from: string, to: string): string {
  return new URL(to, `file:///${from.split('/').map(encodeURIComponent).join('/')}`).pathname
    .slice(1)
    .split('/')
    .map(decodeURIComponent)
    .join('/');
}

function shortName(file: string): string {
  return file.split('/').slice(-2).join('/');
}
