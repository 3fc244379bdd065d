import type { Span } from '@brisk-heron/core';

/** Places of the ribbon's parts, in CSS pixels. Pure geometry: no drawing. */
export interface RibbonLayout {
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly right: number;
  /** Memory stands between these. */
  readonly top: number;
  readonly axis: number;
  /** Pauses hang down from the axis to at most here. */
  readonly pauseEnd: number;
  /** Baseline of the labels of time. */
  readonly labelY: number;
  readonly window: Span;
  readonly mostBytes: number;
}

const LEFT = 58;
const RIGHT = 18;
const TOP = 26;
const LABELS = 18;
/** Below the labels: the span in words, and ways to it. */
const CONTROLS = 20;
const PAUSE_SHARE = 0.32;
/** Bounds of the log scale of pauses. */
export const PAUSE_LEAST_MS = 0.2;
const PAUSE_MOST_MS = 500;

/** Places of the ribbon's parts for a width, a window of time and the most that was used. */
export function ribbonLayout(width: number, height: number, window: Span, mostBytes: number): RibbonLayout {
  const plot = height - TOP - LABELS - CONTROLS;
  return {
    width,
    height,
    left: LEFT,
    right: Math.max(LEFT + 10, width - RIGHT),
    top: TOP,
    axis: TOP + Math.round(plot * (1 - PAUSE_SHARE)),
    pauseEnd: height - CONTROLS - LABELS - 4,
    labelY: height - CONTROLS - 4,
    window,
    mostBytes: Math.max(1, mostBytes) * 1.06,
  };
}

/** Place of an instant, in pixels from the left. */
export function xOf(layout: RibbonLayout, tMs: number): number {
  const { window, left, right } = layout;
  return left + ((tMs - window.fromMs) / (window.toMs - window.fromMs)) * (right - left);
}

/** The instant at a place, in milliseconds. */
export function timeAt(layout: RibbonLayout, x: number): number {
  const { window, left, right } = layout;
  return window.fromMs + ((x - left) / (right - left)) * (window.toMs - window.fromMs);
}

/** Height of so many bytes, in pixels from the top. */
export function yOfBytes(layout: RibbonLayout, bytes: number): number {
  return layout.axis - (bytes / layout.mostBytes) * (layout.axis - layout.top);
}

/** How far down a pause hangs: its length on a log scale, at least 3 pixels. */
export function pauseDepth(layout: RibbonLayout, durationMs: number): number {
  const share =
    Math.log10(Math.max(durationMs, PAUSE_LEAST_MS) / PAUSE_LEAST_MS) / Math.log10(PAUSE_MOST_MS / PAUSE_LEAST_MS);
  return Math.max(3, Math.min(1, share) * (layout.pauseEnd - layout.axis));
}

/** The window after zooming by `factor` (below 1: closer) around the instant under the pointer. */
export function zoomed(window: Span, factor: number, aroundMs: number): Span {
  return { fromMs: aroundMs - (aroundMs - window.fromMs) * factor, toMs: aroundMs + (window.toMs - aroundMs) * factor };
}

/**
 * Row of the drawn pause nearest to a point, −1 when none is within `reach` pixels. `order` rows are parallel columns.
 */
export function pauseAt(
  layout: RibbonLayout,
  startMs: Float64Array,
  durationMs: Float64Array,
  x: number,
  reach: number,
): number {
  let best = -1;
  let bestScore = Infinity;
  for (let place = 0; place < startMs.length; place++) {
    const distance = Math.abs(xOf(layout, startMs[place]!) - x);
    // Of pauses equally near, the longest is meant.
    const score = distance - Math.min(1, durationMs[place]! / PAUSE_MOST_MS);
    if (distance <= reach && score < bestScore) {
      best = place;
      bestScore = score;
    }
  }
  return best;
}
