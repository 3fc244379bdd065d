import { blockMinima } from '../../stats/block-minima.ts';
import { median } from '../../stats/quantile.ts';
import { theilSen } from '../../stats/theil-sen.ts';
import { commonStepBytes } from './common-step.ts';
import { lineOf, type Line } from './believed-line.ts';
import { evened } from './even-windows.ts';
import { LineFits } from './line-fit.ts';
import { lastRegime, withoutOutliers, type Regime } from './regimes.ts';
import { staircase, type FloorStep } from './steps.ts';

/** What a series of sizes does; `bursting` is not told by a floor alone. */
export type SeriesKind = 'unclear' | 'steady' | 'growing' | 'stepping' | 'settled' | 'shrinking';

/**
 * How a series of sizes behaves, and since when. Slopes in bytes per second, of the time judged; NaN where nothing can
 * be said.
 */
export interface SeriesVerdict {
  readonly kind: SeriesKind;
  /** For `unclear`, what is missing; else ''. */
  readonly missing: string;
  readonly slopeBytesPerSec: number;
  readonly slopeLow: number;
  readonly slopeHigh: number;
  readonly pValue: number;
  /** Level at the end: by the line where it grows or shrinks, else the median of the time judged. */
  readonly levelBytes: number;
  /** Most that may be added a second for all that the points say; NaN where no line was fitted. */
  readonly mostHiddenPerSec: number;
  /** Least that may be added a second, likewise; below 0 where it may fall. */
  readonly leastHiddenPerSec: number;
  /** The usual least and most of a level that rises and falls and comes back, again and again; NaN for any other. */
  readonly swingLowBytes: number;
  readonly swingHighBytes: number;
  readonly steps: readonly FloorStep[];
  readonly periodMs: number;
  /** Since when it behaves so, with the 95 % interval; NaN where it always did. */
  readonly sinceMs: number;
  readonly sinceLowMs: number;
  readonly sinceHighMs: number;
  /** True for what is seen over a start-up only, or over a short last part of the span. */
  readonly soFar: boolean;
  /** Points and time that the judgement rests on. */
  readonly points: number;
  readonly lengthMs: number;
  /** When the last point is. */
  readonly endMs: number;
}

/** Sizes at instants, in order of time: parallel columns, borrowed. */
export interface SizeSeries {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
}

/** What else is known of a series. */
export interface SeriesContext {
  /** The step in which the source printed the sizes; what is found in the data counts where it is coarser. */
  readonly resolutionBytes?: number;
  /** Growth of less than this over the time judged matters to nobody. */
  readonly leastBytes?: number;
  /** When the program began, by the clock of the series; −Infinity where it had run for long. */
  readonly bornMs?: number;
}

/** Fewer points tell nothing. With so few only what is beyond doubt is believed: their intervals are wide. */
export const LEAST_POINTS = 5;
/** With fewer, ranks cannot tell a trend from chance. */
const LEAST_RANKED = 8;
const MOST_POINTS = 500;
const SIGNIFICANT = 0.01;
/**
 * What is found in a part that was looked for must be as much less a matter of chance; points that remember each other
 * by their factor.
 */
const LOOKED_FOR = 4;
const REMEMBERS = 1.25;
/** How much fewer points remember cannot be told well. */
const ENOUGH_POINTS = 60;
/** Growth below this share of the level is no growth worth a verdict. */
const LEAST_GROWTH_RATIO = 0.05;
/** A level that may have grown by more than this share, for all that its points say, is not called flat. */
const HIDDEN_GROWTH_RATIO = 0.15;
/** Growth of fewer steps of the size than this cannot be told from none. */
const LEAST_TOLD_STEPS = 2;
/** A slope whose interval spans more than this is not known. */
const MOST_INTERVAL_RATIO = 10;
/** The last third "still rises" when its slope is at least this share of the whole's, or may be this share of it. */
const STILL_RISING_RATIO = 0.25;
const MAY_RISE_RATIO = 0.75;
/** A level that may go on rising at more than this share of its pace before is not called settled. */
const MOST_PACE_RATIO = 0.5;
/** A level that rose before is called settled when it has been flat for this share of the time. */
const SETTLED_TIME_RATIO = 0.3;
/** A rise counts when it is this many standard errors of the two levels large. */
const SURE_RISE_ERRORS = 3;
const FIRST_POINTS = 3;
/** What rises at less than this share of the pace is not the same growth. */
const BEGAN_RATIO = 0.5;
/** Parts of the time in each of which a level that swings must come back, and points it takes to see that. */
const QUARTERS = 4;
const LEAST_SWUNG = 24;
/**
 * Of the level: how near it must come back, and how far it swings at least. Smaller swings may be noise around a trend.
 */
