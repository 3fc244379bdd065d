/** Probability with which Poisson sampling at mean interval I bytes sees an object of s bytes: 1 − exp(−s/I). */
export function inclusionProbability(sizeBytes: number, intervalBytes: number): number {
  return -Math.expm1(-sizeBytes / intervalBytes);
}

/** Bytes that one seen object stands for. With p = NaN, `sizeBytes` is the source's scaled estimate already. */
export function estimatedBytes(sizeBytes: number, probability: number): number {
  return Number.isNaN(probability) ? sizeBytes : sizeBytes / probability;
}

/**
 * What one seen object adds to the variance of a sum of bytes: (1 − p)·(s/p)². Where only the scaled estimate e is
 * handed out, e² bounds it. Source: Horvitz & Thompson, JASA 47 (1952), for independent inclusion.
 */
export function bytesVariance(sizeBytes: number, probability: number): number {
  if (Number.isNaN(probability)) return sizeBytes * sizeBytes;
  const scaled = sizeBytes / probability;
  return (1 - probability) * scaled * scaled;
}

/** Variance of the count that a seen object stands for, (1 − p)/p²; NaN where the source gives bytes only. */
export function countVariance(probability: number): number {
  return (1 - probability) / (probability * probability);
}
