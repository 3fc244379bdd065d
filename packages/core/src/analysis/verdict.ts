import { spanLengthMs, type Span } from '../base/span.ts';
import { heapsApart } from '../model/recording-part.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { formatBytes } from '../base/units.ts';
import { blockMinima } from '../stats/block-minima.ts';
import { mannKendall } from '../stats/mann-kendall.ts';
import { median } from '../stats/quantile.ts';
import { theilSen } from '../stats/theil-sen.ts';
import { floorPoints, usedAfterPoints, type Floor } from './floor.ts';
import { findStorms, type Storm } from './storms.ts';
import { floorSteps, type FloorStep, type StepFigures } from './steps.ts';

export type VerdictKind = 'unclear' | 'steady' | 'growing' | 'stepping' | 'settled' | 'shrinking' | 'bursting';

/** How memory behaves over a span, with what the judgement rests on. Slopes in bytes per second; NaN where not computed. */
export interface Verdict {
  readonly kind: VerdictKind;
  /** For `unclear`, what is missing; else ''. */
  readonly missing: string;
  readonly floor: Floor;
  readonly slopeBytesPerSec: number;
  readonly slopeLow: number;
  readonly slopeHigh: number;
  /** Floor at the span's end, in bytes: by the fitted line where memory grows or shrinks, else the median of the last third. */
  readonly floorNowBytes: number;
  readonly pValue: number;
  readonly steps: readonly FloorStep[];
  readonly periodMs: number;
  /** Milliseconds from the span's end; NaN without a limit or growth. */
  readonly timeToLimitMs: number;
  readonly timeToLimitLowMs: number;
  readonly timeToLimitHighMs: number;
  readonly limitBytes: number;
  /**
   * Name of the heap that reaches its own limit first; '' where each of several heaps has one and none is surely on its way there; null
   * where there is one heap, or the limit is that of all together.
   */
  readonly limitHeap: string | null;
  /** When the floor came within 10 % of the limit, or whole-heap collections began to pile up; NaN when neither did. */
  readonly exhaustedMs: number;
}

const LEAST_POINTS = 8;
const LEAST_WHOLE = 3;
const MOST_POINTS = 2000;
const SIGNIFICANT = 0.01;
/** Growth below this share of the median floor is no growth worth a verdict. */
const LEAST_GROWTH_RATIO = 0.05;
const LEAST_STEPS = 3;
const STEPS_CARRY_RATIO = 0.7;
/** The last third "still rises" when its slope is at least this share of the whole's, by its median or by its mean. */
const STILL_RISING_RATIO = 0.25;
const BURST_RATIO = 2;
/** A floor this near the limit can rise no further: what comes after tells nothing about growth. */
const AT_LIMIT_RATIO = 0.9;
/** A staircase has at least this many points a step; a ramp over-cut by change points has fewer. */
const LEAST_POINTS_PER_STEP = 3;
const LEAST_FLAT_RATIO = 0.5;
/** A last third that may rise by more than this share of the usual slope is not surely flat. */
const SURELY_FLAT_RATIO = 0.5;
/** A rise from the first points to the last third is one when it is this many standard errors large. */
const SURE_RISE_ERRORS = 3;
const FIRST_POINTS = 3;
/** A floor that may have grown by more than this share, for all that its points say, is not called steady. */
const HIDDEN_GROWTH_RATIO = 0.25;
/** Growth of fewer units of the printed digit than this cannot be told from none. */
const LEAST_TOLD_UNITS = 2;

interface Trend {
  readonly slope: number;
  readonly low: number;
  readonly high: number;
  readonly intercept: number;
  readonly pValue: number;
  readonly points: number;
  readonly medianBytes: number;
  /** Growth along the line over the floor's points. */
  readonly growthBytes: number;
  /** What the last third's median is above the first point, over the length. */
  readonly meanSlope: number;
  readonly lastThirdSlope: number;
  /** Upper end of the interval of the last third's slope. */
  readonly lastThirdHigh: number;
  /** Growth by the slope's upper end over the floor's points. */
  readonly mostGrowthBytes: number;
  /** True when what the last third is above the first points is more than noise. */
  readonly surelyRose: boolean;
  /** When the last third begins, and how long it is. */
  readonly lastThirdMs: number;
  readonly lastThirdSec: number;
  readonly lastThirdGrowthBytes: number;
  readonly roseBytes: number;
}

/**
 * Judges the floor of the span, by the rules and in the order of docs/measures.md. Several heaps are judged by the sum of their floors, and
 * each is held against its own limit. O(n²) in at most 2,000 floor points, for each heap.
 */
