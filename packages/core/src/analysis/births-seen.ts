import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';

/**
 * Milliseconds of the span in which births could be seen, or inferred: all of it but phases in which a recorder
 * followed deaths alone, or saw nothing. Of several heaps, the most that one of them saw. Rates by site are per this
 * time.
 */
export function birthsSeenMs(recording: Recording, span: Span): number {
  const { phases } = recording.tables;
  const blind = new Float64Array(Math.max(1, recording.heaps.length)).fill(Infinity);
  for (let row = 0; row < phases.length; row++) {
    const heapId = phases.col.heapId[row]!;
    if (blind[heapId] === Infinity) blind[heapId] = 0;
    if (phases.col.kind[row] !== PhaseKind.deaths && phases.col.kind[row] !== PhaseKind.blind) continue;
    const endMs = Number.isNaN(phases.col.toMs[row]!) ? Infinity : phases.col.toMs[row]!;
    const part = { fromMs: Math.max(span.fromMs, phases.col.fromMs[row]!), toMs: Math.min(span.toMs, endMs) };
    blind[heapId]! += Math.max(0, spanLengthMs(part));
  }
  const least = Math.min(...blind);
  return spanLengthMs(span) - (least === Infinity ? 0 : least);
}
