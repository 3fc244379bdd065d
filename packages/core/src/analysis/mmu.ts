import { spanLengthMs, type Span } from '../base/span.ts';
import type { LostTime } from './lost-time.ts';

/** The least share of any window of a length that the program had for itself. */
export interface MmuPoint {
  readonly windowMs: number;
  readonly ratio: number;
}

/**
 * Minimum mutator utilisation: the least share of any window of that length, inside the span, left to the program, by
 * its lost time (analysis/lost-time.ts). Exact: what a window loses is greatest where one of its ends lies at an
 * instant at which the loss changes, as the start or end of a pause. Linear in those instants for each window length.
 * Windows longer than the span are not answered.
 *
 * Source: Cheng & Blelloch, A parallel, real-time garbage collector, PLDI 2001, section 3.
 */
export function minimumMutatorUtilisation(
  lost: Pick<LostTime, 'tMs' | 'untilMs'>,
  span: Span,
  windowsMs: readonly number[],
): MmuPoint[] {
  const points: MmuPoint[] = [];
  for (const windowMs of windowsMs) {
    if (windowMs > spanLengthMs(span) || windowMs <= 0) continue;
    points.push({ windowMs, ratio: 1 - mostLost(lost, windowMs) / windowMs });
  }
  return points;
}

/** Window lengths for a curve: 1, 2, 5, 10, … ms up to the span's length, which is the last. */
export function mmuWindows(lengthMs: number): number[] {
  const windows: number[] = [];
  for (let decade = 1; decade < lengthMs; decade *= 10) {
    for (const step of [1, 2, 5]) if (decade * step < lengthMs) windows.push(decade * step);
  }
  if (lengthMs > 0) windows.push(lengthMs);
  return windows;
}

// The first and the last instant are the span's ends.
function mostLost({ tMs, untilMs }: Pick<LostTime, 'tMs' | 'untilMs'>, windowMs: number): number {
  const last = tMs.length - 1;
  let [most, after, before] = [0, 0, 0];
  for (let at = 0; at <= last; at++) {
    const to = tMs[at]! + windowMs;
    if (to <= tMs[last]!) {
      while (after < last && tMs[after + 1]! <= to) after++;
      most = Math.max(most, lostUntil(tMs, untilMs, after, to) - untilMs[at]!);
    }
    const from = tMs[at]! - windowMs;
    if (from < tMs[0]!) continue;
    while (before < last && tMs[before + 1]! <= from) before++;
    most = Math.max(most, untilMs[at]! - lostUntil(tMs, untilMs, before, from));
  }
  return Math.min(windowMs, most);
}

// Between two instants what is lost grows evenly; `at` is the last instant not after t.
function lostUntil(tMs: Float64Array, untilMs: Float64Array, at: number, t: number): number {
  if (at >= tMs.length - 1 || tMs[at + 1] === tMs[at]) return untilMs[at]!;
  return untilMs[at]! + ((untilMs[at + 1]! - untilMs[at]!) * (t - tMs[at]!)) / (tMs[at + 1]! - tMs[at]!);
}
