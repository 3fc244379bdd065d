import type { Span } from '../base/span.ts';

/** Least and greatest value of a step series in each of `bins` equal slices of the span; NaN where nothing is known yet. */
export interface BinnedExtremes {
  readonly low: Float64Array;
  readonly high: Float64Array;
}

/**
 * Reduces readings (`tMs` ascending) to the extremes of each slice. A slice without a reading carries the last value on,
 * so that a line drawn over the slices has no holes. Linear.
 */
export function binExtremes(tMs: Float64Array, values: Float64Array, span: Span, bins: number): BinnedExtremes {
  const low = new Float64Array(bins).fill(NaN);
  const high = new Float64Array(bins).fill(NaN);
  const scale = bins / (span.toMs - span.fromMs);
  let carried = NaN;
  let filled = 0;
  for (let i = 0; i < tMs.length; i++) {
    const t = tMs[i]!;
    if (t >= span.toMs) break;
    if (t < span.fromMs) {
      carried = values[i]!;
      continue;
    }
    const bin = Math.min(bins - 1, Math.floor((t - span.fromMs) * scale));
    for (; filled < bin; filled++) carry(low, high, filled, carried);
    const value = values[i]!;
    if (!(low[bin]! <= value)) low[bin] = value;
    if (!(high[bin]! >= value)) high[bin] = value;
    carried = value;
  }
  const known = tMs.length === 0 ? -Infinity : tMs[tMs.length - 1]!;
  for (; filled < bins && span.fromMs + filled / scale <= known; filled++) carry(low, high, filled, carried);
  return { low, high };
}

function carry(low: Float64Array, high: Float64Array, bin: number, value: number): void {
  if (Number.isNaN(low[bin]!)) {
    low[bin] = value;
    high[bin] = value;
  }
}
