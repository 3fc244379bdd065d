import type { Recording } from './recording.ts';
import { NONE } from '../base/ids.ts';

const FOREIGN = [/^node:/, /^$/, /\/node_modules\//, /^(?:java|javax|jdk|sun|com[./]sun)[./]/, /^wasm:/, /^evalmachine/];

/**
 * Rules for what is the engineer's own code, each of them
 * - the beginning of a file's address or of one of its folders: `src/`, `org/saltmarsh/`, or a package, `org.saltmarsh`;
 * - a pattern, in which `*` stands for anything within a folder and `**` for anything: `**\/packages/*\/src/**`;
 * - either of them behind `!`, for what is not.
 * The last rule that fits decides. Where none fits: nothing else is own if any rule names what is, else all that is neither the
 * runtime's nor a dependency's.
 */
export type OwnRules = readonly string[];

/** A test for a file's address by the rules. Cost of a call: the rules. */
export function ownFileTest(rules: OwnRules): (file: string) => boolean {
  const tests = rules.map((rule) => ({ isOwn: !rule.startsWith('!'), fits: fitTest(rule.replace(/^!/, '').trim()) }));
  const names = tests.some(({ isOwn }) => isOwn);
  return (file) => {
    for (let at = tests.length - 1; at >= 0; at--) if (tests[at]!.fits(file)) return tests[at]!.isOwn;
    return names ? false : !FOREIGN.some((pattern) => pattern.test(file));
  };
}

/** True for a file of the engineer's own code, by the rules. */
export function isOwnFile(file: string, rules: OwnRules = []): boolean {
  return ownFileTest(rules)(file);
}

function fitTest(rule: string): (file: string) => boolean {
  if (rule.includes('*')) {
    const pattern = rule.split(/(\*\*\/?|\*)/).map((part) => (part.startsWith('**') ? '.*' : part === '*' ? '[^/]*' : part.replace(/[\\^$.|?+()[\]{}]/g, '\\$&'))).join('');
    const fits = new RegExp(`(?:^|/)${pattern}$`);
    return (file) => fits.test(file);
  }
  const folder = /^[\w$]+(?:\.[\w$]+)+\.?$/.test(rule) && !/\.[cm]?[jt]sx?$/.test(rule) ? `${rule.replace(/\.$/, '').replaceAll('.', '/')}/` : rule;
  return (file) => file.startsWith(rule) || file.startsWith(folder) || file.includes(`/${folder}`);
}

/**
 * For each path, the nearest path towards the entry (itself included) whose frame is an own frame; itself where
 * none is. One pass, since parents come before children.
 */
export function nearestOwnPaths(recording: Recording): Uint32Array {
  const { paths, frames } = recording.tables;
  const isOwnAddress = ownFileTest(recording.ownRules);
  const ownFrame = new Uint8Array(frames.length);
  for (let frameId = 0; frameId < frames.length; frameId++) {
    ownFrame[frameId] = isOwnAddress(recording.strings.text(frames.col.fileId[frameId]!)) ? 1 : 0;
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
