import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { insideShare } from './allocation.ts';
import { inferredFlows } from './inferred-flows.ts';

/** Bytes of an origin over a stretch of a span, whose objects came and went unseen. */
export interface SpanFlow {
  readonly originId: number;
  readonly fromMs: number;
  readonly toMs: number;
  readonly bytes: number;
  /** Worked out, not told by the source; then the stretch is long and the objects lived a small part of it. */
  readonly isInferred: boolean;
}

/** Flows of a span, by the part of their interval inside it, and what is inferred. One pass over the flows. */
export function spanFlows(recording: Recording, span: Span): SpanFlow[] {
  const {
    length,
    col: { fromMs, toMs, bytes, originId, inferred },
  } = recording.tables.flows;
  const flows: SpanFlow[] = [];
  for (let row = 0; row < length; row++) {
    const share = insideShare(fromMs[row]!, toMs[row]!, span);
    if (share === 0) continue;
    flows.push({
      originId: originId[row]!,
      fromMs: Math.max(span.fromMs, fromMs[row]!),
      toMs: Math.min(span.toMs, toMs[row]!),
      bytes: share * bytes[row]!,
      isInferred: inferred[row] === 1,
    });
  }
  for (const { originId: origin, fromMs: from, toMs: to, bytes: unseen } of inferredFlows(recording, span))
    flows.push({ originId: origin, fromMs: from, toMs: to, bytes: unseen, isInferred: true });
  return flows;
}
