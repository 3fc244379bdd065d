import { firstAtOrAfter } from '../../base/binary-search.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag } from '../../model/tables.ts';
import { estimatedBytes } from '../../stats/horvitz-thompson.ts';

/** What an object's age is counted in: time, collections of its heap that it lived through, bytes its heap allocated. */
export const AGE_KINDS = ['seconds', 'collections', 'allocated'] as const;
export type AgeKind = (typeof AGE_KINDS)[number];

/** The age that an object of a heap reached between two instants: milliseconds, collections or bytes. */
export type AgeMeter = (heapId: number, fromMs: number, toMs: number) => number;

/** Stretches of time over which a heap's allocation is summed; between their edges it is taken as even. */
const SLICES = 8192;

/** The meter of a kind of age over a recording. Building it costs its collections, or one pass over its objects. */
export function ageMeter(recording: Recording, kind: AgeKind): AgeMeter {
  if (kind === 'seconds') return (_, fromMs, toMs) => toMs - fromMs;
  return kind === 'collections' ? collectionMeter(recording) : allocationMeter(recording);
}

// Collections of the recorder's own count as well: the object lived through them.
function collectionMeter(recording: Recording): AgeMeter {
  const { length, col } = recording.tables.collections;
  const ends = recording.heaps.map(() => [] as number[]);
  for (let row = 0; row < length; row++)
    if (!(col.flags[row]! & CollectionFlag.unfinished)) ends[col.heapId[row]!]?.push(col.endMs[row]!);
  const sorted = ends.map((each) => Float64Array.from(each).sort());
  const throughOf = (heapId: number, tMs: number): number => firstAtOrAfter(sorted[heapId]!, tMs);
  return (heapId, fromMs, toMs) => Math.max(0, throughOf(heapId, toMs) - throughOf(heapId, fromMs));
}

function allocationMeter(recording: Recording): AgeMeter {
  const { objects, flows, origins } = recording.tables;
  const heapOf = origins.col.heapId;
  const fromMs = Math.min(0, objects.length > 0 ? objects.col.bornMs[0]! : 0);
  const stepMs = Math.max(1e-6, (recording.durationMs - fromMs) / SLICES);
  const sums = recording.heaps.map(() => new Float64Array(SLICES + 1));
  const place = (tMs: number): number => Math.max(0, Math.min(SLICES, (tMs - fromMs) / stepMs));
  for (let row = 0; row < objects.length; row++) {
    const { bornMs, originId, sizeBytes, probability } = objects.col;
    const slice = Math.min(SLICES - 1, Math.floor(place(bornMs[row]!)));
    sums[heapOf[originId[row]!]!]![slice + 1]! += estimatedBytes(sizeBytes[row]!, probability[row]!);
  }
  for (let row = 0; row < flows.length; row++) {
    const { fromMs: begin, toMs, bytes, originId } = flows.col;
    const sum = sums[heapOf[originId[row]!]!]!;
    const first = Math.min(SLICES - 1, Math.floor(place(begin[row]!)));
    const last = Math.max(first, Math.min(SLICES - 1, Math.ceil(place(toMs[row]!)) - 1));
    for (let slice = first; slice <= last; slice++) sum[slice + 1]! += bytes[row]! / (last - first + 1);
  }
  for (const sum of sums) for (let slice = 0; slice < SLICES; slice++) sum[slice + 1]! += sum[slice]!;
  const at = (heapId: number, tMs: number): number => {
    const exact = place(tMs);
    const slice = Math.min(SLICES - 1, Math.floor(exact));
    const sum = sums[heapId]!;
    return sum[slice]! + (exact - slice) * (sum[slice + 1]! - sum[slice]!);
  };
  return (heapId, from, to) => Math.max(0, at(heapId, to) - at(heapId, from));
}
