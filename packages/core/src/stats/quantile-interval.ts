import type { Estimate } from './estimate.ts';
import { UNKNOWN } from './estimate.ts';
import { nearestRank } from './quantile.ts';
import { Z_95 } from './z-95.ts';

/**
 * A quantile of ascending values with its 95 % interval, between two of the values: ranks `nq ± 1.96·√(nq(1 − q))`, as
 * the number of values below the true quantile is binomial. Infinite above where the values are too few for that rank,
 * and below 0 is nothing. Source: Conover, Practical Nonparametric Statistics (3rd ed. 1999), section 3.2.
 */
export function quantileEstimate(sorted: Float64Array, q: number): Estimate {
  const n = sorted.length;
  if (n === 0) return UNKNOWN;
  const half = Z_95 * Math.sqrt(n * q * (1 - q));
  const [lowRank, highRank] = [Math.ceil(n * q - half), Math.ceil(n * q + half)];
  return {
    value: nearestRank(sorted, q),
    low: lowRank < 1 ? 0 : sorted[lowRank - 1]!,
    high: highRank > n ? Infinity : sorted[highRank - 1]!,
  };
}
