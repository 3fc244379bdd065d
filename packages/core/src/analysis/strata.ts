import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';

/**
 * Live bytes by birth band over time: `bytes[band · bins + bin]` is what was estimated live at the end of the slice,
 * oldest band first. Bands slice the recording's whole length equally, whatever the span, so that a colour means the same
 * age in every zoom.
 */
export interface Strata {
  readonly bands: number;
  readonly bins: number;
  readonly bytes: Float64Array;
}

export const MOST_BANDS = 24;

/** One pass over the objects with difference arrays, then a running sum: O(objects + bands · bins). */
export function strata(recording: Recording, span: Span, bins: number, bands = MOST_BANDS): Strata {
  const { objects } = recording.tables;
  const { bornMs, diedMs, lostMs, sizeBytes, probability } = objects.col;
  const bytes = new Float64Array(bands * bins);
  const perBin = bins / (span.toMs - span.fromMs);
  const perBand = bands / Math.max(1, recording.durationMs);
  for (let row = 0; row < objects.length; row++) {
    const born = bornMs[row]!;
    if (born >= span.toMs) continue;
    const end = Number.isNaN(diedMs[row]!) ? lostMs[row]! : diedMs[row]!;
    if (end < span.fromMs) continue;
    const band = Math.min(bands - 1, Math.max(0, Math.floor(born * perBand)));
    const estimate = estimatedBytes(sizeBytes[row]!, probability[row]!);
    const first = Math.max(0, Math.floor((born - span.fromMs) * perBin));
    bytes[band * bins + Math.min(bins - 1, first)]! += estimate;
    const last = Math.floor((end - span.fromMs) * perBin);
    if (last < bins && end < span.toMs) bytes[band * bins + Math.max(first, last)]! -= estimate;
  }
  for (let band = 0; band < bands; band++) {
    for (let at = band * bins + 1; at < (band + 1) * bins; at++) bytes[at]! += bytes[at - 1]!;
  }
  return { bands, bins, bytes };
}