const COMES_BACK_RATIO = 0.1;
const LEAST_SWING_RATIO = 0.5;
/**
 * In its first seconds a program loads its code, compiles it and fills what it keeps: growth then is told with care.
 */
const START_UP_MS = 20_000;
/** In a start-up, growth is believed when its second half goes on at this share of the pace at least. */
const STRAIGHT_RATIO = 0.6;
/** Standard error of a median of m normal values is this times σ/√m. */
const MEDIAN_ERROR = 1.2533;

/**
 * Judges a series by the rules of docs/measures.md, *Verdict*: first a staircase, then the last stretch that one line
 * describes. Pure, and all that a verdict says of a trend: the same for the floor, for memory outside the heap and for
 * the process as a whole. O(n²) in at most 500 points, the least of so many stretches where there are more.
 */
export function judgeSeries(
  { tMs, bytes }: SizeSeries,
  { resolutionBytes = 0, bornMs = -Infinity, leastBytes = 0 }: SeriesContext = {},
): SeriesVerdict {
  if (bytes.length < LEAST_POINTS)
    return unclear(`${LEAST_POINTS - bytes.length} more points (${bytes.length} of ${LEAST_POINTS} seen): record on`);
  const reduced = blockMinima(tMs, bytes, MOST_POINTS);
  const { x: times, y } = evened(reduced.x, reduced.y);
  if (y.length < LEAST_POINTS) return unclear('more points at different times');
  const step = Math.max(resolutionBytes, stepOf(bytes));
  const x = times.map((each) => each / 1000);
  const noise = Math.max(noiseOf(y), step / Math.sqrt(12));
  const whole = lineOf(x, y, noise);
  if (whole === null) return unclear('more collections at different times');
  const least = Math.max(LEAST_GROWTH_RATIO * median(y), LEAST_TOLD_STEPS * step, leastBytes);
  const stairs = staircase(times, y, step);
  if (stairs !== null && whole.pValue < SIGNIFICANT && whole.low > 0 && stairs.netBytes > least) {
    return {
      ...told('stepping', whole),
      levelBytes: median(y.subarray(stairs.lastFrom)),
      steps: stairs.steps,
      periodMs: stairs.periodMs,
    };
  }
  const regime = lastRegime(x, y, noise);
  const judged: Judged = {
    x,
    y,
    noise,
    step,
    whole,
    least,
    regime,
    part: regime.from === 0 ? whole : lineOf(x.subarray(regime.from), y.subarray(regime.from), noise),
    bornSec: bornMs / 1000,
  };
  const verdict = kindOf(judged);
  return verdict.kind === 'growing' && !beganThen(judged, verdict.slopeBytesPerSec)
    ? verdict
    : { ...verdict, ...sinceOf(times, regime) };
}

interface Judged {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly noise: number;
  readonly step: number;
  readonly whole: Line;
  /** The last stretch and its line; null where it has too few points for one. */
  readonly part: Line | null;
  readonly regime: Regime;
  /** Growth that counts. */
  readonly least: number;
  readonly bornSec: number;
}

function kindOf(judged: Judged): SeriesVerdict {
  const { part, whole, least, regime } = judged;
  if (part === null) return unclear('more floor points: memory changed at the end; record on', whole);
  const seconds = part.toSec - part.fromSec;
  if (rises(part, least, seconds) && isBelieved(judged, part)) return growth(judged, part);
  const hidden = Math.max(HIDDEN_GROWTH_RATIO * part.level, least);
  const isFlat = part.mostSlope * seconds <= hidden && part.slope * seconds <= least && -part.slope * seconds <= hidden;
  if (isBelieved(judged, part) && part.high < 0 && -part.slope * seconds > least) return told('shrinking', part);
  const rose = risen(judged);
  const lastsLong = seconds >= SETTLED_TIME_RATIO * (whole.toSec - whole.fromSec);
  const paceBefore = rose / (part.fromSec - whole.fromSec);
  if (isFlat && rose > least && part.mostSlope > MOST_PACE_RATIO * paceBefore) return unclear(openBounds(true), part);
  if (isFlat && rose > least)
    return lastsLong
      ? told('settled', part)
      : unclear('more floor points: memory rose, and has been flat for a short while only; record on', part);
  if (isFlat && (regime.from === 0 || lastsLong || -rose <= least)) return told('steady', part);
  return (
    swinging(judged) ?? unclear(openBounds(rose > least || rises(whole, least, whole.toSec - whole.fromSec)), part)
  );
}

