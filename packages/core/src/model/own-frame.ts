import picomatch from 'picomatch';
import type { Recording } from './recording.ts';
import { NONE } from '../base/ids.ts';

const FOREIGN_MODULE = /\/node_modules\//;

/**
 * Rules for what is the engineer's own code, each of them
 * - the beginning of a file's address or of one of its folders: `src/`, `org/saltmarsh/`, or a package,
 * `org.saltmarsh`;
 * - a pattern, in which `*` stands for anything within a folder and `**` for anything: `**\/packages/*\/src/**`;
 * - either of them behind `!`, for what is not.
 * The last rule that fits decides. Where none fits: nothing else is own if any rule names what is, else all that is
 * neither the
 * runtime's nor a dependency's.
 */
export type OwnRules = readonly string[];

/** A test for a file's address by the rules. Cost of a call: the rules. */
export function ownFileTest(rules: OwnRules): (file: string) => boolean {
  const tests = rules.map((rule) => ({ isOwn: !rule.startsWith('!'), fits: fitTest(rule.replace(/^!/, '').trim()) }));
  const names = tests.some(({ isOwn }) => isOwn);
  return (file) => {
    for (let at = tests.length - 1; at >= 0; at--) if (tests[at]!.fits(file)) return tests[at]!.isOwn;
    return names ? false : !isOfRuntime(file) && !FOREIGN_MODULE.test(file);
  };
}

/** True for a file of the engineer's own code, by the rules. */
export function isOwnFile(file: string, rules: OwnRules = []): boolean {
  return ownFileTest(rules)(file);
}

const RUNTIME = [/^node:/, /^$/, /^(?:java|javax|jdk|sun|com[./]sun)[./]/, /^wasm:/, /^evalmachine/];
const SCRIPT = 3;
const OWN = 2;
const DEPENDENCY = 1;

function isOfRuntime(file: string): boolean {
  return RUNTIME.some((pattern) => pattern.test(file));
}

/** A pattern of more letters is taken as the beginning of an address. */
const MOST_PATTERN = 1000;

function fitTest(rule: string): (file: string) => boolean {
  if (rule.includes('*') && rule.length <= MOST_PATTERN)
    return picomatch([rule, `**/${rule}`], { dot: true, noextglob: true, nobrace: true });
  const folder =
    /^[\w$]+(?:\.[\w$]+)+\.?$/.test(rule) && !/\.[cm]?[jt]sx?$/.test(rule)
      ? `${rule.replace(/\.$/, '').replaceAll('.', '/')}/`
      : rule;
  return (file) => file.startsWith(rule) || file.startsWith(folder) || file.includes(`/${folder}`);
}

/**
 * For each path, the nearest path towards the entry (itself included) whose frame is an own frame; where none is, the
 * nearest whose frame is of a dependency, rather than of the runtime; itself where there is no such either. Where no
 * rule names what is own, the frames of a script come before those of the engine that runs it. One pass, since parents
 * come before children.
 */
export function nearestOwnPaths(recording: Recording): Uint32Array {
  const { paths, frames } = recording.tables;
  const isOwnAddress = ownFileTest(recording.ownRules);
  const { scriptFiles } = recording.traits;
  const isGuessed = recording.ownRules.every((rule) => rule.startsWith('!'));
  const rank = new Uint8Array(frames.length);
  for (let frameId = 0; frameId < frames.length; frameId++) {
    const file = recording.strings.text(frames.col.fileId[frameId]!);
    if (isGuessed && scriptFiles?.test(file)) rank[frameId] = SCRIPT;
    else rank[frameId] = isOwnAddress(file) ? OWN : isOfRuntime(file) ? 0 : DEPENDENCY;
  }
  const nearest = new Uint32Array(paths.length);
  const best = new Uint8Array(paths.length);
  const { parentId, frameId } = paths.col;
  for (let pathId = 0; pathId < paths.length; pathId++) {
    const parent = parentId[pathId]!;
    const here = rank[frameId[pathId]!]!;
    const above = parent === NONE ? 0 : best[parent]!;
    best[pathId] = Math.max(here, above);
    nearest[pathId] = above > here ? nearest[parent]! : pathId;
  }
  return nearest;
}
