import { median } from '../stats/quantile.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { ChargeFigures } from './charge-figures.ts';
import { floorSteps, stepPeriodMs, type FloorStep } from './verdict/steps.ts';

/** What a live series looks like. */
export type SeriesPattern =
  | { readonly kind: 'too-young' | 'steady' | 'falls' | 'rises' | 'rises-steadily' | 'unclear' }
  | { readonly kind: 'steps'; readonly stepBytes: number; readonly times: number; readonly periodMs: number };

const LEAST_MOMENTS = 8;
const LEAST_STEPS = 3;
const STEPS_CARRY_RATIO = 0.7;
const MERGED_MOMENTS = 2.5;
const LEAST_FLAT_RATIO = 0.5;
const STEADY_TAU = 0.8;
const UNSURE_TAU = 0.5;

/** Names the pattern of a key's settled live bytes, by the same rules for steps as the verdict's. */
export function seriesPattern(
  momentsMs: Float64Array,
  figures: Pick<ChargeFigures, 'live' | 'growthLow' | 'growthHigh' | 'tau' | 'keptBytesSe'>,
): SeriesPattern {
  const { growthLow, growthHigh, tau, keptBytesSe } = figures;
  const liveBytes = figures.live.bytes;
  if (!liveBytes.some((bytes) => bytes > 0)) return { kind: 'too-young' };
  if (growthLow > 0)
    return stepsOf(momentsMs, liveBytes, keptBytesSe) ?? { kind: tau > STEADY_TAU ? 'rises-steadily' : 'rises' };
  if (growthHigh < 0) return { kind: 'falls' };
  return { kind: tau > UNSURE_TAU ? 'unclear' : 'steady' };
}

// A step that a sample or two make is none: it must stand out of the error of what it holds.
function stepsOf(momentsMs: Float64Array, liveBytes: Float64Array, keptBytesSe: number): SeriesPattern | null {
  if (momentsMs.length < LEAST_MOMENTS) return null;
  const found = floorSteps(momentsMs, liveBytes, 0);
  const upward = merged(
    found.steps.filter((step) => step.bytes > 0),
    momentsMs,
  );
  const heights = upward.map((step) => step.bytes);
  const risen = heights.reduce((sum, bytes) => sum + bytes, 0);
  const carries = risen >= STEPS_CARRY_RATIO * (risen + found.withinBytes);
  if (upward.length < LEAST_STEPS || !carries || found.observedFlatRatio < LEAST_FLAT_RATIO) return null;
  if (median(heights) <= (Z_95 * keptBytesSe) / Math.sqrt(upward.length) || found.bicOverLine() >= 0) return null;
  return { kind: 'steps', stepBytes: median(heights), times: upward.length, periodMs: stepPeriodMs(upward) };
}

// What is born at once settles over two or three moments, as far as its births were bounded: that is one step.
function merged(steps: readonly FloorStep[], momentsMs: Float64Array): FloorStep[] {
  const nearMs = MERGED_MOMENTS * median(momentsMs.subarray(1).map((tMs, place) => tMs - momentsMs[place]!));
  const found: FloorStep[] = [];
  let lastMs = -Infinity;
  for (const step of steps) {
    const before = found[found.length - 1];
    if (before !== undefined && step.tMs - lastMs <= nearMs)
      found[found.length - 1] = { tMs: before.tMs, bytes: before.bytes + step.bytes };
    else found.push(step);
    lastMs = step.tMs;
  }
  return found;
}
