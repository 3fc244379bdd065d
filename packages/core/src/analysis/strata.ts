import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { OriginChoice } from '../model/charge.ts';
import { onHeap } from '../model/space.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';

/**
 * Live bytes on the heap by birth band over time: `bytes[band · bins + bin]` is what was estimated live at the end of
 * the slice, oldest band first. Bands slice the recording's whole length equally, whatever the span, so that a colour
 * means the same age in every zoom.
 */
export interface Strata {
  /** What was seen to be born in each band, whether or not it lived in the window. */
  readonly bornBytes: Float64Array;
  readonly bands: number;
  readonly bins: number;
  readonly bytes: Float64Array;
}

/** Bands of time of birth that a recording is layered by. */
export const MOST_BANDS = 24;

/** The band of an instant of birth, the oldest first. */
export function bandOf(recording: Recording, bornMs: number, bands = MOST_BANDS): number {
  return Math.min(bands - 1, Math.max(0, Math.floor((bornMs * bands) / Math.max(1, recording.durationMs))));
}

/** How finely the strata are cut, and of what. */
export interface StrataCut {
  readonly bins: number;
  readonly bands?: number;
  /** Origins that are layered; null for all. */
  readonly chosen?: OriginChoice;
}

/** One pass over the objects with difference arrays, then a running sum: O(objects + bands · bins). */
export function strata(
  recording: Recording,
  span: Span,
  { bins, bands = MOST_BANDS, chosen: found = null }: StrataCut,
): Strata {
  const chosen = onHeap(recording, found);
  const { objects } = recording.tables;
  const { bornMs, endMs, sizeBytes, probability, originId } = objects.col;
  const bornBytes = new Float64Array(bands);
  const bytes = new Float64Array(bands * bins);
  const perBin = bins / (span.toMs - span.fromMs);
  const perBand = bands / Math.max(1, recording.durationMs);
  const { length } = objects;
  const { fromMs, toMs } = span;
  for (let row = 0; row < length; row++) {
    if (chosen !== null && chosen[originId[row]!] !== 1) continue;
    const born = bornMs[row]!;
    // Whole numbers are cut off here: that is many times as fast as rounding down, and the same above 0.
    const band = born > 0 ? Math.min(bands - 1, (born * perBand) | 0) : 0;
    const estimate = estimatedBytes(sizeBytes[row]!, probability[row]!);
    bornBytes[band]! += estimate;
    const end = endMs[row]!;
    if (born >= toMs || end < fromMs) continue;
    const first = born <= fromMs ? 0 : Math.min(bins - 1, ((born - fromMs) * perBin) | 0);
    const last = end < toMs ? ((end - fromMs) * perBin) | 0 : bins;
    // Born and gone within a slice: nothing of it is there at its end.
    if (last <= first) continue;
    bytes[band * bins + first]! += estimate;
    if (last < bins) bytes[band * bins + last]! -= estimate;
  }
  for (let band = 0; band < bands; band++) {
    for (let at = band * bins + 1; at < (band + 1) * bins; at++) bytes[at]! += bytes[at - 1]!;
  }
  return { bands, bins, bytes, bornBytes };
}
