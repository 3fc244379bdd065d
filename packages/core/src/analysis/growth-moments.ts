import type { Span } from '../base/span.ts';
import { spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';
import type { Floor } from './floor.ts';

const MOMENTS = 64;
const LEAST_FLOOR_POINTS = 8;

/** Part of the span in which objects were followed without a break: the longest such stretch; null when there is none. */
export function followedSpan(recording: Recording, span: Span): Span | null {
  const { phases } = recording.tables;
  let best: Span | null = null;
  for (let row = 0; row < phases.length; row++) {
    if (phases.col.kind[row] === PhaseKind.births) continue;
    const end = phases.col.toMs[row]!;
    const part = { fromMs: Math.max(span.fromMs, phases.col.fromMs[row]!), toMs: Math.min(span.toMs, Number.isNaN(end) ? Infinity : end) };
    if (spanLengthMs(part) > (best === null ? 0 : spanLengthMs(best))) best = part;
  }
  return best;
}

/** Instants at which growth by site is read: the floor's points inside the followed span, else 64 equal moments. */
export function growthMoments(floor: Floor, followed: Span): Float64Array {
  const inside = floor.tMs.filter((t) => t > followed.fromMs && t <= followed.toMs);
  if (inside.length >= LEAST_FLOOR_POINTS) return inside;
  const stepMs = spanLengthMs(followed) / MOMENTS;
  return Float64Array.from({ length: MOMENTS }, (_, moment) => followed.fromMs + (moment + 1) * stepMs);
}
