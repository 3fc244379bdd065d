import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { Scope } from '../model/tables.ts';
import { hasEnded } from './heap-lives.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';
import { median } from '../stats/quantile.ts';

/** A program ends within this, or this share of its run where that is longer; of a short run within a fifth. */
const ENDING_MS = 3000;
const MOST_ENDING_RATIO = 0.2;
const ENDING_RATIO = 0.05;
/** What is let go at the end is at least this share of what lived. */
const LET_GO_RATIO = 0.5;
/** A batch of deaths that begins it. */
const BATCH_RATIO = 0.1;
const LEAST_FLOOR_POINTS = 3;
/** Fewer samples than this say nothing of the whole. */
const LEAST_DEATHS = 20;

/**
 * When a program that ended began to let go of what it held, in milliseconds; Infinity where it did not, or runs still.
 * From then on neither deaths nor the floor tell of its work: a leak that is freed as the program closes was a leak.
 * One pass over the objects.
 */
export function endOfWorkMs(recording: Recording): number {
  if (!hasEnded(recording)) return Infinity;
  const endMs = recording.heaps.reduce((last, heap) => Math.max(last, heap.endMs), 0);
  const ending = {
    fromMs: endMs - Math.max(Math.min(ENDING_MS, MOST_ENDING_RATIO * endMs), ENDING_RATIO * endMs),
    toMs: Infinity,
  };
  return Math.min(byFloor(recording, ending), byDeaths(recording, ending));
}

/** A span without the end of its program. */
export function workOf(span: Span, endMs: number): Span {
  return endMs > span.fromMs && endMs < span.toMs ? { fromMs: span.fromMs, toMs: endMs } : span;
}

function byFloor({ tables: { collections } }: Recording, ending: Span): number {
  const { scope, endMs, startMs, usedAfterBytes } = collections.col;
  const before: number[] = [];
  let first = Infinity;
  for (let row = 0; row < collections.length; row++) {
    if (scope[row] !== Scope.whole || Number.isNaN(usedAfterBytes[row]!)) continue;
    if (endMs[row]! < ending.fromMs) before.push(usedAfterBytes[row]!);
    else if (
      before.length >= LEAST_FLOOR_POINTS &&
      usedAfterBytes[row]! < (1 - LET_GO_RATIO) * median(before.slice(-LEAST_FLOOR_POINTS))
    )
      first = Math.min(first, startMs[row]!);
  }
  return first;
}

// What was made since the last whole collection may have been dead before.
function byDeaths({ tables: { objects, collections } }: Recording, ending: Span): number {
  let knownMs = -Infinity;
  for (let row = 0; row < collections.length; row++)
    if (collections.col.scope[row] === Scope.whole && collections.col.endMs[row]! < ending.fromMs)
      knownMs = Math.max(knownMs, collections.col.startMs[row]!);
  const { bornMs, endMs, lost, sizeBytes, probability } = objects.col;
  const batches = new Map<number, number>();
  let [lived, died, deaths] = [0, 0, 0];
  for (let row = 0; row < objects.length; row++) {
    if (bornMs[row]! >= knownMs || endMs[row]! < ending.fromMs) continue;
    const bytes = estimatedBytes(sizeBytes[row]!, probability[row]!);
    lived += bytes;
    if (Number.isNaN(endMs[row]!) || lost[row] === 1) continue;
    died += bytes;
    deaths++;
    batches.set(endMs[row]!, (batches.get(endMs[row]!) ?? 0) + bytes);
  }
  if (deaths < LEAST_DEATHS || died < LET_GO_RATIO * lived) return Infinity;
  const first = [...batches]
    .filter(([, bytes]) => bytes >= BATCH_RATIO * lived)
    .reduce((least, [tMs]) => Math.min(least, tMs), Infinity);
  // At the instant itself they are dead already.
  return first - 1;
}