export function judge(recording: Recording, span: Span): Verdict {
  const heaps = heapsApart(recording);
  const floor = floorPoints(recording, span);
  if (heaps.length === 1) return judgeFloor(recording, span, floor, exhaustionMs(recording, span, floor));
  const together = judgeFloor(recording, span, floor, earliest(heaps.map((heap) => exhaustionMs(heap, span, floorPoints(heap, span)))));
  // A limit that was given, as of a container, is that of all heaps together.
  return Number.isNaN(recording.givenLimitBytes) ? { ...together, ...nearestLimit(heaps, together, span) } : together;
}

function nearestLimit(heaps: readonly Recording[], together: Verdict, span: Span): Partial<Verdict> {
  const none = { limitHeap: '', timeToLimitMs: NaN, timeToLimitLowMs: NaN, timeToLimitHighMs: NaN };
  if (!isRising(together.kind)) return none;
  let nearest: Partial<Verdict> = none;
  for (const heap of heaps) {
    const { timeToLimitMs, timeToLimitLowMs, timeToLimitHighMs, limitBytes } = judge(heap, span);
    if (Number.isNaN(timeToLimitMs) || timeToLimitMs >= nearest.timeToLimitMs!) continue;
    nearest = { limitHeap: heap.heaps[heap.chosenHeaps![0]!]!.name, limitBytes, timeToLimitMs, timeToLimitLowMs, timeToLimitHighMs };
  }
  return nearest;
}

function isRising(kind: VerdictKind): boolean {
  return kind === 'growing' || kind === 'stepping';
}

function judgeFloor(recording: Recording, span: Span, floor: Floor, exhaustedMs: number): Verdict {
  // Once the heap is full its floor is flat because nothing more fits: the trend is that of the time before.
  const before = Number.isNaN(exhaustedMs) ? floor : floorBefore(recording, { fromMs: span.fromMs, toMs: exhaustedMs });
  const judged = before.tMs.length >= LEAST_POINTS ? before : floor;
  const missing = missingEvidence(floor, recording);
  const points = blockMinima(judged.tMs, judged.bytes, MOST_POINTS);
  const trend = missing === '' ? measureTrend(points.x, points.y) : null;
  if (trend === null) return unclear(floor, missing === '' ? 'more collections at different times' : missing, recording, exhaustedMs);
  const resolutionBytes = printedResolution(recording);
  const steps = floorSteps(points.x, points.y, resolutionBytes);
  const kind = kindOf(trend, steps, { recording, span, resolutionBytes });
  if (kind === 'unclear') return { ...unclear(floor, missingCertainty(trend), recording, exhaustedMs), slopeBytesPerSec: trend.slope, slopeLow: trend.low, slopeHigh: trend.high, pValue: trend.pValue };
  if (!Number.isNaN(exhaustedMs) && judged !== before && !isRising(kind)) {
    return unclear(floor, 'a record of the time before the heap was full', recording, exhaustedMs);
  }
  const limitBytes = recording.limitBytes();
  const rising = isRising(kind);
  // A line that is not believed says nothing of where the floor is now.
  const followsLine = rising || kind === 'shrinking';
  const floorNowBytes = followsLine ? trend.intercept + trend.slope * (span.toMs / 1000) : median(points.y.subarray(Math.floor((points.y.length * 2) / 3)));
  const toLimit = (slope: number): number => (rising && slope > 0 ? (Math.max(0, limitBytes - floorNowBytes) / slope) * 1000 : NaN);
  return {
    kind, missing: '', floor,
    slopeBytesPerSec: trend.slope, slopeLow: trend.low, slopeHigh: trend.high, floorNowBytes, pValue: trend.pValue,
    steps: kind === 'stepping' ? steps.steps : [],
    periodMs: kind === 'stepping' ? steps.periodMs : NaN,
    timeToLimitMs: toLimit(trend.slope), timeToLimitLowMs: toLimit(trend.high), timeToLimitHighMs: toLimit(trend.low), limitBytes, limitHeap: null, exhaustedMs,
  };
}

// The coarsest step in which any collection's sizes were printed; 0 when none says.
function printedResolution(recording: Recording): number {
  const { collections } = recording.tables;
  let coarsest = 0;
  for (let row = 0; row < collections.length; row++) coarsest = Math.max(coarsest, collections.col.resolutionBytes[row]! || 0);
  return coarsest;
}

