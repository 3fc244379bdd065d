import type { Recording } from './recording.ts';

/** Where an object lies: on the collected heap, or outside it, as the stores of buffers do. */
export const Space = { heap: 0, outside: 1 } as const;

/** What the spaces are called, by their key. */
export const SPACE_WORDS = ['the heap', 'outside the heap'] as const;

/** Space of each origin, by origin id; null where all lie on the heap. */
export function spacesOf(recording: Recording): Uint8Array | null {
  const { origins } = recording.tables;
  if (recording.outsideTypes.size === 0) return null;
  return Uint8Array.from(origins.col.typeId.subarray(0, origins.length), (typeId) =>
    recording.outsideTypes.has(typeId) ? Space.outside : Space.heap,
  );
}

/** Of the chosen origins those on the heap: what fills it, lives in it and makes its floor rise. */
export function onHeap(recording: Recording, chosen: Uint8Array | null = null): Uint8Array | null {
  const spaces = spacesOf(recording);
  if (spaces === null) return chosen;
  return spaces.map((space, originId) => (space === Space.heap && (chosen === null || chosen[originId] === 1) ? 1 : 0));
}
