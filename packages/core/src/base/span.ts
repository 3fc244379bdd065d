/** A half-open range of time, in milliseconds from the recording's start. */
export interface Span {
  readonly fromMs: number;
  readonly toMs: number;
}

/** Length of the span in milliseconds, never negative. */
export function spanLengthMs(span: Span): number {
  return Math.max(0, span.toMs - span.fromMs);
}

/** Milliseconds of `[startMs, endMs)` that lie inside the span. */
export function overlapMs(span: Span, startMs: number, endMs: number): number {
  return Math.max(0, Math.min(span.toMs, endMs) - Math.max(span.fromMs, startMs));
}

/** True when the instant lies in the half-open span. */
export function contains(span: Span, tMs: number): boolean {
  return tMs >= span.fromMs && tMs < span.toMs;
}
