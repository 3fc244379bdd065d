import { twoSidedP } from './normal.ts';

/** Lives of one group by age class, each column of the same length. */
export interface RankTable {
  /** Weight that came into sight, that died, and that left sight alive. */
  readonly entered: Float64Array;
  readonly died: Float64Array;
  readonly left: Float64Array;
  /** Σ weight² of what died: each life is a draw of its own. */
  readonly diedSquare: Float64Array;
  /** Lives that came into sight, and that died or left. */
  readonly came: Float64Array;
  readonly gone: Float64Array;
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
 * share at risk, v_j the squares of what died, and w̄_j the mean weight at risk; with every weight 1 it is the
 * hypergeometric one. Sources: Mantel, Cancer Chemotherapy Reports 50 (1966); Peto & Peto, JRSS A 135 (1972). One pass
 * over the classes.
 */
export function logRank(one: RankTable, other: RankTable): LogRank {
  let [first, all, count, statistic, variance] = [0, 0, 0, 0, 0];
  for (let age = 0; age < one.died.length; age++) {
    first += one.entered[age]!;
    all += one.entered[age]! + other.entered[age]!;
    count += one.came[age]! + other.came[age]!;
    const died = one.died[age]! + other.died[age]!;
    if (died > 0 && all > 0) {
      const share = first / all;
      statistic += one.died[age]! - died * share;
      const rest = count > 1 ? Math.max(0, all - died) / (all - all / count) : 0;
      variance += share * (1 - share) * (one.diedSquare[age]! + other.diedSquare[age]!) * Math.min(1, rest);
    }
    first = Math.max(0, first - one.died[age]! - one.left[age]!);
    all = Math.max(0, all - died - one.left[age]! - other.left[age]!);
    count -= one.gone[age]! + other.gone[age]!;
  }
  const z = variance > 0 ? statistic / Math.sqrt(variance) : NaN;
  return { z, pValue: Number.isNaN(z) ? NaN : twoSidedP(z) };
}
