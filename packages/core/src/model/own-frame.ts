import type { Recording } from './recording.ts';
import { NONE } from '../base/ids.ts';

const FOREIGN = [/^node:/, /^$/, /\/node_modules\//, /^(?:java|javax|jdk|sun|com[./]sun)[./]/, /^wasm:/, /^evalmachine/];

/**
 * True for a file of the engineer's own code: not the runtime's, not a dependency's. `prefixes`, when there are any, are the
 * beginnings of all own files.
 */
export function isOwnFile(file: string, prefixes: readonly string[] = []): boolean {
  if (prefixes.length > 0) return prefixes.some((prefix) => file.startsWith(prefix));
  return !FOREIGN.some((pattern) => pattern.test(file));
}

/**
 * For each path, the nearest path towards the entry (itself included) whose frame is an own frame; itself where
 * none is. One pass, since parents come before children.
 */
export function nearestOwnPaths(recording: Recording): Uint32Array {
  const { paths, frames } = recording.tables;
  const ownFrame = new Uint8Array(frames.length);
  for (let frameId = 0; frameId < frames.length; frameId++) {
    ownFrame[frameId] = isOwnFile(recording.strings.text(frames.col.fileId[frameId]!), recording.ownPrefixes) ? 1 : 0;
  }
  const nearest = new Uint32Array(paths.length);
  const hasOwn = new Uint8Array(paths.length);
  const { parentId, frameId } = paths.col;
  for (let pathId = 0; pathId < paths.length; pathId++) {
    const parent = parentId[pathId]!;
    const isOwn = ownFrame[frameId[pathId]!] === 1;
    const above = !isOwn && parent !== NONE && hasOwn[parent] === 1;
    hasOwn[pathId] = isOwn || above ? 1 : 0;
    nearest[pathId] = above ? nearest[parent]! : pathId;
  }
  return nearest;
}
