import { spanLengthMs, type Span } from '../base/span.ts';
import type { PauseSelection } from './program-pauses.ts';

export interface MmuPoint {
  readonly windowMs: number;
  readonly ratio: number;
}

/**
 * Minimum mutator utilisation: the least share of any window of that length, inside the span, left to the program.
 * Exact: windows that start at a pause's start or end at a pause's end suffice. Overlapping pauses count once.
 * Linear in the pauses for each window length. Windows longer than the span are not answered.
 *
 * Source: Cheng & Blelloch, A parallel, real-time garbage collector, PLDI 2001, section 3.
 */
export function minimumMutatorUtilisation(selection: PauseSelection, span: Span, windowsMs: readonly number[]): MmuPoint[] {
  const merged = mergeIntervals(selection, span);
  const points: MmuPoint[] = [];
  for (const windowMs of windowsMs) {
    if (windowMs > spanLengthMs(span) || windowMs <= 0) continue;
    points.push({ windowMs, ratio: 1 - mostPaused(merged, span, windowMs) / windowMs });
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

interface Intervals {
  readonly starts: Float64Array;
  readonly ends: Float64Array;
  /** `before[i]` = paused time in intervals 0 … i−1. */
  readonly before: Float64Array;
}

function mergeIntervals(selection: PauseSelection, span: Span): Intervals {
  const starts: number[] = [];
  const ends: number[] = [];
  for (let i = 0; i < selection.rows.length; i++) {
    const start = Math.max(span.fromMs, selection.startMs[i]!);
    const end = Math.min(span.toMs, selection.startMs[i]! + selection.durationMs[i]!);
    if (end <= start) continue;
    const last = ends.length - 1;
    if (last >= 0 && start <= ends[last]!) ends[last] = Math.max(ends[last]!, end);
    else {
      starts.push(start);
      ends.push(end);
    }
  }
  const before = new Float64Array(starts.length + 1);
  for (let i = 0; i < starts.length; i++) before[i + 1] = before[i]! + ends[i]! - starts[i]!;
  return { starts: Float64Array.from(starts), ends: Float64Array.from(ends), before };
}

function mostPaused(intervals: Intervals, span: Span, windowMs: number): number {
  const { starts, ends } = intervals;
  let most = 0;
  let right = 0;
  for (let i = 0; i < starts.length; i++) {
    const to = starts[i]! + windowMs;
    if (to > span.toMs) break;
    right = advance(starts, right, to);
    most = Math.max(most, pausedUntil(intervals, right, to) - intervals.before[i]!);
  }
  let left = 0;
  for (let i = 0; i < ends.length; i++) {
    const from = ends[i]! - windowMs;
    if (from < span.fromMs) continue;
    left = advance(starts, left, from);
    most = Math.max(most, intervals.before[i + 1]! - pausedUntil(intervals, left, from));
  }
  return spanEdges(intervals, span, windowMs, most);
}

// A window at the span's very start or end touches no pause's edge when a pause is cut off there.
function spanEdges(intervals: Intervals, span: Span, windowMs: number, most: number): number {
  const { starts } = intervals;
  const head = pausedUntil(intervals, advance(starts, 0, span.fromMs + windowMs), span.fromMs + windowMs);
  const tailFrom = span.toMs - windowMs;
  const tail = intervals.before[starts.length]! - pausedUntil(intervals, advance(starts, 0, tailFrom), tailFrom);
  return Math.max(most, head, tail);
}

/** Number of intervals that start before t, searching on from `from`. */
function advance(starts: Float64Array, from: number, t: number): number {
  let at = from;
  while (at < starts.length && starts[at]! < t) at++;
  return at;
}

function pausedUntil(intervals: Intervals, started: number, t: number): number {
  if (started === 0) return 0;
  return intervals.before[started]! - Math.max(0, intervals.ends[started - 1]! - t);
}
