import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';

/**
 * By heap, when a collection, or a poll of the recorder's, last began to look at what lives; ∞ where none did. What was
 * born after that was never looked at: that its death was not noticed does not say that it lives. O(collections).
 */
export function lastLooksMs(recording: Recording): Float64Array {
  const { collections, polls } = recording.tables;
  const last = new Float64Array(recording.heaps.length).fill(-Infinity);
  const looked = (heapId: number, tMs: number): void => {
    last[heapId] = Math.max(last[heapId]!, tMs);
  };
  const { startMs, flags, heapId } = collections.col;
  for (let row = 0; row < collections.length; row++)
    if (!(flags[row]! & CollectionFlag.unfinished)) looked(heapId[row]!, startMs[row]!);
  for (let row = 0; row < polls.length; row++) looked(polls.col.heapId[row]!, polls.col.tMs[row]!);
  return last.map((tMs) => (tMs === -Infinity ? Infinity : tMs));
}
