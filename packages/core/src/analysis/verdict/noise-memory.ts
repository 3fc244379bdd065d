import { LineFits } from './line-fit.ts';

/** Noise that goes on longer than this is a trend, for all that a series can tell. */
const MOST_MEMORY = 0.95;
const MOST_INFLATION = 40;

/**
 * By how much the variance of a slope or level is larger than it were with independent noise, from residuals that noise
 * of one neighbour's memory left around a line: (1 + ρ) / (1 − ρ), at least 1. What fitting `parameters` takes off the
 * autocorrelation of `n` points is given back: to first order its bias is −(parameters + 2ρ·parameters) / n, so that ρ̂
 * = (n·r + parameters) / (n − 2·parameters).
 *
 * Source: Marriott & Pope, Bias in the estimation of autocorrelations, Biometrika 41 (1954), carried over to a fitted
 * line; assumes noise of first order.
 */
export function memoryFactor(residuals: Float64Array, parameters: number): number {
  const n = residuals.length;
  let [cross, power] = [0, n === 0 ? 0 : residuals[0]! ** 2];
  for (let at = 1; at < n; at++) {
    cross += residuals[at]! * residuals[at - 1]!;
    power += residuals[at]! ** 2;
  }
  return factorOf(cross, power, n, parameters);
}

function factorOf(cross: number, power: number, n: number, parameters: number): number {
  if (power === 0 || n <= 2 * parameters) return 1;
  const rho = Math.min(MOST_MEMORY, ((n * cross) / power + parameters) / (n - 2 * parameters));
  return rho > 0 ? Math.min(MOST_INFLATION, (1 + rho) / (1 - rho)) : 1;
}

/** Long enough for noise to be told from a local line, short enough for a change of pace to lie between two. */
const BLOCK_POINTS = 12;

/**
 * The same of residuals around a line in each block of a dozen points, so that a change of pace is not taken for
 * memory. Linear.
 */
export function localMemoryFactor(x: Float64Array, y: Float64Array): number {
  const blocks = Math.max(1, Math.floor(y.length / BLOCK_POINTS));
  const fits = new LineFits(x, y);
  let [cross, power] = [0, 0];
  for (let block = 0; block < blocks; block++) {
    const [from, to] = [Math.round((block * y.length) / blocks), Math.round(((block + 1) * y.length) / blocks)];
    const fit = fits.fit(from, to);
    let last = 0;
    for (let at = from; at < to; at++) {
      const residual = y[at]! - fit.atStart - fit.slope * (x[at]! - x[from]!);
      cross += at > from ? residual * last : 0;
      power += residual ** 2;
      last = residual;
    }
  }
  return factorOf(cross, power, y.length / blocks, 2);
}
