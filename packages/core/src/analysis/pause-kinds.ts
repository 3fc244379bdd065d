import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { ScopeCode } from '../model/tables.ts';
import { nearestRank } from '../stats/quantile.ts';
import type { PauseSelection } from './program-pauses.ts';

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

/** The span's pauses by kind, the costliest first. O(n log n). */
export function pauseKinds(
  recording: Recording,
  selection: PauseSelection,
  span: Span,
  by: PauseGrouping,
): PauseKind[] {
  const { labelId, causeId, scope } = recording.tables.pauses.col;
  const ids = by === 'label' ? labelId : causeId;
  const { rows } = selection;
  const counts = new Map<number, number>();
  for (let place = 0; place < rows.length; place++)
    counts.set(ids[rows[place]!]!, (counts.get(ids[rows[place]!]!) ?? 0) + 1);
  const kinds = new Map(
    [...counts].map(([id, count]) => [id, { durationMs: new Float64Array(count), first: 0, filled: 0 }]),
  );
  for (let place = 0; place < rows.length; place++) {
    const kind = kinds.get(ids[rows[place]!]!)!;
    if (kind.filled === 0) kind.first = rows[place]!;
    kind.durationMs[kind.filled++] = selection.durationMs[place]!;
  }
  const lengthMs = spanLengthMs(span);
  return [...kinds.values()]
    .map(({ durationMs, first }) => {
      const sorted = durationMs.sort();
      const totalMs = sorted.reduce((sum, ms) => sum + ms, 0);
      return {
        name: pauseKindOf(recording, first, by),
        scope: scope[first] as ScopeCode,
        count: sorted.length,
        totalMs,
        meanMs: totalMs / sorted.length,
        p50Ms: nearestRank(sorted, 0.5),
        p95Ms: nearestRank(sorted, 0.95),
        p99Ms: nearestRank(sorted, 0.99),
        maxMs: sorted[sorted.length - 1]!,
        timeRatio: recording.hasClock && lengthMs > 0 ? totalMs / lengthMs : NaN,
      };
    })
    .sort((a, b) => b.totalMs - a.totalMs);
}
