import { medianOfSorted } from './quantile.ts';

/**
 * Penalty 3·log(n)·σ̂² per change, σ̂ from the median absolute first difference (MAD of a difference of two normals:
 * 0.6745·√2·σ).
 */
export function changePenalty(y: Float64Array): number {
  const differences = new Float64Array(Math.max(0, y.length - 1));
  for (let i = 0; i < differences.length; i++) differences[i] = Math.abs(y[i + 1]! - y[i]!);
  const sigma = differences.length === 0 ? 0 : medianOfSorted(differences.sort()) / (0.6744897501960817 * Math.SQRT2);
  return 3 * Math.log(Math.max(2, y.length)) * sigma * sigma;
}

/**
 * Change points in the mean of `y`: indices at which a new segment begins, ascending, 0 not among them. Exact minimum
 * of Σ squared error + penalty · changes. Expected linear, worst O(n²).
 *
 * Source: Killick, Fearnhead & Eckley, Optimal detection of changepoints with a linear computational cost, JASA 107
 * (2012), section 3 (K = 0 for squared error). Assumes independent noise of one variance.
 */
export function pelt(y: Float64Array, penalty: number): number[] {
  const n = y.length;
  if (n < 2) return [];
  const sum = new Float64Array(n + 1);
  const squares = new Float64Array(n + 1);
  const origin = y[0]!;
  for (let i = 0; i < n; i++) {
    // Shifting by the first value keeps the squares from cancelling.
    const value = y[i]! - origin;
    sum[i + 1] = sum[i]! + value;
    squares[i + 1] = squares[i]! + value * value;
  }
  const best = new Float64Array(n + 1);
  const last = new Uint32Array(n + 1);
  best[0] = -penalty;
  let candidates = [0];
  for (let end = 1; end <= n; end++) {
    let least = Infinity;
    let from = 0;
    const costs = new Float64Array(candidates.length);
    for (let c = 0; c < candidates.length; c++) {
      const start = candidates[c]!;
      const part = sum[end]! - sum[start]!;
      const cost = best[start]! + squares[end]! - squares[start]! - (part * part) / (end - start);
      costs[c] = cost;
      if (cost + penalty < least) {
        least = cost + penalty;
        from = start;
      }
    }
    best[end] = least;
    last[end] = from;
    candidates = candidates.filter((_, c) => costs[c]! <= least);
    candidates.push(end);
  }
  const changes: number[] = [];
  for (let at = last[n]!; at > 0; at = last[at]!) changes.push(at);
  return changes.reverse();
}
