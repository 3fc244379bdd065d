import { contains, type Span } from '../base/span.ts';
import type { ChargeGroups, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance } from '../stats/horvitz-thompson.ts';

/** Buckets of sizes by powers of two: bucket b holds sizes from 2^b to below 2^(b+1) bytes, the last one all above. */
export const SIZE_BUCKETS = 41;

/**
 * Sizes of the objects of one key that were born in a span. Counts are estimates, and so are bytes; each has its
 * standard error.
 */
export interface KeySizes {
  readonly key: number;
  readonly count: number;
  readonly countSe: number;
  readonly bytes: number;
  readonly bytesSe: number;
  readonly smallestBytes: number;
  readonly largestBytes: number;
  /** Estimated objects and bytes of each bucket. */
  readonly counts: Float64Array;
  readonly bucketBytes: Float64Array;
}

/**
 * Sizes by key of what was seen to be born in the span, the most bytes first. Objects of which the source tells only a
 * scaled estimate have no size of their own and are left out. One pass over the objects.
 */
export function sizeHistogram(
  recording: Recording,
  span: Span,
  { groupOf, keys }: ChargeGroups,
  chosen: OriginChoice = null,
): KeySizes[] {
  const {
    length,
    col: { bornMs, sizeBytes, probability, originId },
  } = recording.tables.objects;
  const counts = new Float64Array(keys.length * SIZE_BUCKETS);
  const bytes = new Float64Array(keys.length * SIZE_BUCKETS);
  const smallest = new Float64Array(keys.length).fill(Infinity);
  const largest = new Float64Array(keys.length);
  const variance = { count: new Float64Array(keys.length), bytes: new Float64Array(keys.length) };
  for (let row = 0; row < length; row++) {
    const p = probability[row]!;
    const origin = originId[row]!;
    if (Number.isNaN(p) || !contains(span, bornMs[row]!) || (chosen !== null && chosen[origin] !== 1)) continue;
    const size = sizeBytes[row]!;
    const group = groupOf[origin]!;
    const at = group * SIZE_BUCKETS + bucketOf(size);
    counts[at]! += 1 / p;
    bytes[at]! += size / p;
    if (p < 1) {
      variance.count[group]! += countVariance(p);
      variance.bytes[group]! += bytesVariance(size, p);
    }
    if (size < smallest[group]!) smallest[group] = size;
    if (size > largest[group]!) largest[group] = size;
  }
  const sum = (column: Float64Array): number => column.reduce((total, each) => total + each, 0);
  const found = Array.from(keys, (key, group) => {
    const [from, to] = [group * SIZE_BUCKETS, (group + 1) * SIZE_BUCKETS];
    const own = { counts: counts.slice(from, to), bucketBytes: bytes.slice(from, to) };
    const se = { countSe: Math.sqrt(variance.count[group]!), bytesSe: Math.sqrt(variance.bytes[group]!) };
    return {
      key,
      count: sum(own.counts),
      bytes: sum(own.bucketBytes),
      ...se,
      smallestBytes: smallest[group]!,
      largestBytes: largest[group]!,
      ...own,
    };
  });
  return found.filter((each) => each.count > 0).sort((a, b) => b.bytes - a.bytes);
}

/** Bucket of a size; that of 1 for anything smaller. */
export function bucketOf(sizeBytes: number): number {
  if (sizeBytes < 1) return 0;
  // Below 2³¹ the count of leading zeros is exact where a logarithm may round.
  return sizeBytes < 2 ** 31
    ? 31 - Math.clz32(sizeBytes)
    : Math.min(SIZE_BUCKETS - 1, Math.floor(Math.log2(sizeBytes)));
}
