import { firstAtOrAfter } from '../base/binary-search.ts';

/** Pauses sorted into buckets: those of bucket n last `[edgesMs[n], edgesMs[n + 1])`. */
export interface PauseBuckets {
  readonly edgesMs: readonly number[];
  readonly counts: readonly number[];
  readonly totalsMs: readonly number[];
}

/**
 * Edges 1-2-5 a decade that cover the pauses, from 0 to the first edge above the longest; [0, 1] for none with a
 * length. `sortedMs` ascends.
 */
export function usualEdges(sortedMs: Float64Array): number[] {
  const least = sortedMs.find((ms) => ms > 0);
  const most = sortedMs[sortedMs.length - 1] ?? 0;
  if (least === undefined) return [0, 1];
  const edgesMs: number[] = [0];
  for (let decade = 10 ** Math.floor(Math.log10(least)); edgesMs[edgesMs.length - 1]! <= most; decade *= 10) {
    for (const step of [1, 2, 5]) {
      const edge = Number((decade * step).toPrecision(6));
      if (edge > least && edgesMs[edgesMs.length - 1]! <= most) edgesMs.push(edge);
    }
  }
  return edgesMs;
}

/**
 * Counts and sums pauses by length. Edges may be in any order and doubled; 0 and an edge above the longest pause are
 * added where they are missing, so that every pause is in a bucket. `sortedMs` ascends. O(pauses + edges log edges).
 */
export function pauseBuckets(sortedMs: Float64Array, wantedEdgesMs: readonly number[]): PauseBuckets {
  const most = sortedMs[sortedMs.length - 1] ?? 0;
  const inner = [...new Set(wantedEdgesMs.filter((edge) => edge > 0 && Number.isFinite(edge)))].sort((a, b) => a - b);
  const edgesMs = [0, ...inner];
  // The last edge lies above the longest pause, at a round figure.
  if (edgesMs.length === 1 || edgesMs[edgesMs.length - 1]! <= most)
    edgesMs.push(usualEdges(Float64Array.of(Math.max(most, edgesMs[edgesMs.length - 1]!))).at(-1)!);
  const counts: number[] = [];
  const totalsMs: number[] = [];
  let at = 0;
  for (let bucket = 0; bucket + 1 < edgesMs.length; bucket++) {
    const end = firstAtOrAfter(sortedMs, edgesMs[bucket + 1]!);
    counts.push(end - at);
    let totalMs = 0;
    for (; at < end; at++) totalMs += sortedMs[at]!;
    totalsMs.push(totalMs);
  }
  return { edgesMs, counts, totalsMs };
}
