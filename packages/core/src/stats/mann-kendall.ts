import { twoSidedP } from './normal.ts';
import type { InsufficientData } from './insufficient-data.ts';
import { sortAndCount } from './inversions.ts';
import { theilSen } from './theil-sen.ts';
import { tieCorrectedVariance } from './tie-variance.ts';
import { Z_95 } from './z-95.ts';

/** Whether a series rises or falls, or why that cannot be told. */
export interface TrendTest {
  readonly kind: 'trend-test';
  /** Concordant minus discordant pairs. */
  readonly s: number;
  /** Variance of S when there is no trend, corrected for ties and autocorrelation. */
  readonly variance: number;
  /** What autocorrelation multiplied the variance by, at least 1. */
  readonly varianceFactor: number;
  readonly z: number;
  readonly pValue: number;
  /** Kendall's τ: S over the number of pairs. */
  readonly tau: number;
}

/** Fewest points for which the normal approximation of S is used (Mann 1945 tabulates smaller n). */
const LEAST_POINTS = 4;

/**
 * Mann–Kendall test for a monotone trend, its variance corrected for ties and for autocorrelation.
 * `y` in order of time, equally weighted. Assumes stationary noise around the trend; O(n²).
 *
 * Sources: Mann (1945) and Kendall (1975) for S and its variance with ties; Hamed & Rao, A modified Mann–Kendall trend
 * test for autocorrelated data, J. Hydrology 204 (1998), eq. 13–16, with ranks of the series after Theil–Sen detrending
 * and only the autocorrelations that are significant at 5 %.
 */
export function mannKendall(x: Float64Array, y: Float64Array): TrendTest | InsufficientData {
  const n = y.length;
  if (n < LEAST_POINTS) return { kind: 'insufficient-data', needed: LEAST_POINTS, had: n };
  const s = concordance(y);
  const varianceFactor = autocorrelationFactor(x, y);
  const variance = tieCorrectedVariance(y) * varianceFactor;
  const z = variance > 0 ? (s - Math.sign(s)) / Math.sqrt(variance) : 0;
  return { kind: 'trend-test', s, variance, varianceFactor, z, pValue: twoSidedP(z), tau: (2 * s) / (n * (n - 1)) };
}

/**
 * Kendall's τ of values in order of time: concordant less discordant pairs over all pairs; 0 for fewer than two.
 * O(n log n).
 */
export function kendallTau(y: Float64Array): number {
  return y.length < 2 ? 0 : (2 * concordance(y)) / (y.length * (y.length - 1));
}

// All pairs but those of equal values, less twice those that fall.
function concordance(y: Float64Array): number {
  const n = y.length;
  const sorted = y.slice();
  const falling = sortAndCount(sorted);
  let equal = 0;
  for (let at = 1, run = 0; at < n; at++) {
    run = sorted[at] === sorted[at - 1] ? run + 1 : 0;
    equal += run;
  }
  return (n * (n - 1)) / 2 - equal - 2 * falling;
}

// n / n*ₛ of Hamed & Rao's equation 16; below 1 it would sharpen the test, which short series cannot justify.
function autocorrelationFactor(x: Float64Array, y: Float64Array): number {
  const n = y.length;
  const line = theilSen(x, y);
  if (line.kind !== 'slope') return 1;
  const ranks = averageRanks(y.map((value, i) => value - line.slope * x[i]!));
  const mean = (n + 1) / 2;
  let power = 0;
  for (let i = 0; i < n; i++) power += (ranks[i]! - mean) ** 2;
  if (power === 0) return 1;
  const bound = Z_95 / Math.sqrt(n);
  let sum = 0;
  for (let lag = 1; lag < n - 2; lag++) {
    let cross = 0;
    for (let i = 0; i + lag < n; i++) cross += (ranks[i]! - mean) * (ranks[i + lag]! - mean);
    const rho = cross / power;
    if (Math.abs(rho) > bound) sum += (n - lag) * (n - lag - 1) * (n - lag - 2) * rho;
  }
  return Math.max(1, 1 + (2 / (n * (n - 1) * (n - 2))) * sum);
}

/** Ranks from 1, equal values sharing their mean rank. */
export function averageRanks(values: Float64Array): Float64Array {
  const order = Uint32Array.from(values, (_, i) => i).sort((a, b) => values[a]! - values[b]!);
  const ranks = new Float64Array(values.length);
  for (let start = 0; start < order.length;) {
    let end = start + 1;
    while (end < order.length && values[order[end]!] === values[order[start]!]) end++;
    for (let at = start; at < end; at++) ranks[order[at]!] = (start + end + 1) / 2;
    start = end;
  }
  return ranks;
}