function exhaustionMs(recording: Recording, span: Span, floor: Floor): number {
  // A limit that was given may lie anywhere: only the heap's own keeps it from rising.
  const limit = recording.heapLimitBytes();
  const full = floor.bytes.findIndex((bytes) => bytes >= AT_LIMIT_RATIO * limit);
  const storms = findStorms(recording, span).filter((storm) => gaveLittle(recording, storm));
  return earliest([full < 0 ? NaN : floor.tMs[full]!, storms[0]?.fromMs ?? NaN]);
}

// NaN where there is none.
function earliest(times: readonly number[]): number {
  return times.reduce((first, tMs) => (tMs >= first || Number.isNaN(tMs) ? first : tMs), NaN);
}

// The collections of the full heap gave next to nothing back, so what those before it left behind was live as well.
function floorBefore(recording: Recording, free: Span): Floor {
  const floor = floorPoints(recording, free);
  return floor.tMs.length >= LEAST_POINTS ? floor : usedAfterPoints(recording, free);
}

function gaveLittle(recording: Recording, storm: Storm): boolean {
  const { usedBeforeBytes, usedAfterBytes } = recording.tables.collections.col;
  const gains = storm.rows.map((row) => 1 - usedAfterBytes[row]! / usedBeforeBytes[row]!);
  return median(gains) < LEAST_GROWTH_RATIO;
}

function missingEvidence(floor: Floor, recording: Recording): string {
  if (!recording.hasClock) return 'a clock: the log was written without time stamps';
  if (floor.wholeCollections < LEAST_WHOLE) {
    return `${LEAST_WHOLE - floor.wholeCollections} more whole-heap collections (${floor.wholeCollections} of ${LEAST_WHOLE} seen): force one, or record on`;
  }
  if (floor.tMs.length < LEAST_POINTS) return `${LEAST_POINTS - floor.tMs.length} more floor points (${floor.tMs.length} of ${LEAST_POINTS} seen): record on`;
  return '';
}

// What the points leave open: more of them narrow the slope's interval.
function missingCertainty(trend: Trend): string {
  const grows = trend.pValue < SIGNIFICANT && trend.low > 0;
  if (grows || trend.surelyRose) return 'more floor points: memory rose, and whether it still does cannot be told; record on';
  return `more floor points: between ${formatBytes(trend.low * 60)} and ${formatBytes(trend.high * 60)} a minute are possible; record on`;
}

function unclear(floor: Floor, missing: string, recording: Recording, exhaustedMs: number): Verdict {
  return {
    kind: 'unclear', missing, floor, slopeBytesPerSec: NaN, slopeLow: NaN, slopeHigh: NaN, floorNowBytes: NaN, pValue: NaN,
    steps: [], periodMs: NaN, timeToLimitMs: NaN, timeToLimitLowMs: NaN, timeToLimitHighMs: NaN, limitBytes: recording.limitBytes(),
    limitHeap: null, exhaustedMs,
  };
}

function measureTrend(tMs: Float64Array, bytes: Float64Array): Trend | null {
  const seconds = tMs.map((t) => t / 1000);
  const test = mannKendall(seconds, bytes);
  if (test.kind !== 'trend-test') return null;
  const line = theilSen(seconds, bytes, test.varianceFactor);
  if (line.kind !== 'slope') return null;
  const third = Math.floor((bytes.length * 2) / 3);
  const lastThird = theilSen(seconds.subarray(third), bytes.subarray(third));
  const lastThirdSlope = lastThird.kind === 'slope' ? lastThird.slope : 0;
  const roseBytes = median(bytes.subarray(third)) - median(bytes.subarray(0, FIRST_POINTS));
  const lengthSec = seconds[seconds.length - 1]! - seconds[0]!;
  return {
    slope: line.slope, low: line.low, high: line.high, intercept: line.intercept, pValue: test.pValue,
    points: bytes.length,
    medianBytes: median(bytes),
    growthBytes: line.slope * lengthSec,
    meanSlope: roseBytes / lengthSec,
    lastThirdSlope,
    lastThirdHigh: lastThird.kind === 'slope' ? lastThird.high : Infinity,
    mostGrowthBytes: line.high * lengthSec,
    surelyRose: roseBytes > SURE_RISE_ERRORS * noiseOf(bytes) * MEDIAN_ERROR * Math.sqrt(1 / FIRST_POINTS + 1 / (bytes.length - third)),
    lastThirdMs: tMs[third]!,
    lastThirdSec: seconds[seconds.length - 1]! - seconds[third]!,
    lastThirdGrowthBytes: lastThirdSlope * (seconds[seconds.length - 1]! - seconds[third]!),
    roseBytes,
  };
}

/** Standard error of a median of m normal values is this times σ/√m. */
const MEDIAN_ERROR = 1.2533;