function isBelieved({ regime }: Judged, part: Line): boolean {
  const doubt =
    Math.max(1, part.memory / REMEMBERS) *
    (regime.from > 0 ? LOOKED_FOR : 1) *
    Math.max(1, ENOUGH_POINTS / part.points);
  return part.pValue * doubt < SIGNIFICANT;
}

// A level that comes back to the same least and the same most in each quarter of the time goes nowhere, however far it
// swings between.
function swinging({ x, y, whole }: Judged): SeriesVerdict | null {
  if (y.length < LEAST_SWUNG) return null;
  const seconds = whole.toSec - whole.fromSec;
  if (!(seconds > 0)) return null;
  const quarters = Array.from({ length: QUARTERS }, (): number[] => []);
  for (let at = 0; at < y.length; at++)
    quarters[Math.max(0, Math.min(QUARTERS - 1, Math.floor(((x[at]! - whole.fromSec) / seconds) * QUARTERS)))]!.push(
      y[at]!,
    );
  if (quarters.some((quarter) => quarter.length < LEAST_SWUNG / (2 * QUARTERS))) return null;
  const lows = quarters.map((quarter) => Math.min(...quarter));
  const highs = quarters.map((quarter) => Math.max(...quarter));
  const range = (values: readonly number[]): number => Math.max(...values) - Math.min(...values);
  const most = COMES_BACK_RATIO * whole.level;
  const swing = median(highs) - median(lows);
  if (range(lows) > most || range(highs) > most || swing < LEAST_SWING_RATIO * whole.level) return null;
  return {
    ...told('steady', whole),
    mostHiddenPerSec: range(lows) / (seconds * (1 - 1 / QUARTERS)),
    swingLowBytes: median(lows),
    swingHighBytes: median(highs),
  };
}

function rises(line: Line, least: number, seconds: number): boolean {
  const isSignificant = line.points >= LEAST_RANKED ? line.pValue < SIGNIFICANT && line.low > 0 : line.leastSlope > 0;
  return isSignificant && line.slope * seconds > least;
}

// A line that rises is growth when it is straight to its end, known within an order of magnitude, higher than before,
// and no mere start-up.
function growth(judged: Judged, part: Line): SeriesVerdict {
  const { x, y, whole, regime, step, noise, bornSec } = judged;
  const [xs, ys] = [x.subarray(regime.from), y.subarray(regime.from)];
  const third = Math.floor((ys.length * 2) / 3);
  const late = lineOf(xs.subarray(third), ys.subarray(third), noise);
  // Few noisy points of the end may look flat by chance: it does not rise any more where its slope is surely less than
  // the whole's.
  const stillRises =
    late === null
      ? slopeOf(xs.subarray(third), ys.subarray(third)) > STILL_RISING_RATIO * part.slope
      : late.slope > STILL_RISING_RATIO * part.slope ||
        (late.mostSlope > MAY_RISE_RATIO * part.slope && !isRatherOneStep(xs, ys));
  // What the last third would add is lost in the steps of the sizes: that it looks flat tells nothing.
  const tooCoarse = part.slope * (part.toSec - xs[third]!) <= LEAST_TOLD_STEPS * step;
  const known =
    part.low > 0
      ? part.high <= MOST_INTERVAL_RATIO * part.low
      : part.mostSlope <= MOST_INTERVAL_RATIO * part.leastSlope;
  if (!(tooCoarse || stillRises) || !known) return unclear(openBounds(true), part);
  const before = withoutOutliers(y.subarray(0, regime.from)).reduce((most, each) => Math.max(most, each), -Infinity);
  if (part.intercept + part.slope * part.toSec < before - 2 * noise)
    return unclear('more floor points: memory rises again, and was higher before; record on', part);
  const isStartUp = part.toSec * 1000 - bornSec * 1000 < START_UP_MS;
  if (isStartUp && !isStraight(xs, ys, part, noise))
    return unclear(
      `a longer recording: it has seen the program’s first ${Math.round(part.toSec - bornSec)} s, in which most programs rise; record on`,
      part,
    );
  const soFar = isStartUp || part.toSec - part.fromSec < SETTLED_TIME_RATIO * (whole.toSec - whole.fromSec);
  return { ...told('growing', part), soFar };
}

// One step fits better than a line: two levels leave less than it.
function isRatherOneStep(x: Float64Array, y: Float64Array): boolean {
  const fits = new LineFits(x, withoutOutliers(y));
  const line = fits.fit(0, y.length).rss;
  for (let at = 1; at < y.length; at++) if (fits.levelRss(0, at) + fits.levelRss(at, y.length) < line) return true;
  return false;
}

