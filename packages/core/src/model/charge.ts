import { NONE } from '../base/ids.ts';
import { frameText, placeName, siteLabel } from './call-path.ts';
import { nearestOwnPaths } from './own-frame.ts';
import { packageName } from './package-name.ts';
import type { Recording } from './recording.ts';
import { Space, SPACE_WORDS } from './space.ts';

/**
 * What an allocation is counted under: its allocating frame, the nearest own frame, the function, file or package of
 * the
 * allocating frame, the type allocated, the thread, the heap, or the space: on the heap or outside it.
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
   * Key of each group: a frame id (site, own frame, function: the first frame of that function), a string id (file,
   * package, type,
   * thread), a heap id, or a space (model/space.ts). NONE where the source does not tell.
   */
  readonly keys: Uint32Array;
}

/** Groups the origins by a charge, in order of their first appearance. One pass over paths and origins. */
export function chargeGroups(recording: Recording, charge: Charge): ChargeGroups {
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
    case 'type':
    case 'thread':
      return recording.strings.text(key);
    case 'heap':
      return recording.heaps[key]?.name ?? '(unknown)';
    case 'space':
      return SPACE_WORDS[key] ?? '(unknown)';
  }
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
    case 'site':
      return ofFrame((frameId) => frameId);
    case 'ownFrame': {
      const nearest = nearestOwnPaths(recording);
      return (originId) => (pathId[originId] === NONE ? NONE : paths.col.frameId[nearest[pathId[originId]!]!]!);
    }
    case 'function': {
      const first = firstFrames(recording);
      return ofFrame((frameId) => first[frameId]!);
    }
    case 'file':
      return ofFrame((frameId) => recording.tables.frames.col.fileId[frameId]!);
    case 'package':
      return ofFrame((frameId) =>
        recording.intern(packageName(recording.strings.text(recording.tables.frames.col.fileId[frameId]!))),
      );
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

// For each frame the first one of the same function in the same file.
function firstFrames(recording: Recording): Uint32Array {
  const { frames } = recording.tables;
  const first = new Uint32Array(frames.length);
  const known = new Map<string, number>();
  for (let frameId = 0; frameId < frames.length; frameId++) {
    const key = `${frames.col.functionId[frameId]!} ${frames.col.fileId[frameId]!}`;
    const found = known.get(key);
    first[frameId] = found ?? frameId;
    if (found === undefined) known.set(key, frameId);
  }
  return first;
}