// σ̂ of the points around their level or slope, by the median absolute first difference (as for PELT's penalty).
function noiseOf(bytes: Float64Array): number {
  const differences = Float64Array.from({ length: Math.max(0, bytes.length - 1) }, (_, i) => Math.abs(bytes[i + 1]! - bytes[i]!));
  return differences.length === 0 ? 0 : (1.4826 * median(differences)) / Math.SQRT2;
}

interface Judged {
  readonly recording: Recording;
  readonly span: Span;
  readonly resolutionBytes: number;
}

function kindOf(trend: Trend, figures: StepFigures, { recording, span, resolutionBytes }: Judged): VerdictKind {
  const least = LEAST_GROWTH_RATIO * trend.medianBytes;
  if (isStepping(trend, figures, least)) return 'stepping';
  const usualSlope = Math.max(trend.slope, trend.meanSlope);
  // What the last third would add is lost in the rounding of the printed sizes: that it looks flat tells nothing.
  const tooCoarse = usualSlope * trend.lastThirdSec <= LEAST_TOLD_UNITS * resolutionBytes;
  const stillRises = tooCoarse || trend.lastThirdSlope > STILL_RISING_RATIO * usualSlope;
  const significant = trend.pValue < SIGNIFICANT;
  const grows = significant && trend.low > 0 && trend.growthBytes > least;
  if (grows && stillRises) return 'growing';
  const rose = trend.surelyRose && trend.roseBytes > least;
  const looksFlat = !tooCoarse && Math.abs(trend.lastThirdGrowthBytes) <= least;
  if ((grows || rose) && looksFlat && isSurelyFlat(trend, usualSlope, least)) return 'settled';
  if (significant && trend.high < 0 && -trend.growthBytes > least) return 'shrinking';
  if (grows || rose) return 'unclear';
  if (hasBurst(recording, span)) return 'bursting';
  return trend.mostGrowthBytes > HIDDEN_GROWTH_RATIO * trend.medianBytes ? 'unclear' : 'steady';
}

// All that the last third may have added is little, or far less than was added before.
function isSurelyFlat(trend: Trend, usualSlope: number, least: number): boolean {
  return trend.lastThirdHigh * trend.lastThirdSec <= least || trend.lastThirdHigh <= SURELY_FLAT_RATIO * usualSlope;
}

// The steps must carry the growth, and the floor must be flat between them: a ramp cut into pieces is no staircase.
function isStepping(trend: Trend, figures: StepFigures, least: number): boolean {
  const upward = figures.steps.filter((step) => step.bytes > 0);
  if (upward.length < LEAST_STEPS || figures.bicOverLine >= 0) return false;
  // A warm-up can be cut into steps as well, but its steps end.
  if (!upward.some((step) => step.tMs >= trend.lastThirdMs)) return false;
  if (figures.observedFlatRatio < LEAST_FLAT_RATIO) return false;
  if (trend.points < LEAST_POINTS_PER_STEP * (figures.steps.length + 1)) return false;
  const risen = upward.reduce((sum, step) => sum + step.bytes, 0);
  const grown = risen + figures.withinBytes;
  const net = figures.steps.reduce((sum, step) => sum + step.bytes, 0);
  return net > least && net >= STEPS_CARRY_RATIO * risen && risen >= STEPS_CARRY_RATIO * grown && trend.slope > 0;
}

// A peak before a young collection alone may be garbage that waited longer, because the collector had given itself more room: demand is then
// what is still there after it. Collections that the recorder forced come when they come, and say nothing of how far the heap fills.
function hasBurst(recording: Recording, span: Span): boolean {
  const { startMs, usedBeforeBytes, usedAfterBytes, flags, scope } = recording.tables.collections.col;
  const [before, after]: [number[], number[]] = [[], []];
  let [peak, isYoung] = [0, false];
  for (let row = 0; row < recording.tables.collections.length; row++) {
    if (startMs[row]! < span.fromMs || startMs[row]! > span.toMs || flags[row]! & CollectionFlag.own) continue;
    if (usedBeforeBytes[row]! > 0) before.push(usedBeforeBytes[row]!);
    if (usedAfterBytes[row]! > 0) after.push(usedAfterBytes[row]!);
    if (usedBeforeBytes[row]! > peak) [peak, isYoung] = [usedBeforeBytes[row]!, scope[row] === Scope.young];
  }
  return spanLengthMs(span) > 0 && standsOut(before) && (!isYoung || standsOut(after));
}

function standsOut(levels: readonly number[]): boolean {
  return levels.length > 0 && levels.reduce((a, b) => Math.max(a, b)) > BURST_RATIO * median(levels);
}
