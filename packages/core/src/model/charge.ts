import { NONE } from '../base/ids.ts';
import { frameText, placeName, siteLabel } from './call-path.ts';
import { nearestOwnPaths } from './own-frame.ts';
import { packageName } from './package-name.ts';
import type { Recording } from './recording.ts';
import { Space, SPACE_WORDS } from './space.ts';

/**
 * What an allocation is counted under: its allocating frame, the nearest own frame, the function, file or package of
 * the allocating frame, the type allocated, the thread, the heap, or the space: on the heap or outside it.
 */
export const CHARGES = ['site', 'ownFrame', 'function', 'file', 'package', 'type', 'thread', 'heap', 'space'] as const;
export type Charge = (typeof CHARGES)[number];

/** Origins that count: 1 by origin id; null when all do. */
export type OriginChoice = Uint8Array | null;

/** Origins gathered under the keys of a charge. */
export interface ChargeGroups {
  /** Group of each origin, by origin id. */
  readonly groupOf: Uint32Array;
  /**
   * Key of each group: a frame id (site, own frame: the first frame with these words; function: the first of the
   * function), the string id of a file (file; package: the first file of the package), type or thread, a heap id, or a
   * space (model/space.ts). NONE where the source does not tell.
   */
  readonly keys: Uint32Array;
}

interface KnownGroups {
  readonly of: string;
  readonly groups: ChargeGroups;
}

const knownGroups = new WeakMap<Recording, Map<Charge, KnownGroups>>();

/**
 * Groups the origins by a charge, in order of their first appearance. One pass over paths and origins, once for what
 * was read and the rules for own code; shared.
 */
export function chargeGroups(recording: Recording, charge: Charge): ChargeGroups {
  const { bytes, durationMs, tables, strings, outsideTypes, ownRules } = recording;
  // Frames may be placed anew by what is read later.
  const read = [bytes, durationMs, tables.origins.length, tables.paths.length, tables.frames.length, strings.length];
  const of = `${read.join(' ')} ${outsideTypes.size} ${ownRules.join('\n')}`;
  const ofRecording = knownGroups.get(recording) ?? new Map<Charge, KnownGroups>();
  knownGroups.set(recording, ofRecording);
  const known = ofRecording.get(charge);
  if (known?.of === of) return known.groups;
  const groups = gatherGroups(recording, charge);
  ofRecording.set(charge, { of, groups });
  return groups;
}

function gatherGroups(recording: Recording, charge: Charge): ChargeGroups {
  const { origins } = recording.tables;
  const keyOf = keyReader(recording, charge);
  const groupOf = new Uint32Array(origins.length);
  const groups = new Map<number, number>();
  for (let originId = 0; originId < origins.length; originId++) {
    const key = keyOf(originId);
    let group = groups.get(key);
    if (group === undefined) groups.set(key, (group = groups.size));
    groupOf[originId] = group;
  }
  return { groupOf, keys: Uint32Array.from(groups.keys()) };
}

/** True for charges whose keys are frames. */
export function isFrameCharge(charge: Charge): boolean {
  return charge === 'site' || charge === 'ownFrame' || charge === 'function';
}

/** What a key is called: `subscribe alerts.ts:88`, `java.util.HashMap$Node`, `main`. */
export function chargeText(recording: Recording, charge: Charge, key: number): string {
  if (key === NONE) return '(unknown)';
  switch (charge) {
    case 'site':
    case 'ownFrame':
      return siteLabel(frameText(recording, key));
    case 'function': {
      const { functionName, file } = frameText(recording, key);
      return file === '' ? functionName : `${functionName} ${placeName(file)}`;
    }
    case 'file':
      return recording.strings.text(key) || '(no file)';
    case 'package':
      return packageName(recording.strings.text(key));
    case 'type':
    case 'thread':
      return recording.strings.text(key);
    case 'heap':
      return recording.heaps[key]?.name ?? '(unknown)';
    case 'space':
      return SPACE_WORDS[key] ?? '(unknown)';
  }
}

