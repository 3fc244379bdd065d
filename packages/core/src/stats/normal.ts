/**
 * Complementary error function, relative error below 1.2e-7 everywhere. Source: Press et al., Numerical Recipes in C
 * (2nd ed. 1992), section 6.2, `erfcc` (Chebyshev fit).
 */
export function erfc(x: number): number {
  const z = Math.abs(x);
  const t = 1 / (1 + 0.5 * z);
  const poly =
    -1.26551223 +
    t *
      (1.00002368 +
        t *
          (0.37409196 +
            t *
              (0.09678418 +
                t *
                  (-0.18628806 +
                    t * (0.27886807 + t * (-1.13520398 + t * (1.48851587 + t * (-0.82215223 + t * 0.17087277))))))));
  const value = t * Math.exp(-z * z + poly);
  return x >= 0 ? value : 2 - value;
}

/** Two-sided p-value of a standard normal statistic. */
export function twoSidedP(z: number): number {
  return Math.min(1, erfc(Math.abs(z) / Math.SQRT2));
}

/** 97.5 % point of the standard normal distribution: half-width of a 95 % interval in standard errors. */
export const Z_95 = 1.959963984540054;
