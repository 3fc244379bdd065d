import { overlapMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';

/** How much of what a recorder sampled it could look at, and what looking cost. */
export interface SamplesSeen {
  readonly taken: number;
  readonly seen: number;
  /** NaN when none were taken. */
  readonly seenRatio: number;
  readonly cpuMs: number;
}

/** A stretch in which nothing was heard of a heap's collections, though it ran. */
export interface Silence extends Span {
  readonly heapId: number;
}

/** Samples taken and looked at in a span, by the part of each look inside it; null where the source does not say. */
export function samplesSeen(recording: Recording, span: Span): SamplesSeen | null {
  const { length, col } = recording.tables.looks;
  if (length === 0) return null;
  let [taken, seen, cpuMs] = [0, 0, 0];
  for (let row = 0; row < length; row++) {
    const [fromMs, toMs] = [col.fromMs[row]!, col.toMs[row]!];
    const inside = overlapMs(span, fromMs, toMs);
    const share =
      toMs > fromMs ? inside / (toMs - fromMs) : Number(inside >= 0 && fromMs >= span.fromMs && fromMs < span.toMs);
    taken += share * col.taken[row]!;
    seen += share * col.seen[row]!;
    cpuMs += share * col.cpuMs[row]!;
  }
  return { taken, seen, seenRatio: taken > 0 ? Math.min(1, seen / taken) : NaN, cpuMs };
}

/** The silences that reach into a span, in the order they were told. */
export function silences(recording: Recording, span: Span): Silence[] {
  const { length, col } = recording.tables.silences;
  const found: Silence[] = [];
  for (let row = 0; row < length; row++) {
    if (col.fromMs[row]! < span.toMs && col.toMs[row]! > span.fromMs)
      found.push({ fromMs: col.fromMs[row]!, toMs: col.toMs[row]!, heapId: col.heapId[row]! });
  }
  return found;
}
