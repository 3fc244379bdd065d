import { median } from '../../stats/quantile.ts';
import { changePenalty, pelt } from '../../stats/pelt.ts';
import { theilSen } from '../../stats/theil-sen.ts';
import { differencesOf } from './regimes.ts';

/** One change of the floor's level. */
export interface FloorStep {
  readonly tMs: number;
  /** Difference of the medians of the two segments; negative for a step down. */
  readonly bytes: number;
}

/** A floor that rises by steps and is flat between them. */
export interface Staircase {
  readonly steps: readonly FloorStep[];
  /** Median gap between upward steps when the gaps' coefficient of variation is below 0.25, else NaN. */
  readonly periodMs: number;
  /** What all steps together add. */
  readonly netBytes: number;
  /** First point of the last level. */
  readonly lastFrom: number;
}

const MOST_PERIOD_VARIATION = 0.25;
const LEAST_STEPS = 3;
/** A change below this share of the median floor is no step: the caches of a runtime move by as much. */
const LEAST_STEP_RATIO = 0.01;
/** A segment of so few points, whose two steps undo each other but for this share, is a point that stands out. */
const MOST_SPIKE_POINTS = 1;
const SPIKE_RATIO = 0.2;
/** A step of one or two units of the sizes may be rounding: a ramp printed in whole MiB is a staircase on paper. */
const LEAST_STEP_UNITS = 2;
/** The steps carry the growth. */
const STEPS_CARRY_RATIO = 0.7;
/** A staircase has at least this many points a step; a ramp over-cut by change points has fewer. */
const LEAST_POINTS_PER_STEP = 3;
/** Share of the time that must lie inside the segments: where the points come in clusters, nothing is known between. */
const LEAST_FLAT_RATIO = 0.5;
/** Between steps that would carry all growth the level may rise by this share of the whole slope. */
const MOST_WITHIN_RATIO = 0.15;
/**
 * A first step of more than this times the usual, or of less than one over it, within this share of the time, is the
 * start-up.
 */
const UNLIKE_FACTOR = 2;
const START_UP_RATIO = 0.2;
/** Least part of the usual step that must lie between two neighbouring points. */
const LEAST_ABRUPT_RATIO = 0.7;
/** And least height of it, in deviations of the differences between neighbours. */
const LEAST_ABRUPT_ERRORS = 4;
/** A staircase goes on when no more time than this, of the longest gap between two steps, went by without one. */
const GONE_ON_RATIO = 1.5;

/** Changes of a level, and what lies between them. */
export interface StepFigures {
  readonly steps: readonly FloorStep[];
  /** First points of the segments, and the number of points last. */
  readonly edges: readonly number[];
  /** Rise within the segments, summed: what the steps do not explain. */
  readonly withinBytes: number;
  /**
   * Share of the time that lies inside the segments; low when the points come in clusters and nothing is known between.
   */
  readonly observedFlatRatio: number;
  /** The one slope that all segments share, in bytes per millisecond. */
  readonly withinSlope: number;
  /**
   * Bayesian information criterion of the staircase minus that of a line, straight or with one bend: below 0, the
   * staircase fits better. Worked out when it is asked for: it takes longer than all else.
   */
  readonly bicOverLine: () => number;
}

/**
 * Steps of a level by PELT with penalty 3·log(n)·σ̂². A step counts from 1 % of the median and above two of
 * `stepBytes`, the step in which the
 * sizes come.
 */
export function floorSteps(tMs: Float64Array, bytes: Float64Array, stepBytes: number): StepFigures {
  const edges = [0, ...pelt(bytes, changePenalty(bytes)), bytes.length];
  const { riseBytes, flatMs, slope } = between(tMs, bytes, edges);
  return {
    steps: stepsAt(
      tMs,
      bytes,
      edges,
      Math.max(LEAST_STEP_RATIO * median(bytes), LEAST_STEP_UNITS * stepBytes * (1 + 1e-9)),
    ),
    edges,
    withinBytes: riseBytes,
    observedFlatRatio: bytes.length < 2 ? 0 : flatMs / (tMs[tMs.length - 1]! - tMs[0]!),
    withinSlope: slope,
    bicOverLine: () => bicOverLine(tMs, bytes, edges),
  };
}

/**
 * The staircase that a floor is; null where it is none: it needs three upward steps, seen flat between, that carry the
 * growth, fit better than a line, and go on to the end. A first step unlike the others in a start-up is left out.
 */
export function staircase(tMs: Float64Array, bytes: Float64Array, stepBytes: number): Staircase | null {
  const figures = floorSteps(tMs, bytes, stepBytes);
  const steps = withoutStartUp(figures.steps, tMs);
  const upward = steps.filter((step) => step.bytes > 0);
  if (upward.length < LEAST_STEPS || bytes.length < LEAST_POINTS_PER_STEP * (steps.length + 1)) return null;
  if (!goesOn(upward, tMs) || !areAbrupt(upward, tMs, bytes)) return null;
  const risen = upward.reduce((sum, step) => sum + step.bytes, 0);
  const netBytes = steps.reduce((sum, step) => sum + step.bytes, 0);
  const isFlatBetween =
    figures.observedFlatRatio >= LEAST_FLAT_RATIO &&
    figures.withinSlope * (tMs[tMs.length - 1]! - tMs[0]!) <= MOST_WITHIN_RATIO * netBytes;
  const carries = netBytes >= STEPS_CARRY_RATIO * risen && risen >= STEPS_CARRY_RATIO * (risen + figures.withinBytes);
  return isFlatBetween && carries && !(figures.bicOverLine() >= 0)
    ? { steps, periodMs: stepPeriodMs(upward), netBytes, lastFrom: figures.edges[figures.edges.length - 2]! }
    : null;
}

