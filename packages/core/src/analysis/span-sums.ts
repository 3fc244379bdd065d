import type { Span } from '../base/span.ts';
import { floorPoints } from './floor.ts';
import { flowSums, type FlowSums } from './flow-sums.ts';
import { followedSpan, growthMoments } from './growth-moments.ts';
import type { ObjectIndex } from './object-index.ts';
import { originSums } from './origin-sums.ts';
import { settleTimeMs } from './settle-time.ts';

/** Sums of every origin over a span: what tables of any charge and any choice of origins are made from. */
export interface SpanSums {
  readonly index: ObjectIndex;
  readonly span: Span;
  /** Stretch over which objects were followed; null when none were. */
  readonly followed: Span | null;
  readonly settleMs: number;
  /** Instants at which growth is read. */
  readonly momentsMs: Float64Array;
  /** By origin (analysis/origin-sums.ts). */
  readonly sums: Float64Array;
  readonly flows: FlowSums;
}

/**
 * Sums over a span. `settleMs` null takes the settle time that the observed lifetimes suggest. Of a part of a recording
 * both that and the flows, which may be inferred from all objects, are to be given by the whole.
 */
export function spanSums(
  index: ObjectIndex,
  span: Span,
  settleMs: number | null = null,
  flows: FlowSums | null = null,
): SpanSums {
  const { recording } = index;
  const followed = followedSpan(recording, span);
  const settle = settleMs ?? settleTimeMs(recording, span, index.settleMs);
  const momentsMs =
    followed === null ? new Float64Array(0) : growthMoments(floorPoints(recording, span), followed, settle);
  return {
    index,
    span,
    followed,
    settleMs: settle,
    momentsMs,
    sums: originSums(index, span, settle),
    flows: flows ?? flowSums(recording, span),
  };
}
