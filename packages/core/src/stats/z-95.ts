/**
 * An estimate is off by so many standard errors at most, 95 times of 100: the 0.975 quantile of the normal
 * distribution.
 */
export const Z_95 = 1.96;
