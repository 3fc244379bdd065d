import { averageRanks } from './mann-kendall.ts';

/**
 * Spearman's rank correlation of two series of equal length, ties sharing their mean rank; NaN when either does not
 * change or both have fewer than three values. Source: Spearman, The proof and measurement of association between two
 * things, American Journal of Psychology 15 (1904), as Pearson's correlation of the ranks.
 */
export function spearman(x: Float64Array, y: Float64Array): number {
  return x.length < 3 || x.length !== y.length ? NaN : rankCorrelation(averageRanks(x), averageRanks(y));
}

/** Pearson's correlation of two series of ranks; NaN when either does not change. */
export function rankCorrelation(x: Float64Array, y: Float64Array): number {
  const mean = (x.length + 1) / 2;
  let [cross, xPower, yPower] = [0, 0, 0];
  for (let at = 0; at < x.length; at++) {
    const [dx, dy] = [x[at]! - mean, y[at]! - mean];
    cross += dx * dy;
    xPower += dx * dx;
    yPower += dy * dy;
  }
  return xPower === 0 || yPower === 0 ? NaN : cross / Math.sqrt(xPower * yPower);
}
