import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';

const SLICE_MS = 250;
/** A slice in which less than this share of the usual is allocated is one in which the program does nothing much. */
const IDLE_RATIO = 0.05;
/** A shorter rest is a pause between two steps of the same work. */
const LEAST_MS = 1000;

/**
 * Stretches of a second and more in which less than a twentieth of the mean was allocated, in ascending order: the
 * program waited. By what was sampled, in slices of a quarter of a second; what came and went unseen is spread over the
 * time in which it did. Linear: one pass over objects, flows and slices.
 */
export function idleStretches(recording: Recording): Span[] {
  const { objects, flows } = recording.tables;
  const slices = Math.max(1, Math.ceil(recording.durationMs / SLICE_MS));
  const bytes = new Float64Array(slices);
  const sliceOf = (tMs: number): number => Math.min(slices - 1, Math.max(0, Math.floor(tMs / SLICE_MS)));
  for (let row = 0; row < objects.length; row++)
    bytes[sliceOf(objects.col.bornMs[row]!)]! += estimatedBytes(
      objects.col.sizeBytes[row]!,
      objects.col.probability[row]!,
    );
  // Differences of what each slice gets of flows, summed up below.
  const more = new Float64Array(slices + 1);
  for (let row = 0; row < flows.length; row++) {
    const [first, last] = [sliceOf(flows.col.fromMs[row]!), sliceOf(flows.col.toMs[row]!)];
    const each = flows.col.bytes[row]! / (last - first + 1);
    more[first]! += each;
    more[last + 1]! -= each;
  }
  let sum = 0;
  for (let slice = 0, flowing = 0; slice < slices; slice++) {
    flowing += more[slice]!;
    bytes[slice]! += Math.max(0, flowing);
    sum += bytes[slice]!;
  }
  return sum > 0 ? stretchesBelow(bytes, (IDLE_RATIO * sum) / slices, recording.durationMs) : [];
}

function stretchesBelow(bytes: Float64Array, most: number, durationMs: number): Span[] {
  const stretches: Span[] = [];
  for (let from = 0; from < bytes.length; from++) {
    let to = from;
    while (to < bytes.length && bytes[to]! < most) to++;
    const span = { fromMs: from * SLICE_MS, toMs: Math.min(durationMs, to * SLICE_MS) };
    if (span.toMs - span.fromMs >= LEAST_MS) stretches.push(span);
    from = to;
  }
  return stretches;
}
