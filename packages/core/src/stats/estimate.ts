import { twoSidedP } from './normal.ts';
import { Z_95 } from './z-95.ts';

/** A figure with its 95 % interval; a bound that nothing limits is infinite, and NaN is not known. */
export interface Estimate {
  readonly value: number;
  readonly low: number;
  readonly high: number;
}

/** Nothing is known of it. */
export const UNKNOWN: Estimate = { value: NaN, low: NaN, high: NaN };

/** An estimate that is normal about its value. */
export function withError(value: number, se: number): Estimate {
  return { value, low: value - Z_95 * se, high: value + Z_95 * se };
}

/** The estimate by a factor that is known exactly. */
export function scaled({ value, low, high }: Estimate, factor: number): Estimate {
  return { value: value * factor, low: low * factor, high: high * factor };
}

/** The estimate over another that lies above 0, whose own error widens it: relative errors add in quadrature. */
export function quotient(of: Estimate, by: Estimate): Estimate {
  if (!(by.value > 0)) return UNKNOWN;
  const value = of.value / by.value;
  const relative = (by.high - by.low) / (2 * by.value);
  const part = (half: number): number => Math.hypot(half / by.value, value * relative);
  return { value, low: value - part(of.value - of.low), high: value + part(of.high - of.value) };
}

/** How far apart two estimates are: `b − a`, and how surely they differ. */
export interface Difference {
  readonly difference: number;
  readonly low: number;
  readonly high: number;
  /** Two-sided, of no difference; NaN where an error is not known. */
  readonly pValue: number;
}

/**
 * The difference of two independent estimates with its 95 % interval, out of theirs: each side gives the part of its
 * interval that lies towards the other. Source: Zou & Donner, Statistics in Medicine 27 (2008), *method of variance
 * estimates recovery*. With symmetric intervals it is the usual one, ±1.96·√(SE_a² + SE_b²).
 */
export function differenceOf(a: Estimate, b: Estimate): Difference {
  const difference = b.value - a.value;
  const low = difference - Math.hypot(b.value - b.low, a.high - a.value);
  const high = difference + Math.hypot(b.high - b.value, a.value - a.low);
  // The error towards no difference is the one that counts.
  const error = (difference > 0 ? difference - low : high - difference) / Z_95;
  const pValue = Number.isNaN(error) ? NaN : error === 0 ? (difference === 0 ? 1 : 0) : twoSidedP(difference / error);
  return { difference, low, high, pValue };
}
