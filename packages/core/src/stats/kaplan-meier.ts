import { survivalCurve } from './survival-curve.ts';

/**
 * Survival after each age class: `S[k] = Π_{j ≤ k} (1 − d_j / n_j)`, with n_j what had reached class j without having
 * died or left
 * sight before it. Within a class, deaths come before what leaves sight. Stays at its last value once nothing is left;
 * all 1 where
 * there is nothing. Source: Kaplan & Meier, "Nonparametric Estimation from Incomplete Observations", JASA 53 (1958),
 * eq. (2a); it
 * assumes that leaving sight has nothing to do with the age at death. Ages come in classes: an estimate is off by a
 * class at most.
 *
 * @param died weight that died in each class, ascending age
 * @param left weight that left sight in each class, of the same length
 */
export function kaplanMeier(died: Float64Array, left: Float64Array): Float64Array {
  const entered = new Float64Array(died.length);
  for (let age = 0; age < died.length; age++) entered[0]! += died[age]! + left[age]!;
  return survivalCurve({ entered, died, left }).survival;
}

/** The first class after which at most half survive; −1 when more than half do after all. */
export function medianClass(survival: Float64Array): number {
  return survival.findIndex((share) => share <= HALF);
}

/** Products of fractions may miss one half by their last digits. */
const HALF = 0.5 + 1e-12;
