import type { Recording } from '../model/recording.ts';
import { CollectionFlag, PhaseKind, Scope } from '../model/tables.ts';

/** A death is reported by a collection that ended this long before it at most. */
const REPORTED_MS = 1;

/**
 * Answers for an object's row the time at which it was surely still alive; NaN for one not known to be dead. The source
 * says when an object was *not noticed* dead; that it was alive then holds only if the collections in between could
 * have noticed: a young collection examines young objects alone. So a death that a young collection noticed lies after
 * the one before, and any other after the start of the last whole collection before. O(log c) a row for c collections.
 */
export function lastKnownAlive(recording: Recording): (row: number) => number {
  const { bornMs, bornEarlyMs, endMs, lost, diedSlackMs, originId } = recording.tables.objects.col;
  const { heapId } = recording.tables.origins.col;
  const heaps = recording.heaps.map((_, id) => (hasSingleDeaths(recording, id) ? collectionsOf(recording, id) : null));
  return (row) => {
    const died = endMs[row]!;
    if (Number.isNaN(died) || lost[row] === 1) return NaN;
    const told = died - diedSlackMs[row]!;
    const collections = heaps[heapId[originId[row]!]!] ?? null;
    return collections === null
      ? told
      : Math.max(bornMs[row]! - bornEarlyMs[row]!, Math.min(told, boundOf(collections, died, told)));
  };
}

/** Collections of one heap in order of their ends. */
interface HeapCollections {
  readonly endMs: Float64Array;
  readonly isYoung: Uint8Array;
  /** Start of the latest whole collection that began before the row's own start; −∞ when there is none. */
  readonly wholeBeforeMs: Float64Array;
}

// Polls are whole collections of their own: what they tell needs no widening.
function hasSingleDeaths(recording: Recording, heapId: number): boolean {
  const { kind, heapId: heaps } = recording.tables.phases.col;
  for (let row = 0; row < recording.tables.phases.length; row++)
    if (heaps[row] === heapId && kind[row] === PhaseKind.objects) return true;
  return false;
}

function collectionsOf(recording: Recording, wanted: number): HeapCollections | null {
  const { collections } = recording.tables;
  const { startMs, endMs, scope, flags, heapId } = collections.col;
  const rows: number[] = [];
  for (let row = 0; row < collections.length; row++) {
    if (heapId[row] === wanted && !(flags[row]! & CollectionFlag.unfinished)) rows.push(row);
  }
  if (rows.length === 0) return null;
  rows.sort((a, b) => endMs[a]! - endMs[b]!);
  const starts = rows
    .filter((row) => scope[row] === Scope.whole)
    .map((row) => startMs[row]!)
    .sort((a, b) => a - b);
  let next = 0;
  const found = {
    endMs: new Float64Array(rows.length),
    isYoung: new Uint8Array(rows.length),
    wholeBeforeMs: new Float64Array(rows.length),
  };
  rows.forEach((row, at) => {
    found.endMs[at] = endMs[row]!;
    found.isYoung[at] = scope[row] === Scope.young ? 1 : 0;
    while (next < starts.length && starts[next]! < startMs[row]!) next++;
    found.wholeBeforeMs[at] = next > 0 && starts[next - 1]! < startMs[row]! ? starts[next - 1]! : -Infinity;
  });
  return found;
}

function boundOf(collections: HeapCollections, diedMs: number, toldMs: number): number {
  const { endMs, isYoung, wholeBeforeMs } = collections;
  let low = 0;
  let high = endMs.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (endMs[middle]! <= diedMs + REPORTED_MS) low = middle + 1;
    else high = middle;
  }
  const noticing = low - 1;
  if (noticing < 0) return -Infinity;
  const atItsEnd = diedMs - endMs[noticing]! <= REPORTED_MS;
  return isYoung[noticing] === 1 && atItsEnd ? toldMs : wholeBeforeMs[noticing]!;
}
