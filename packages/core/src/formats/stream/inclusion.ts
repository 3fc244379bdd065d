const SIZES = 1024;

/**
 * Probability with which Poisson sampling at a mean interval of I bytes sees an object of s bytes, 1 − exp(−s/I); few
 * sizes come again and again, and those of an interval are remembered.
 */
export class Inclusion {
  private readonly sizes = new Float64Array(SIZES).fill(NaN);
  private readonly probabilities = new Float64Array(SIZES);
  private intervalBytes = NaN;

  of(sizeBytes: number, intervalBytes: number): number {
    if (intervalBytes !== this.intervalBytes) {
      this.sizes.fill(NaN);
      this.intervalBytes = intervalBytes;
    }
    // Sizes are multiples of eight, mostly.
    const place = (sizeBytes >>> 3) & (SIZES - 1);
    if (this.sizes[place] !== sizeBytes) {
      this.sizes[place] = sizeBytes;
      this.probabilities[place] = -Math.expm1(-sizeBytes / intervalBytes);
    }
    return this.probabilities[place]!;
  }
}
