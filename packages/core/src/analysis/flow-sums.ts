import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { insideShare } from './allocation.ts';
import { inferredFlows } from './inferred-flows.ts';

/** What flows tell of a span, by origin id. Their single objects were not seen; they died within it. */
export interface FlowSums {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  /** NaN where a source gives bytes only. */
  readonly count: Float64Array;
  /** Of the counts, taken to be off by the same share as the bytes. */
  readonly countVariance: Float64Array;
  /** Part of `bytes` that was inferred. */
  readonly inferred: Float64Array;
}

/**
 * Flows by the part of their interval inside the span, and what is inferred of the time in between. One pass over the
 * flows.
 */
export function flowSums(recording: Recording, span: Span): FlowSums {
  const { flows, origins } = recording.tables;
  const column = (): Float64Array => new Float64Array(origins.length);
  const sums = { bytes: column(), variance: column(), count: column(), countVariance: column(), inferred: column() };
  for (let row = 0; row < flows.length; row++) {
    const share = insideShare(flows.col.fromMs[row]!, flows.col.toMs[row]!, span);
    if (share === 0) continue;
    const originId = flows.col.originId[row]!;
    sums.bytes[originId]! += share * flows.col.bytes[row]!;
    if (flows.col.inferred[row] === 1) sums.inferred[originId]! += share * flows.col.bytes[row]!;
    const [bytes, se, count] = [flows.col.bytes[row]!, flows.col.seBytes[row]!, share * flows.col.count[row]!];
    sums.variance[originId]! += (share * se) ** 2;
    sums.count[originId]! += count;
    sums.countVariance[originId]! += bytes > 0 ? (count * (se / bytes)) ** 2 : 0;
  }
  for (const { originId, bytes, seBytes } of inferredFlows(recording, span)) {
    sums.bytes[originId]! += bytes;
    sums.inferred[originId]! += bytes;
    sums.variance[originId]! += seBytes ** 2;
    // How many objects that were is not known.
    sums.count[originId] = NaN;
    sums.countVariance[originId] = NaN;
  }
  return sums;
}