/** The words of a key of which nothing is known. */
const UNKNOWN_KEY = '(unknown)';

/**
 * A key's own words, which mean the same in every recording of the program: what is asked and answered beyond one
 * recording. Of frames they tell the function, the file and the place in it.
 */
export function keyText(recording: Recording, charge: Charge, key: number): string {
  if (key === NONE) return UNKNOWN_KEY;
  const text = wordsOfKey(recording, charge, key);
  return text === UNKNOWN_KEY ? `"${text}"` : text;
}

function wordsOfKey(recording: Recording, charge: Charge, key: number): string {
  if (charge === 'file') return recording.strings.text(key);
  if (!isFrameCharge(charge)) return chargeText(recording, charge, key);
  const { functionName, file, line, column } = frameText(recording, key);
  return charge === 'function' ? `${functionName} (${file})` : `${functionName} (${file}:${line}:${column})`;
}

function keyReader(recording: Recording, charge: Charge): (originId: number) => number {
  const { origins, paths } = recording.tables;
  const { pathId, typeId, threadId, heapId } = origins.col;
  const ofFrame =
    (keyOfFrame: (frameId: number) => number) =>
    (originId: number): number => {
      const path = pathId[originId]!;
      return path === NONE ? NONE : keyOfFrame(paths.col.frameId[path]!);
    };
  switch (charge) {
    case 'site': {
      const first = firstFrames(recording, 'place');
      return ofFrame((frameId) => first[frameId]!);
    }
    case 'ownFrame': {
      const nearest = nearestOwnPaths(recording);
      const first = firstFrames(recording, 'place');
      return (originId) => (pathId[originId] === NONE ? NONE : first[paths.col.frameId[nearest[pathId[originId]!]!]!]!);
    }
    case 'function': {
      const first = firstFrames(recording, 'function');
      return ofFrame((frameId) => first[frameId]!);
    }
    case 'file':
      return ofFrame((frameId) => recording.tables.frames.col.fileId[frameId]!);
    case 'package': {
      const first = firstFiles(recording);
      return ofFrame((frameId) => first.get(recording.tables.frames.col.fileId[frameId]!)!);
    }
    case 'type':
      return (originId) => typeId[originId]!;
    case 'thread':
      return (originId) => threadId[originId]!;
    case 'heap':
      return (originId) => heapId[originId]!;
    case 'space':
      return (originId) => (recording.outsideTypes.has(typeId[originId]!) ? Space.outside : Space.heap);
  }
}

// For each frame the first one of the same function in the same file, and at the same place in it. Frames that were told
// by their running place may have the words of another once they are placed.
function firstFrames(recording: Recording, of: 'function' | 'place'): Uint32Array {
  const { length, col } = recording.tables.frames;
  const first = new Uint32Array(length);
  const known = new Map<string, number>();
  for (let frameId = 0; frameId < length; frameId++) {
    const place = of === 'place' ? ` ${col.line[frameId]!} ${col.column[frameId]!}` : '';
    const words = `${col.functionId[frameId]!} ${col.fileId[frameId]!}${place}`;
    const found = known.get(words);
    first[frameId] = found ?? frameId;
    if (found === undefined) known.set(words, frameId);
  }
  return first;
}

// The first file of each file's package.
function firstFiles({ tables: { frames }, strings }: Recording): Map<number, number> {
  const first = new Map<number, number>();
  const ofPackage = new Map<string, number>();
  for (let frameId = 0; frameId < frames.length; frameId++) {
    const fileId = frames.col.fileId[frameId]!;
    if (first.has(fileId)) continue;
    const name = packageName(strings.text(fileId));
    first.set(fileId, ofPackage.get(name) ?? fileId);
    if (!ofPackage.has(name)) ofPackage.set(name, fileId);
  }
  return first;
}
