import { twoSidedP } from './normal.ts';

/** One life of a comparison: its group, the classes in which it came into sight and left, how it left, what it counts. */
export interface ComparedLife {
  readonly isFirst: boolean;
  readonly entry: number;
  readonly end: number;
  readonly dead: boolean;
  readonly weight: number;
  /** Square of what it counts, as a draw of its own. */
  readonly variance: number;
}

/** Whether two groups live equally long. */
export interface LogRank {
  /** Standard normal where they do; above 0 where the first group dies sooner. NaN where nothing can be compared. */
  readonly z: number;
  readonly pValue: number;
}

/**
 * Weighted log-rank test of two groups of lives with delayed entry: `Σ_j (d_1j − n_1j·d_j/n_j)` over the age classes
 * with weights summed, by Mantel's variance, `Σ_j π_j(1 − π_j)·v_j·(n_j − d_j)/(n_j − w̄_j)` with π_j the first group's
 * share at risk, v_j the variances of what died, and w̄_j the mean weight at risk; with every weight and variance 1 it is
 * the hypergeometric one. Sources: Mantel, Cancer Chemotherapy Reports 50 (1966); Peto & Peto, JRSS A 135 (1972). One
 * pass over the lives and one over the classes.
 *
 * @param classes number of age classes
 */
export function logRank(lives: Iterable<ComparedLife>, classes: number): LogRank {
  const sums = gather(lives, classes);
  let [first, all, count, statistic, variance] = [0, 0, 0, 0, 0];
  for (let age = 0; age < classes; age++) {
    first += sums.enteredFirst[age]!;
    all += sums.entered[age]!;
    count += sums.cameCount[age]!;
    const died = sums.died[age]!;
    if (died > 0 && all > 0) {
      const share = first / all;
      statistic += sums.diedFirst[age]! - died * share;
      const rest = count > 1 ? Math.max(0, all - died) / (all - all / count) : 0;
      variance += share * (1 - share) * sums.diedVariance[age]! * Math.min(1, rest);
    }
    first = Math.max(0, first - sums.goneFirst[age]!);
    all = Math.max(0, all - sums.gone[age]!);
    count -= sums.goneCount[age]!;
  }
  const z = variance > 0 ? statistic / Math.sqrt(variance) : NaN;
  return { z, pValue: Number.isNaN(z) ? NaN : twoSidedP(z) };
}

function gather(lives: Iterable<ComparedLife>, classes: number) {
  const column = (): Float64Array => new Float64Array(classes);
  const sums = {
    ...{ entered: column(), enteredFirst: column(), died: column(), diedFirst: column(), diedVariance: column() },
    ...{ gone: column(), goneFirst: column(), cameCount: column(), goneCount: column() },
  };
  for (const { isFirst, entry, end, dead, weight, variance } of lives) {
    sums.entered[entry]! += weight;
    sums.gone[end]! += weight;
    sums.cameCount[entry]!++;
    sums.goneCount[end]!++;
    if (isFirst) {
      sums.enteredFirst[entry]! += weight;
      sums.goneFirst[end]! += weight;
    }
    if (!dead) continue;
    sums.died[end]! += weight;
    sums.diedVariance[end]! += variance;
    if (isFirst) sums.diedFirst[end]! += weight;
  }
  return sums;
}
