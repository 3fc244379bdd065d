import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { ScopeCode } from '../model/tables.ts';
import { nearestRank } from '../stats/quantile.ts';
import { durationOrder, sortedDurations, type PauseSelection } from './program-pauses.ts';

/** Pauses that have one label, or one cause. Percentiles by nearest rank. */
export interface PauseKind {
  readonly name: string;
  /** Scope of the first of them. */
  readonly scope: ScopeCode;
  readonly count: number;
  readonly totalMs: number;
  readonly meanMs: number;
  readonly p50Ms: number;
  readonly p95Ms: number;
  readonly p99Ms: number;
  readonly maxMs: number;
  /** Share of the span's time; NaN without a clock. */
  readonly timeRatio: number;
}

/** What pauses are told apart by: the runtime's own label, or why they were made. */
export const PAUSE_GROUPINGS = ['label', 'cause'] as const;
export type PauseGrouping = (typeof PAUSE_GROUPINGS)[number];

/** Name of the kind that a pause row belongs to; a pause without a cause says so. */
export function pauseKindOf(recording: Recording, pauseRow: number, by: PauseGrouping): string {
  const { labelId, causeId } = recording.tables.pauses.col;
  const name = recording.strings.text(by === 'label' ? labelId[pauseRow]! : causeId[pauseRow]!);
  return name === '' ? '(no cause told)' : name;
}

/** The span's pauses by kind, the costliest first. Linear in all pauses, once their order by duration is known. */
export function pauseKinds(
  recording: Recording,
  selection: PauseSelection,
  span: Span,
  by: PauseGrouping,
): PauseKind[] {
  const { labelId, causeId } = recording.tables.pauses.col;
  const ids = by === 'label' ? labelId : causeId;
  const { rows } = selection;
  const kindOf = new Map<number, number>();
  const firsts: number[] = [];
  const counts: number[] = [];
  const kinds = recording.strings.length <= 0xffff ? new Uint16Array(rows.length) : new Uint32Array(rows.length);
  let [id, kind] = [-1, -1];
  for (let place = 0; place < rows.length; place++) {
    const next = ids[rows[place]!]!;
    // Most pauses are like the one before.
    if (next !== id || kind < 0) {
      id = next;
      kind = kindOf.get(id) ?? counts.length;
      if (kind === counts.length) {
        kindOf.set(id, kind);
        firsts.push(rows[place]!);
        counts.push(0);
      }
    }
    kinds[place] = kind;
    counts[kind]!++;
  }
  const sorted = counts.map((count) => new Float64Array(count));
  const filled = new Uint32Array(counts.length);
  const order = durationOrder(recording, selection);
  const durations = sortedDurations(recording, selection);
  for (let at = 0; at < order.length; at++) {
    const of = kinds[order[at]!]!;
    sorted[of]![filled[of]!++] = durations[at]!;
  }
  return sorted
    .map((durationMs, at) => kindTold(recording, { durationMs, first: firsts[at]! }, span, by))
    .sort((a, b) => b.totalMs - a.totalMs);
}

// Of ascending durations.
function kindTold(
  recording: Recording,
  { durationMs: sorted, first }: { readonly durationMs: Float64Array; readonly first: number },
  span: Span,
  by: PauseGrouping,
): PauseKind {
  const lengthMs = spanLengthMs(span);
  let totalMs = 0;
  for (let at = 0; at < sorted.length; at++) totalMs += sorted[at]!;
  return {
    name: pauseKindOf(recording, first, by),
    scope: recording.tables.pauses.col.scope[first] as ScopeCode,
    count: sorted.length,
    totalMs,
    meanMs: totalMs / sorted.length,
    p50Ms: nearestRank(sorted, 0.5),
    p95Ms: nearestRank(sorted, 0.95),
    p99Ms: nearestRank(sorted, 0.99),
    maxMs: sorted[sorted.length - 1]!,
    timeRatio: recording.hasClock && lengthMs > 0 ? totalMs / lengthMs : NaN,
  };
}
