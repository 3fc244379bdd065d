import { growableNumbers } from '../base/growable-column.ts';
import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';
import { TOGETHER_MS, type Recording } from '../model/recording.ts';
import { median } from '../stats/quantile.ts';
import { rememberReading } from './remember.ts';

/** When a heap was there: from its first sign of life to its end. */
export interface HeapLife extends Span {
  /** Infinity while it lives. */
  readonly toMs: number;
}

/**
 * A heap of which nothing is heard for this many of its usual gaps, and for so long at least, while others go on, is
 * gone.
 */
const SILENT_GAPS = 5;
const SILENT_MS = 10_000;

/**
 * The life of each heap, by heap id. A heap ends when the source says so, or falls silent while others go on; the last
 * ones of a recording are there to its end, since what they held then was held. Linear in collections and sizes.
 */
export const heapLives = rememberReading((recording): readonly HeapLife[] => {
  const signs = signsOf(recording);
  const lastMs = signs.map((times, heapId) =>
    Math.max(times.at(-1) ?? -Infinity, recording.heaps[heapId]!.endMs || -Infinity),
  );
  return recording.heaps.map((heap, heapId) => {
    const times = signs[heapId]!;
    const fromMs = times[0] ?? 0;
    const othersMs = lastMs.reduce((most, each, other) => (other === heapId ? most : Math.max(most, each)), -Infinity);
    if (!Number.isNaN(heap.endMs)) return { fromMs, toMs: othersMs > heap.endMs + TOGETHER_MS ? heap.endMs : Infinity };
    const silentMs = Math.max(SILENT_MS, SILENT_GAPS * usualGapMs(times));
    return { fromMs, toMs: times.length > 0 && othersMs - lastMs[heapId]! > silentMs ? lastMs[heapId]! : Infinity };
  });
});

// The median of what lies between one time and the next; 0 of less than two.
function usualGapMs(times: Float64Array): number {
  const gaps = new Float64Array(Math.max(0, times.length - 1));
  for (let at = 0; at < gaps.length; at++) gaps[at] = times[at + 1]! - times[at]!;
  return median(gaps) || 0;
}

// Times at which each heap was heard of, in order.
function signsOf(recording: Recording): Float64Array[] {
  const { collections, sizes } = recording.tables;
  const signs = recording.heaps.map(() => growableNumbers());
  for (let row = 0; row < collections.length; row++)
    signs[collections.col.heapId[row]!]?.add(collections.col.endMs[row]!);
  for (let row = 0; row < sizes.length; row++) signs[sizes.col.heapId[row]!]?.add(sizes.col.tMs[row]!);
  return signs.map((heard) => {
    const times = heard.values();
    const order = orderBy(times);
    const sorted = new Float64Array(order.length);
    for (let place = 0; place < order.length; place++) sorted[place] = times[order[place]!]!;
    return sorted;
  });
}

/** True when every heap said that it ended. */
export function hasEnded(recording: Recording): boolean {
  return recording.heaps.length > 0 && recording.heaps.every((heap) => !Number.isNaN(heap.endMs));
}
