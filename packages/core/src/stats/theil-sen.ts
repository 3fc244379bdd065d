import type { InsufficientData } from './insufficient-data.ts';
import { tieCorrectedVariance } from './tie-variance.ts';
import { Z_95 } from './normal.ts';
import { selectMedian, selectRank } from './select-rank.ts';

/** A slope with its interval, or why there is none. */
export interface SlopeEstimate {
  readonly kind: 'slope';
  readonly slope: number;
  /** Sen's 95 % interval. */
  readonly low: number;
  readonly high: number;
  /** Median of y − slope·x. */
  readonly intercept: number;
}

/**
 * Median of the slopes of all pairs of points with different x, and Sen's 95 % interval. Robust to 29 % of outliers;
 * O(n²) time and memory, so callers reduce above 2,000 points.
 *
 * Sources: Theil (1950); Sen, Estimates of the regression coefficient based on Kendall's tau, JASA 63 (1968), section
 * 4: the interval takes the slopes ranked (N ∓ C)/2 with C = z·sqrt(Var S). `varianceFactor` widens it for
 * autocorrelation.
 */
export function theilSen(x: Float64Array, y: Float64Array, varianceFactor = 1): SlopeEstimate | InsufficientData {
  const slopes = pairSlopes(x, y);
  if (slopes.length === 0) return { kind: 'insufficient-data', needed: 2, had: x.length };
  const middle = slopes.length >> 1;
  const slope = selectMedian(slopes);
  const upper = slopes[middle]!;
  // Selecting leaves what is below the rank to its left, so that the other ranks are looked for in one half each.
  const left = slopes.subarray(0, middle);
  const right = slopes.subarray(middle + 1);
  const halfCount = (Z_95 * Math.sqrt(tieCorrectedVariance(y) * varianceFactor)) / 2;
  const lowRank = Math.floor(slopes.length / 2 - halfCount);
  const highRank = Math.ceil(slopes.length / 2 + halfCount);
  const residuals = new Float64Array(x.length);
  for (let i = 0; i < x.length; i++) residuals[i] = y[i]! - slope * x[i]!;
  return {
    kind: 'slope',
    slope,
    low: lowRank < 1 ? -Infinity : valueAt(left, upper, right, lowRank - 1),
    high: highRank + 1 > slopes.length ? Infinity : valueAt(left, upper, right, highRank),
    intercept: selectMedian(residuals),
  };
}

// Value of a rank in a split at its middle: what is left of it, itself, what is right of it.
function valueAt(left: Float64Array, middle: number, right: Float64Array, rank: number): number {
  if (rank === left.length) return middle;
  return rank < left.length ? selectRank(left, rank) : selectRank(right, rank - left.length - 1);
}

function pairSlopes(x: Float64Array, y: Float64Array): Float64Array {
  const n = x.length;
  const slopes = new Float64Array((n * (n - 1)) / 2);
  let count = 0;
  for (let i = 0; i < n; i++) {
    const xi = x[i]!;
    const yi = y[i]!;
    for (let j = i + 1; j < n; j++) if (x[j] !== xi) slopes[count++] = (y[j]! - yi) / (x[j]! - xi);
  }
  return slopes.subarray(0, count);
}
