import type { Span } from '@brisk-heron/core';

/** Windows of two recordings of one length, in each one's own time. */
export interface TwoWindows {
  readonly a: Span;
  readonly b: Span;
}

const LEAST_MS = 20;

/**
 * Windows that show both recordings whole on one scale, so that the instants given, one of each, stand below each
 * other. A window may begin before its recording does, and end after it. Pure.
 */
export function sharedWindows(
  [lengthA, lengthB]: readonly [number, number],
  [atA, atB]: readonly [number, number],
): TwoWindows {
  const before = Math.max(atA, atB);
  const after = Math.max(lengthA - atA, lengthB - atB, LEAST_MS);
  return { a: { fromMs: atA - before, toMs: atA + after }, b: { fromMs: atB - before, toMs: atB + after } };
}

/** Instants of A and B that stand below each other where the start of B stands so much later than that of A. */
export function shifted(shiftMs: number): readonly [number, number] {
  return shiftMs >= 0 ? [shiftMs, 0] : [0, -shiftMs];
}

/** One curve of a distribution: share of values at most so large. */
export interface SharePoint {
  readonly value: number;
  readonly share: number;
}

/** The distribution function of ascending values, at equal ranks, from nothing to all. */
export function distribution(sorted: Float64Array): SharePoint[] {
  return Array.from(sorted, (value, at) => ({ value, share: (at + 1) / sorted.length }));
}

/** How wide a bar of a difference is on either side of the middle, of `half` pixels at most. */
export function barWidth(value: number, most: number, half: number): number {
  return most > 0 && Number.isFinite(value) ? Math.max(1, (Math.abs(value) / most) * half) : 0;
}
