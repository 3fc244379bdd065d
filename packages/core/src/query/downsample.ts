import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';

/** Least and greatest value of a series in each of `bins` equal slices of the span; NaN where nothing is known. */
export interface BinnedExtremes {
  readonly low: Float64Array;
  readonly high: Float64Array;
}

/**
 * Reduces readings (`tMs` ascending) to the extremes that the line through them reaches in each slice: between two
 * readings memory is taken to climb evenly. Slices before the first and after the last reading stay NaN. Linear in
 * the readings of the span and bins.
 */
export function binExtremes(tMs: Float64Array, values: Float64Array, span: Span, bins: number): BinnedExtremes {
  const binned = { low: new Float64Array(bins).fill(NaN), high: new Float64Array(bins).fill(NaN) };
  const perMs = bins / (span.toMs - span.fromMs);
  if (tMs.length === 1) addPoint(binned, Math.floor((tMs[0]! - span.fromMs) * perMs), values[0]!);
  for (let i = Math.max(1, firstAtOrAfter(tMs, span.fromMs)); i < tMs.length; i++) {
    const from = (tMs[i - 1]! - span.fromMs) * perMs;
    const to = (tMs[i]! - span.fromMs) * perMs;
    if (from >= bins) break;
    const before = values[i - 1]!;
    const slope = to > from ? (values[i]! - before) / (to - from) : 0;
    const first = Math.max(0, Math.floor(from));
    const last = Math.min(bins - 1, Math.floor(to));
    for (let bin = first; bin <= last; bin++) {
      addPoint(binned, bin, before + slope * (Math.max(from, bin) - from));
      addPoint(binned, bin, before + slope * (Math.min(to, bin + 1) - from));
    }
    if (to < bins) addPoint(binned, last, values[i]!);
  }
  return binned;
}

function addPoint({ low, high }: BinnedExtremes, bin: number, value: number): void {
  if (!(low[bin]! <= value)) low[bin] = value;
  if (!(high[bin]! >= value)) high[bin] = value;
}

/**
 * Least value of a step series in each slice: every reading (`tMs` ascending) holds until the next. Slices before the
 * first reading are NaN. Linear in the readings of the span and bins.
 */
export function binSteps(tMs: Float64Array, values: Float64Array, span: Span, bins: number): Float64Array {
  const low = new Float64Array(bins).fill(NaN);
  const binMs = (span.toMs - span.fromMs) / bins;
  // From two before: the one that is held as the span begins, and one for what is lost in rounding the slices.
  let at = Math.max(0, firstAtOrAfter(tMs, span.fromMs) - 2);
  let held = NaN;
  for (let bin = 0; bin < bins; bin++) {
    const end = span.fromMs + (bin + 1) * binMs;
    let least = at < tMs.length && tMs[at]! < end ? Infinity : held;
    for (; at < tMs.length && tMs[at]! < end; at++) {
      held = values[at]!;
      if (tMs[at]! >= end - binMs) least = Math.min(least, held);
    }
    low[bin] = least === Infinity ? held : least;
  }
  return low;
}
