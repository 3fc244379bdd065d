import { Sum, SUMS } from './origin-sums.ts';
import type { OriginChoice } from '../model/charge.ts';
import type { SpanSums } from './span-sums.ts';

/**
 * What became of what was allocated in a span by its end: everything, alive and settled, or dead. What is too young to
 * tell, and what was lost from sight, is neither.
 */
export const FATES = ['all', 'kept', 'died'] as const;
export type Fate = (typeof FATES)[number];

/**
 * By origin id: estimated bytes and objects of a fate, each with its variance. Objects are NaN where the source gives
 * bytes only.
 */
export interface FateValues {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  readonly count: Float64Array;
  readonly countVariance: Float64Array;
}

/** Values of each chosen origin under a fate; 0 for the others. Linear in the origins. */
export function fateValues({ sums, flows }: SpanSums, fate: Fate, chosen: OriginChoice = null): FateValues {
  const origins = flows.bytes.length;
  const column = (): Float64Array => new Float64Array(origins);
  const values = { bytes: column(), variance: column(), count: column(), countVariance: column() };
  const columns = [values.bytes, values.variance, values.count, values.countVariance];
  const ofFlows = [flows.bytes, flows.variance, flows.count, flows.countVariance];
  for (let originId = 0; originId < origins; originId++) {
    if (chosen !== null && chosen[originId] !== 1) continue;
    // Differences of sums of fractions may fall below nothing in their last digit.
    for (let part = 0; part < 4; part++)
      columns[part]![originId] = Math.max(0, ofFate(sums, originId * SUMS + part, fate, ofFlows[part]![originId]!));
  }
  return values;
}

/**
 * One of the four numbers of a fate, from sums at a place; flows are of objects that died. Variances of disjoint parts
 * add up as bytes do.
 */
export function ofFate(sums: Float64Array, at: number, fate: Fate, ofFlows: number): number {
  switch (fate) {
    case 'all':
      return sums[at + Sum.alloc]! + ofFlows;
    case 'kept':
      return sums[at + Sum.keptOfSpan]!;
    case 'died':
      return (
        sums[at + Sum.alloc]! +
        ofFlows -
        sums[at + Sum.keptOfSpan]! -
        sums[at + Sum.recentOfSpan]! -
        sums[at + Sum.lostOfSpan]!
      );
  }
}
