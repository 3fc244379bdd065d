import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import type { Charge, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { median } from '../stats/quantile.ts';
import { contentChange, followedAround, isFollowed, type ContentChange } from './heap-content.ts';
import type { LiveLevels } from './live-levels.ts';
import type { ObjectIndex } from './object-index.ts';
import { usedSeries } from './used-series.ts';

/** The highest point of what lives in a span, and what of it is gone once it is over. */
export interface Peak {
  /** When most lived, and how much. */
  readonly tMs: number;
  readonly bytes: number;
  /** When the peak is over: least lives between it and the span's end. */
  readonly afterMs: number;
  readonly afterBytes: number;
  /** The least that lived between the span's beginning and the peak. */
  readonly beforeBytes: number;
  /** Peak over the median of what lives in the span. */
  readonly overMedianRatio: number;
  /** By key from the peak to its end, what was largest at the peak first. */
  readonly changes: readonly ContentChange[];
}

/** The most that was used in a span, to be held against the most that was seen to live. */
export interface UsedPeak {
  readonly tMs: number;
  readonly usedBytes: number;
}

/** What the search for a peak rests on. */
export interface PeakSource {
  readonly index: ObjectIndex;
  readonly levels: LiveLevels;
  readonly chosen?: OriginChoice;
}

/**
 * The peak of seen live bytes in the span right after a collection, what had gone by its end and what stayed. Null
 * where no object was followed. What rises and falls between two collections is not in it.
 */
export function findPeak({ index, levels, chosen = null }: PeakSource, span: Span, charge: Charge): Peak | null {
  const { recording } = index;
  const followed = slicesAfterCollections(recording, levels, span);
  const least = (a: number, b: number): number => (levels.bytes[b]! < levels.bytes[a]! ? b : a);
  const top = followed.reduce((a, b) => (levels.bytes[b]! > levels.bytes[a]! ? b : a), followed[0] ?? -1);
  if (top < 0 || levels.bytes[top] === 0) return null;
  // Beyond a break in following, all that lived is lost from sight, and not gone.
  const around = followedAround(recording, (top + 1) * levels.sliceMs);
  const isWithin = (slice: number): boolean =>
    around === null || ((slice + 1) * levels.sliceMs >= around.fromMs && (slice + 1) * levels.sliceMs < around.toMs);
  const after = followed.filter((slice) => slice >= top && isWithin(slice)).reduce(least, top);
  const before = followed.filter((slice) => slice <= top && isWithin(slice)).reduce(least, top);
  const [tMs, afterMs] = [(top + 1) * levels.sliceMs, (after + 1) * levels.sliceMs];
  return {
    tMs,
    bytes: levels.bytes[top]!,
    afterMs,
    afterBytes: levels.bytes[after]!,
    beforeBytes: levels.bytes[before]!,
    overMedianRatio: levels.bytes[top]! / median(followed.map((slice) => levels.bytes[slice]!)),
    changes: contentChange(index, tMs, afterMs, charge, chosen).sort((a, b) => b.beforeBytes - a.beforeBytes),
  };
}

/** A collection's deaths are told this long after it at most. */
const TOLD_MS = 1;

// Slices that end right after a collection, in order: only then it is known what is dead. All of them where no
// collection is told.
function slicesAfterCollections(recording: Recording, { sliceMs, bytes }: LiveLevels, span: Span): number[] {
  const { length, col } = recording.tables.collections;
  const known = new Uint8Array(bytes.length);
  for (let row = 0; row < length; row++) known[Math.ceil((col.endMs[row]! + TOLD_MS) / sliceMs) - 1] = 1;
  const slices: number[] = [];
  for (let slice = Math.max(0, Math.ceil(span.fromMs / sliceMs) - 1); slice < bytes.length; slice++) {
    const endMs = (slice + 1) * sliceMs;
    if (endMs > span.toMs) break;
    if (endMs >= span.fromMs && (known[slice] === 1 || length === 0) && isFollowed(recording, endMs))
      slices.push(slice);
  }
  return slices;
}

/** When most was used in the span; null when no use was told in it. */
export function usedPeak(recording: Recording, span: Span): UsedPeak | null {
  const used = usedSeries(recording);
  let best = -1;
  for (let at = firstAtOrAfter(used.tMs, span.fromMs); at < used.tMs.length && used.tMs[at]! <= span.toMs; at++)
    if (best < 0 || used.bytes[at]! > used.bytes[best]!) best = at;
  return best < 0 ? null : { tMs: used.tMs[best]!, usedBytes: used.bytes[best]! };
}
