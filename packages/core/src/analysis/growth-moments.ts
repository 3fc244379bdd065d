import type { Span } from '../base/span.ts';
import { spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';
import type { Floor } from './floor.ts';

const MOMENTS = 64;
const LEAST_FLOOR_POINTS = 8;

/** A stretch of the span in which objects were followed without a break. */
export interface FollowedSpan extends Span {
  /** When following began: at or before the stretch. */
  readonly sinceMs: number;
}

/** Phases that go on following the objects of the one before. */
function goesOn(kind: number): boolean {
  return kind === PhaseKind.objects || kind === PhaseKind.deaths;
}

// The row before is of the same heap, ended where this one began, and kept its objects.
function continues(recording: Recording, row: number): boolean {
  const { kind, heapId, fromMs, toMs } = recording.tables.phases.col;
  return goesOn(kind[row - 1]!) && heapId[row - 1] === heapId[row] && toMs[row - 1] === fromMs[row];
}

/** The longest stretch of the span in which objects were followed; null when there is none. */
export function followedSpan(recording: Recording, span: Span): FollowedSpan | null {
  const { phases } = recording.tables;
  let best: FollowedSpan | null = null;
  for (let row = 0; row < phases.length; row++) {
    if (phases.col.kind[row] === PhaseKind.births || phases.col.kind[row] === PhaseKind.blind) continue;
    const end = phases.col.toMs[row]!;
    let first = row;
    while (goesOn(phases.col.kind[row]!) && first > 0 && continues(recording, first)) first--;
    const sinceMs = phases.col.fromMs[first]!;
    const part = {
      sinceMs,
      fromMs: Math.max(span.fromMs, sinceMs),
      toMs: Math.min(span.toMs, Number.isNaN(end) ? Infinity : end),
    };
    if (spanLengthMs(part) > (best === null ? 0 : spanLengthMs(best))) best = part;
  }
  return best;
}

/**
 * Instants at which growth by site is read: the floor's points, 64 of them evenly chosen where there are more, else 64
 * equal moments. Only from a settle time after following began, since nothing could be seen to have settled before.
 * Empty when nothing is left.
 */
export function growthMoments(floor: Floor, followed: FollowedSpan, settleMs: number): Float64Array {
  const settled = { fromMs: Math.max(followed.fromMs, followed.sinceMs + settleMs), toMs: followed.toMs };
  const inside = floor.tMs.filter((t) => t >= settled.fromMs && t <= settled.toMs);
  if (inside.length > MOMENTS)
    return Float64Array.from(
      { length: MOMENTS },
      (_, moment) => inside[Math.round((moment * (inside.length - 1)) / (MOMENTS - 1))]!,
    );
  if (inside.length >= LEAST_FLOOR_POINTS) return inside;
  const stepMs = spanLengthMs(settled) / MOMENTS;
  if (stepMs === 0) return new Float64Array(0);
  return Float64Array.from({ length: MOMENTS }, (_, moment) => settled.fromMs + (moment + 1) * stepMs);
}