function stepsAt(tMs: Float64Array, bytes: Float64Array, edges: readonly number[], leastBytes: number): FloorStep[] {
  const steps: FloorStep[] = [];
  for (let segment = 1; segment + 1 < edges.length; segment++) {
    const [before, from, to] = [edges[segment - 1]!, edges[segment]!, edges[segment + 1]!];
    const height = median(bytes.subarray(from, to)) - median(bytes.subarray(before, from));
    if (Math.abs(height) < leastBytes) continue;
    // A floor point that met work half done stands out alone: up and at once down again is no step, and has no place in
    // the period.
    const last = steps.at(-1);
    const isAlone = segment > 1 && from - before <= MOST_SPIKE_POINTS;
    if (
      last !== undefined &&
      isAlone &&
      last.tMs === tMs[before] &&
      Math.abs(last.bytes + height) < SPIKE_RATIO * Math.abs(last.bytes)
    )
      steps.pop();
    else steps.push({ tMs: tMs[from]!, bytes: height });
  }
  return steps;
}

// What a program loads as it starts is no step of what follows.
function withoutStartUp(steps: readonly FloorStep[], tMs: Float64Array): readonly FloorStep[] {
  const endMs = tMs[0]! + START_UP_RATIO * (tMs[tMs.length - 1]! - tMs[0]!);
  let rest = steps;
  while (rest.length > LEAST_STEPS && rest[0]!.tMs <= endMs && isUnlike(rest)) rest = rest.slice(1);
  return rest;
}

function isUnlike([first, ...others]: readonly FloorStep[]): boolean {
  const height = median(others.map((step) => step.bytes));
  const gap = median(others.slice(1).map((step, at) => step.tMs - others[at]!.tMs));
  return (
    first!.bytes > UNLIKE_FACTOR * height ||
    first!.bytes < height / UNLIKE_FACTOR ||
    others[0]!.tMs - first!.tMs < gap / UNLIKE_FACTOR
  );
}

// A step lies between two neighbouring points, and no other difference of neighbours is like it.
function areAbrupt(upward: readonly FloorStep[], tMs: Float64Array, bytes: Float64Array): boolean {
  const jumps = upward.map((step) => {
    const at = tMs.indexOf(step.tMs);
    return (bytes[at]! - bytes[at - 1]!) / step.bytes;
  });
  const usual = 1.4826 * median(differencesOf(bytes));
  return median(jumps) >= LEAST_ABRUPT_RATIO && median(upward.map((step) => step.bytes)) >= LEAST_ABRUPT_ERRORS * usual;
}

function goesOn(upward: readonly FloorStep[], tMs: Float64Array): boolean {
  const gaps = upward.slice(1).map((step, at) => step.tMs - upward[at]!.tMs);
  return tMs[tMs.length - 1]! - upward[upward.length - 1]!.tMs <= GONE_ON_RATIO * Math.max(...gaps);
}

/**
 * Within the segments: rises summed, time covered, and the one slope that all of them share, in bytes per millisecond.
 */
function between(
  tMs: Float64Array,
  bytes: Float64Array,
  edges: readonly number[],
): { riseBytes: number; flatMs: number; slope: number } {
  let [riseBytes, flatMs, xx, xy] = [0, 0, 0, 0];
  for (let segment = 0; segment + 1 < edges.length; segment++) {
    const [from, to] = [edges[segment]!, edges[segment + 1]!];
    const [x, y] = [tMs.subarray(from, to), bytes.subarray(from, to)];
    flatMs += x[x.length - 1]! - x[0]!;
    riseBytes += riseWithin(x, y);
    const meanX = x.reduce((sum, each) => sum + each, 0) / x.length;
    for (let at = 0; at < x.length; at++) {
      xx += (x[at]! - meanX) ** 2;
      xy += (x[at]! - meanX) * y[at]!;
    }
  }
  return { riseBytes, flatMs, slope: xx > 0 ? xy / xx : 0 };
}

// Schwarz (1978): n·log(RSS/n) + parameters·log n. A level and a place for each segment, against slope and intercept.
function bicOverLine(tMs: Float64Array, bytes: Float64Array, edges: readonly number[]): number {
  const n = bytes.length;
  const line = theilSen(tMs, bytes);
  if (line.kind !== 'slope') return Infinity;
  let lineRss = 0;
  for (let i = 0; i < n; i++) lineRss += (bytes[i]! - line.intercept - line.slope * tMs[i]!) ** 2;
  // One byte of residual at least: exact fits would compare infinities.
  const criterion = (rss: number, parameters: number): number =>
    n * Math.log(Math.max(1, rss)) + parameters * Math.log(n);
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

// Least squares of a line with one bend, which a leak that begins later is: the best of bends at most forty places.
// O(n) each.
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
    xx += x * x;
    xz += x * z;
    zz += z * z;
    xy += x * y;
    zy += z * y;
    yy += y * y;
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

/**
 * Median gap between steps when the gaps' coefficient of variation is below 0.25, and there are three steps at least;
 * else NaN.
 */
export function stepPeriodMs(upward: readonly FloorStep[]): number {
  if (upward.length < 3) return NaN;
  const gaps = upward.slice(1).map((step, i) => step.tMs - upward[i]!.tMs);
  const mean = gaps.reduce((sum, gap) => sum + gap, 0) / gaps.length;
  const variance = gaps.reduce((sum, gap) => sum + (gap - mean) ** 2, 0) / Math.max(1, gaps.length - 1);
  return Math.sqrt(variance) / mean < MOST_PERIOD_VARIATION ? median(gaps) : NaN;
}
