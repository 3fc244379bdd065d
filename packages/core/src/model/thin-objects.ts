import type { Recording } from './recording.ts';

/**
 * A recording holds no more objects than these, some 1.5 GB with what is worked out from them: of more the older ones
 * are thinned.
 */
export const MOST_OBJECTS = 16_000_000;

/** A level is gone through again while so many of the older rows are not at it yet; else the next one begins. */
const LEAST_SHARE = 0.1;

/**
 * Thins the older half of the rows to a level: of the objects that are known to be dead, one in 2^level is kept, drawn
 * at random, and stands for all of them. Its probability is divided by what it stands for, or, where the source tells
 * scaled estimates alone, its bytes are multiplied. What lives is untouched. The level rises by one when the older half
 * is at it, which is each time the events double; so the newer half is always finer. Every sum keeps its expectation,
 * and the variance of the sampling stays the one that the probabilities tell (Horvitz & Thompson 1952, thinning being a
 * second sampling). The draws follow from the rows alone, so that the same input gives the same recording. Answers
 * where each row has gone, NONE for those left out. O(rows).
 */
export function thinObjects(recording: Recording): Uint32Array {
  const { objects } = recording.tables;
  const { length, col } = objects;
  const older = length >>> 1;
  const isDead = (row: number): boolean => col.endMs[row]! <= recording.durationMs && col.lost[row] === 0;
  const known = recording.thinnings[recording.thinnings.length - 1]?.level ?? 0;
  let finer = 0;
  for (let row = 0; row < older; row++) if (isDead(row) && col.thinned[row]! < known) finer++;
  const level = finer >= LEAST_SHARE * older ? known : known + 1;
  const keep = new Uint8Array(length).fill(1);
  const draw = draws((length ^ (recording.thinnings.length * 0x9e3779b9)) >>> 0);
  let [beforeMs, removed] = [0, 0];
  for (let row = 0; row < older; row++) {
    const steps = level - col.thinned[row]!;
    if (!isDead(row) || steps <= 0) continue;
    beforeMs = Math.max(beforeMs, col.bornMs[row]!);
    if (draw() >= 2 ** (32 - steps)) {
      keep[row] = 0;
      removed++;
      continue;
    }
    col.thinned[row] = level;
    if (Number.isNaN(col.probability[row]!)) col.sizeBytes[row] = col.sizeBytes[row]! * 2 ** steps;
    else col.probability[row] = col.probability[row]! / 2 ** steps;
  }
  recording.thinnings.push({ beforeMs, removed, level });
  return objects.keepRows(keep);
}

// Whole numbers below 2^32 that follow from a seed (mulberry32).
function draws(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let value = Math.imul(state ^ (state >>> 15), state | 1);
    value ^= value + Math.imul(value ^ (value >>> 7), value | 61);
    return (value ^ (value >>> 14)) >>> 0;
  };
}

/** In words, what of a recording was thinned; '' for nothing. */
export function thinningInWords({ thinnings }: Recording, formatClock: (ms: number) => string): string {
  const last = thinnings[thinnings.length - 1];
  if (last === undefined) return '';
  const removed = thinnings.reduce((sum, each) => sum + each.removed, 0);
  return `Of objects that were born before ${formatClock(last.beforeMs)} and have died, one in ${2 ** last.level} was kept, of younger ones more; ${removed.toLocaleString('en')} are left out in all. Those kept stand for them, and the errors tell it.`;
}
