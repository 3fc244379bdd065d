import { Z_95 } from './z-95.ts';

/** Weights of lives by age class, each of the same length. */
export interface AgeTable {
  /** Weight that came into sight in each class; whoever was seen from birth came in class 0. */
  readonly entered: Float64Array;
  /** Weight that died in each class. */
  readonly died: Float64Array;
  /** Weight that left sight alive in each class. */
  readonly left: Float64Array;
}

/** A survival curve by age class, and what its error is worked out from. */
export interface SurvivalCurve {
  /** Share that survives each class. */
  readonly survival: Float64Array;
  /** Weight at risk in each class. */
  readonly atRisk: Float64Array;
  /** Greenwood's sum up to each class, `Σ d / (n·(n − d))`; Infinity once nothing is left. */
  readonly hazard: Float64Array;
}

/**
 * Survival after each age class with delayed entry: `S[k] = Π_{j ≤ k} (1 − d_j / n_j)`, with n_j what had come into
 * sight by class j and had neither died nor left before it. Within a class deaths come before what leaves, and after what
 * enters. Once everything at risk has died the curve stays at 0; where nothing is at risk it stays as it was.
 *
 * Source: Kaplan & Meier, JASA 53 (1958), eq. (2a), with their remark 3.1 on late entry; it assumes that coming into
 * sight and leaving it have nothing to do with the age at death.
 */
export function survivalCurve({ entered, died, left }: AgeTable): SurvivalCurve {
  const classes = died.length;
  const survival = new Float64Array(classes);
  const risks = new Float64Array(classes);
  const hazard = new Float64Array(classes);
  let [atRisk, surviving, sum] = [0, 1, 0];
  for (let age = 0; age < classes; age++) {
    atRisk += entered[age]!;
    risks[age] = atRisk;
    const deaths = died[age]!;
    if (deaths > 0) {
      // Sums of weights miss each other by their last digits.
      const rest = atRisk - deaths > ROUNDING * atRisk ? atRisk - deaths : 0;
      surviving *= rest === 0 ? 0 : rest / atRisk;
      sum += rest === 0 ? Infinity : deaths / (atRisk * rest);
    }
    survival[age] = surviving;
    hazard[age] = sum;
    atRisk = Math.max(0, atRisk - deaths - left[age]!);
  }
  return { survival, atRisk: risks, hazard };
}

const ROUNDING = 1e-9;

/** A band around a share. */
export interface Band {
  readonly low: number;
  readonly high: number;
}

/**
 * 95 % interval of a surviving share from its variance: Wilson's score interval (1927) for as many samples as would give
 * that variance, `n = S(1 − S)/var` (Korn & Graubard 1998). Where the variance is 0, as nothing or everything has died,
 * for as many as it rests on, `samples`; the point itself where everything was seen (`samples` Infinity).
 */
export function shareBand(share: number, variance: number, samples: number): Band {
  const told = variance > 0 && Number.isFinite(variance) ? (share * (1 - share)) / variance : 0;
  const n = told > 0 ? told : samples;
  if (n === Infinity || !(n > 0)) return n > 0 ? { low: share, high: share } : { low: 0, high: 1 };
  const z2 = Z_95 * Z_95;
  const middle = (share + z2 / (2 * n)) / (1 + z2 / n);
  const half = (Z_95 / (1 + z2 / n)) * Math.sqrt((share * (1 - share)) / n + z2 / (4 * n * n));
  return { low: Math.max(0, Math.min(share, middle - half)), high: Math.min(1, Math.max(share, middle + half)) };
}
