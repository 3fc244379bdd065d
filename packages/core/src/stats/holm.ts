/** Chance of calling one difference clear that is none, over all that are tested together. */
const ALPHA = 0.05;

/**
 * Which of several tests made at once are clear: ordered by their p-values, each is held against `α` over the number of
 * those left, and the first that fails ends it. Of tests that are all of nothing, at most 5 of 100 tables call any of
 * them clear. NaN is no test. Source: Holm, Scandinavian Journal of Statistics 6 (1979).
 */
export function holm(pValues: readonly number[]): boolean[] {
  const order = Array.from(pValues.keys())
    .filter((at) => !Number.isNaN(pValues[at]!))
    .sort((a, b) => pValues[a]! - pValues[b]!);
  const clear = pValues.map(() => false);
  for (let rank = 0; rank < order.length; rank++) {
    if (pValues[order[rank]!]! > ALPHA / (order.length - rank)) break;
    clear[order[rank]!] = true;
  }
  return clear;
}
