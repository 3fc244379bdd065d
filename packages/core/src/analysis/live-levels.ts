import type { Recording } from '../model/recording.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { OriginChoice } from '../model/charge.ts';
import { onHeap } from '../model/space.ts';

/** Estimated live bytes over the whole recording: `bytes[slice]` at the end of each of its equal slices. */
export interface LiveLevels {
  readonly sliceMs: number;
  readonly bytes: Float64Array;
}

const SLICES = 16_384;

/** Live bytes of the objects seen on the heap, by changes and a running sum. One pass over the objects. */
export function liveLevels(recording: Recording, found: OriginChoice = null): LiveLevels {
  const chosen = onHeap(recording, found);
  const { objects } = recording.tables;
  const { bornMs, endMs, originId, sizeBytes, probability } = objects.col;
  const sliceMs = Math.max(1e-6, recording.durationMs / SLICES);
  const perMs = 1 / sliceMs;
  const changes = new Float64Array(SLICES + 1);
  for (let row = 0; row < objects.length; row++) {
    // The slice whose end is the first at or after the instant.
    const from = Math.max(0, Math.ceil(bornMs[row]! * perMs) - 1);
    const end = endMs[row]!;
    const to = Number.isNaN(end) ? SLICES : Math.min(SLICES, Math.max(0, Math.ceil(end * perMs) - 1));
    if (to <= from || (chosen !== null && chosen[originId[row]!] !== 1)) continue;
    const bytes = estimatedBytes(sizeBytes[row]!, probability[row]!);
    changes[from]! += bytes;
    changes[to]! -= bytes;
  }
  for (let slice = 1; slice < SLICES; slice++) changes[slice]! += changes[slice - 1]!;
  return { sliceMs, bytes: changes.subarray(0, SLICES) };
}
