import { selectMedian } from './select-rank.ts';

/**
 * Nearest-rank quantile of ascending values: `sorted[ceil(q·n) − 1]`, so that each answer is one of the values. NaN for
 * no values. Source: Hyndman & Fan, Sample Quantiles in Statistical Packages (1996), definition 1.
 */
export function nearestRank(sorted: Float64Array, q: number): number {
  return sorted.length === 0 ? NaN : sorted[nearestRankIndex(sorted.length, q)]!;
}

/** Index of the nearest-rank quantile among `count` ascending values; `count` is at least 1. */
export function nearestRankIndex(count: number, q: number): number {
  // Rounding guards against 0.07 × 100 = 7.000000000000001.
  const rank = Math.ceil(Math.round(q * count * 1e9) / 1e9);
  return Math.min(count, Math.max(1, rank)) - 1;
}

/** Median of ascending values, the mean of the middle two when their number is even; NaN for none. */
export function medianOfSorted(sorted: Float64Array): number {
  const half = sorted.length >> 1;
  if (sorted.length === 0) return NaN;
  return sorted.length % 2 === 1 ? sorted[half]! : (sorted[half - 1]! + sorted[half]!) / 2;
}

/** Median of values in any order, NaN as the largest; they are copied. Expected linear, where none is NaN. */
export function median(values: ArrayLike<number>): number {
  const copy = values instanceof Float64Array ? values.slice() : Float64Array.from(values);
  return copy.some(Number.isNaN) ? medianOfSorted(copy.sort()) : selectMedian(copy);
}
