import { median } from '../stats/quantile.ts';
import { changePenalty, pelt } from '../stats/pelt.ts';
import { theilSen } from '../stats/theil-sen.ts';

/** One change of the floor's level. */
export interface FloorStep {
  readonly tMs: number;
  /** Difference of the medians of the two segments; negative for a step down. */
  readonly bytes: number;
}

export interface StepFigures {
  readonly steps: readonly FloorStep[];
  /** Median gap between upward steps when the gaps' coefficient of variation is below 0.25, else NaN. */
  readonly periodMs: number;
  /** Rise within the segments, summed: what the steps do not explain. */
  readonly withinBytes: number;
  /** Share of the time that lies inside the segments; low when the points come in clusters and nothing is known between. */
  readonly observedFlatRatio: number;
  /** Bayesian information criterion of the staircase minus that of a line, straight or with one bend: below 0, the staircase fits better. */
  readonly bicOverLine: number;
}

const MOST_PERIOD_VARIATION = 0.25;

/** A change below this share of the median floor is no step: the caches of a runtime move by as much. */
const LEAST_STEP_RATIO = 0.01;

/** A segment of so few points, whose two steps undo each other but for this share, is a point that stands out. */
const MOST_SPIKE_POINTS = 1;
const SPIKE_RATIO = 0.2;

/** A step of one or two units of the last printed digit may be rounding: a ramp printed in whole MiB is a staircase on paper. */
const LEAST_STEP_UNITS = 2;

/**
 * Steps of the floor by PELT with penalty 3·log(n)·σ̂², and their period. A step counts from 1 % of the median floor and above
 * two units of `resolutionBytes`, the step in which the source prints sizes.
 */
export function floorSteps(tMs: Float64Array, bytes: Float64Array, resolutionBytes: number): StepFigures {
  const leastBytes = Math.max(LEAST_STEP_RATIO * median(bytes), LEAST_STEP_UNITS * resolutionBytes * (1 + 1e-9));
  const changes = pelt(bytes, changePenalty(bytes));
  const edges = [0, ...changes, bytes.length];
  const steps: FloorStep[] = [];
  let withinBytes = 0;
  let flatMs = 0;
  for (let segment = 0; segment + 1 < edges.length; segment++) {
    const from = edges[segment]!;
    const to = edges[segment + 1]!;
    flatMs += tMs[to - 1]! - tMs[from]!;
    withinBytes += riseWithin(tMs.subarray(from, to), bytes.subarray(from, to));
    if (segment === 0) continue;
    const height = median(bytes.subarray(from, to)) - median(bytes.subarray(edges[segment - 1]!, from));
    if (Math.abs(height) < leastBytes) continue;
    // A floor point that met work half done stands out alone: up and at once down again is no step, and has no place in the period.
    const before = steps.at(-1);
    const isAlone = segment > 1 && from - edges[segment - 1]! <= MOST_SPIKE_POINTS;
    if (before !== undefined && isAlone && before.tMs === tMs[edges[segment - 1]!] && Math.abs(before.bytes + height) < SPIKE_RATIO * Math.abs(before.bytes)) steps.pop();
    else steps.push({ tMs: tMs[from]!, bytes: height });
  }
  return {
    steps, withinBytes,
    periodMs: stepPeriodMs(steps.filter((step) => step.bytes > 0)),
    observedFlatRatio: bytes.length < 2 ? 0 : flatMs / (tMs[tMs.length - 1]! - tMs[0]!),
    bicOverLine: bicOverLine(tMs, bytes, edges),
  };
}

// Schwarz (1978): n·log(RSS/n) + parameters·log n. A level and a place for each segment, against slope and intercept.
function bicOverLine(tMs: Float64Array, bytes: Float64Array, edges: readonly number[]): number {
  const n = bytes.length;
  const line = theilSen(tMs, bytes);
  if (line.kind !== 'slope') return Infinity;
  let lineRss = 0;
  for (let i = 0; i < n; i++) lineRss += (bytes[i]! - line.intercept - line.slope * tMs[i]!) ** 2;
  // One byte of residual at least: exact fits would compare infinities.
  const criterion = (rss: number, parameters: number): number => n * Math.log(Math.max(1, rss)) + parameters * Math.log(n);
  const lineCriterion = Math.min(criterion(lineRss, 2), criterion(bentLineRss(tMs, bytes), 4));
  let stairRss = 0;
  for (let segment = 0; segment + 1 < edges.length; segment++) {
    const part = bytes.subarray(edges[segment]!, edges[segment + 1]!);
    const level = part.reduce((sum, value) => sum + value, 0) / part.length;
    for (const value of part) stairRss += (value - level) ** 2;
  }
  const parameters = 2 * (edges.length - 1) - 1;
  return criterion(stairRss, parameters) - lineCriterion;
}

const MOST_BENDS = 40;

// Least squares of a line with one bend, which a leak that begins later is: the best of bends at most forty places. O(n) each.
function bentLineRss(tMs: Float64Array, bytes: Float64Array): number {
  const n = bytes.length;
  const stride = Math.max(1, Math.floor(n / MOST_BENDS));
  let best = Infinity;
  for (let bend = 1; bend < n - 1; bend += stride) best = Math.min(best, rssWithBend(tMs, bytes, tMs[bend]!));
  return best;
}

// y = a + b·t + c·max(0, t − bend), by the normal equations over centred and scaled columns.
function rssWithBend(tMs: Float64Array, bytes: Float64Array, bendMs: number): number {
  const n = bytes.length;
  const startMs = tMs[0]!;
  const lengthMs = tMs[n - 1]! - startMs || 1;
  let [meanX, meanZ, meanY] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    meanX += (tMs[i]! - startMs) / lengthMs / n;
    meanZ += Math.max(0, tMs[i]! - bendMs) / lengthMs / n;
    meanY += bytes[i]! / n;
  }
  let [xx, xz, zz, xy, zy, yy] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    const x = (tMs[i]! - startMs) / lengthMs - meanX;
    const z = Math.max(0, tMs[i]! - bendMs) / lengthMs - meanZ;
    const y = bytes[i]! - meanY;
    xx += x * x; xz += x * z; zz += z * z; xy += x * y; zy += z * y; yy += y * y;
  }
  const determinant = xx * zz - xz * xz;
  if (!(determinant > 1e-12)) return Infinity;
  const b = (xy * zz - zy * xz) / determinant;
  const c = (zy * xx - xy * xz) / determinant;
  return Math.max(0, yy - b * xy - c * zy);
}

function riseWithin(tMs: Float64Array, bytes: Float64Array): number {
  if (bytes.length < 2) return 0;
  const line = theilSen(tMs, bytes);
  return line.kind === 'slope' ? Math.max(0, line.slope * (tMs[tMs.length - 1]! - tMs[0]!)) : 0;
}

/** Median gap between steps when the gaps' coefficient of variation is below 0.25, and there are three steps at least; else NaN. */
export function stepPeriodMs(upward: readonly FloorStep[]): number {
  if (upward.length < 3) return NaN;
  const gaps = upward.slice(1).map((step, i) => step.tMs - upward[i]!.tMs);
  const mean = gaps.reduce((sum, gap) => sum + gap, 0) / gaps.length;
  const variance = gaps.reduce((sum, gap) => sum + (gap - mean) ** 2, 0) / Math.max(1, gaps.length - 1);
  return Math.sqrt(variance) / mean < MOST_PERIOD_VARIATION ? median(gaps) : NaN;
}
