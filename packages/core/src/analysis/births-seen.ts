import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';

/**
 * Milliseconds of the span in which births could be seen, or inferred: all of it but phases in which a recorder followed
 * deaths alone. Of several heaps, the most that one of them saw. Rates by site are per this time.
 */
export function birthsSeenMs(recording: Recording, span: Span): number {
  const { phases } = recording.tables;
  const blind = new Float64Array(Math.max(1, recording.heaps.length));
  for (let row = 0; row < phases.length; row++) {
    if (phases.col.kind[row] !== PhaseKind.deaths) continue;
    const endMs = Number.isNaN(phases.col.toMs[row]!) ? Infinity : phases.col.toMs[row]!;
    const part = { fromMs: Math.max(span.fromMs, phases.col.fromMs[row]!), toMs: Math.min(span.toMs, endMs) };
    blind[phases.col.heapId[row]!]! += Math.max(0, spanLengthMs(part));
  }
  return spanLengthMs(span) - Math.min(...blind);
}