// A line is cut off a start-up as well: growth began there only if what came before rose at less than half the pace.
function beganThen({ x, y, regime }: Judged, slope: number): boolean {
  return (
    regime.from > 0 &&
    (regime.from < 2 || new LineFits(x, withoutOutliers(y)).fit(0, regime.from).slope < BEGAN_RATIO * slope)
  );
}

function slopeOf(x: Float64Array, y: Float64Array): number {
  const line = theilSen(x, y);
  return line.kind === 'slope' ? line.slope : NaN;
}

function isStraight(x: Float64Array, y: Float64Array, part: Line, noise: number): boolean {
  const half = y.length >> 1;
  const late = lineOf(x.subarray(half), y.subarray(half), noise);
  return (
    late !== null && late.leastSlope > 0 && late.slope >= STRAIGHT_RATIO * part.slope && y.length >= 2 * LEAST_RANKED
  );
}

/** How far the level judged lies above the first points; 0 where that may be noise. */
function risen({ y, regime, part, noise }: Judged): number {
  const first = median(y.subarray(0, Math.min(FIRST_POINTS, Math.max(1, regime.from))));
  if (regime.from === 0) return 0;
  const rise = part!.level - first;
  return Math.abs(rise) >
    SURE_RISE_ERRORS * noise * MEDIAN_ERROR * Math.sqrt(1 / Math.min(FIRST_POINTS, regime.from) + 1 / part!.points)
    ? rise
    : 0;
}

/** What the points leave open: more of them narrow it. The caller makes words of the bounds. */
function openBounds(rose: boolean): string {
  if (rose) return 'more floor points: memory rose, and whether it still does cannot be told; record on';
  return OPEN;
}

/** Says that the slope’s bounds are what is known. */
export const OPEN = 'open';

function told(kind: SeriesKind, line: Line): SeriesVerdict {
  const follows = kind === 'growing' || kind === 'shrinking';
  return {
    kind,
    missing: '',
    slopeBytesPerSec: line.slope,
    slopeLow: line.low,
    slopeHigh: line.high,
    pValue: line.pValue,
    levelBytes: follows ? line.intercept + line.slope * line.toSec : line.level,
    mostHiddenPerSec: Math.max(0, line.mostSlope),
    leastHiddenPerSec: line.leastSlope,
    steps: [],
    periodMs: NaN,
    swingLowBytes: NaN,
    swingHighBytes: NaN,
    sinceMs: NaN,
    sinceLowMs: NaN,
    sinceHighMs: NaN,
    soFar: false,
    points: line.points,
    lengthMs: (line.toSec - line.fromSec) * 1000,
    endMs: line.toSec * 1000,
  };
}

function unclear(missing: string, line: Line | null = null): SeriesVerdict {
  return { ...(line === null ? BLANK : { ...told('unclear', line), levelBytes: NaN }), kind: 'unclear', missing };
}

/** What is said of too few points: nothing. */
export const BLANK: SeriesVerdict = {
  kind: 'unclear',
  missing: '',
  slopeBytesPerSec: NaN,
  slopeLow: NaN,
  slopeHigh: NaN,
  pValue: NaN,
  levelBytes: NaN,
  mostHiddenPerSec: NaN,
  leastHiddenPerSec: NaN,
  steps: [],
  periodMs: NaN,
  swingLowBytes: NaN,
  swingHighBytes: NaN,
  sinceMs: NaN,
  sinceLowMs: NaN,
  sinceHighMs: NaN,
  soFar: false,
  points: 0,
  lengthMs: 0,
  endMs: NaN,
};

function sinceOf(tMs: Float64Array, regime: Regime): Partial<SeriesVerdict> {
  if (regime.from === 0) return {};
  return { sinceMs: tMs[regime.from]!, sinceLowMs: tMs[regime.earliest]!, sinceHighMs: tMs[regime.latest]! };
}

// The step in which sizes come, unless it is a matter of chance: few values have much in common.
function stepOf(bytes: Float64Array): number {
  const step = commonStepBytes(bytes);
  const first = bytes[0];
  const second = bytes.find((each) => each !== first);
  const isByChance = bytes.every((each) => each === first || each === second);
  return isByChance ? Math.min(step, 2 * 1024 * 1024) : step;
}

/** σ̂ of the points around their level or line, by how the differences of neighbours lie around their median. */
function noiseOf(y: Float64Array): number {
  const differences = Float64Array.from({ length: y.length - 1 }, (_, at) => y[at + 1]! - y[at]!);
  const usual = median(differences);
  return (1.4826 * median(differences.map((each) => Math.abs(each - usual)))) / Math.SQRT2;
}
