/** Variance of S without autocorrelation: [n(n−1)(2n+5) − Σ t(t−1)(2t+5)] / 18 over groups of t equal values. */
export function tieCorrectedVariance(y: Float64Array): number {
  const n = y.length;
  const sorted = Float64Array.from(y).sort();
  let sum = n * (n - 1) * (2 * n + 5);
  for (let start = 0; start < n;) {
    let end = start + 1;
    while (end < n && sorted[end] === sorted[start]) end++;
    const t = end - start;
    sum -= t * (t - 1) * (2 * t + 5);
    start = end;
  }
  return sum / 18;
}
