import { Sum, SUMS } from './origin-sums.ts';
import type { OriginChoice } from './charge-table.ts';
import type { SpanSums } from './span-sums.ts';

/** What became of what was allocated in a span by its end: everything, alive and settled, or dead. What is too young is neither. */
export const FATES = ['all', 'kept', 'died'] as const;
export type Fate = (typeof FATES)[number];

/** By origin id: estimated bytes of a fate with their variance, and objects (NaN where the source gives bytes only). */
export interface FateValues {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  readonly count: Float64Array;
}

/** Values of each chosen origin under a fate; 0 for the others. Linear in the origins. */
export function fateValues({ sums, flows }: SpanSums, fate: Fate, chosen: OriginChoice = null): FateValues {
  const origins = flows.bytes.length;
  const values = { bytes: new Float64Array(origins), variance: new Float64Array(origins), count: new Float64Array(origins) };
  for (let originId = 0; originId < origins; originId++) {
    if (chosen !== null && chosen[originId] !== 1) continue;
    const of = (place: number): number => sums[originId * SUMS + place]!;
    const kept = [of(Sum.keptOfSpanBytes), of(Sum.keptOfSpanVariance), of(Sum.keptOfSpanCount)] as const;
    const all = [of(Sum.allocBytes) + flows.bytes[originId]!, of(Sum.allocVariance) + flows.variance[originId]!, of(Sum.allocCount) + flows.count[originId]!] as const;
    const young = [of(Sum.recentOfSpanBytes), of(Sum.recentOfSpanVariance), of(Sum.recentOfSpanCount)] as const;
    const [bytes, variance, count] = fate === 'all' ? all : fate === 'kept' ? kept : ([0, 1, 2] as const).map((place) => all[place] - kept[place] - young[place]);
    // Differences of sums of fractions may fall below nothing in their last digit.
    values.bytes[originId] = Math.max(0, bytes!);
    values.variance[originId] = Math.max(0, variance!);
    values.count[originId] = Math.max(0, count!);
  }
  return values;
}
