/** Pauses sorted into buckets: those of bucket n last `[edgesMs[n], edgesMs[n + 1])`. */
export interface PauseBuckets {
  readonly edgesMs: readonly number[];
  readonly counts: readonly number[];
  readonly totalsMs: readonly number[];
}

/**
 * Edges 1-2-5 a decade that cover the pauses, from 0 to the first edge above the longest; [0, 1] for none with a
 * length.
 */
export function usualEdges(durationMs: Float64Array): number[] {
  let [least, most] = [Infinity, 0];
  for (let at = 0; at < durationMs.length; at++) {
    const ms = durationMs[at]!;
    if (ms > 0 && ms < least) least = ms;
    if (ms > most) most = ms;
  }
  if (most === 0) return [0, 1];
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
 * added where they are missing, so that every pause is in a bucket. O(edges log edges + pauses × edges), as a rule far less.
 */
export function pauseBuckets(durationMs: Float64Array, wantedEdgesMs: readonly number[]): PauseBuckets {
  let most = 0;
  for (let at = 0; at < durationMs.length; at++) if (durationMs[at]! > most) most = durationMs[at]!;
  const inner = [...new Set(wantedEdgesMs.filter((edge) => edge > 0 && Number.isFinite(edge)))].sort((a, b) => a - b);
  const edgesMs = [0, ...inner];
  // The last edge lies above the longest pause, at a round figure.
  if (edgesMs.length === 1 || edgesMs[edgesMs.length - 1]! <= most)
    edgesMs.push(usualEdges(Float64Array.of(Math.max(most, edgesMs[edgesMs.length - 1]!))).at(-1)!);
  const buckets = edgesMs.length - 1;
  const [counts, totalsMs] = [new Uint32Array(buckets), new Float64Array(buckets)];
  const edges = Float64Array.from(edgesMs);
  let bucket = 0;
  for (let at = 0; at < durationMs.length; at++) {
    const ms = durationMs[at]!;
    // Most pauses are about as long as the one before.
    while (bucket > 0 && ms < edges[bucket]!) bucket--;
    while (ms >= edges[bucket + 1]!) bucket++;
    counts[bucket]!++;
    totalsMs[bucket]! += ms;
  }
  return { edgesMs, counts: Array.from(counts), totalsMs: Array.from(totalsMs) };
}
