import { survivalCurve, type SurvivalCurve, shareBand } from '../../stats/survival-curve.ts';
import { CLASSES } from '../median-lifetimes.ts';
import { ageOfClass } from './lives.ts';
import type { AgeKind } from './age-meter.ts';
import type { LifeTable, LivesByGroup } from './life-tables.ts';

/** One point of a curve: the share that is older than an age, with its band, and how much was at risk there. */
export interface CurvePoint {
  /** Milliseconds, collections or bytes. */
  readonly age: number;
  /** 95 % bounds, of the sampling and of when deaths could have happened. */
  readonly low: number;
  readonly estimate: number;
  readonly high: number;
  /** The same with deaths as early, and as late, as they can have been, without the error of sampling. */
  readonly earliest: number;
  readonly latest: number;
  /** Samples at risk. */
  readonly atRisk: number;
}

/** The age by which a share is dead, as an interval; null where it is not reached. */
export interface AgeRange {
  readonly low: number | null;
  readonly high: number | null;
}

/** How long a group of lives lasts. */
export interface GroupSurvival {
  /** Objects and flows seen. */
  readonly samples: number;
  /** What they stand for, and its standard error. */
  readonly weight: number;
  readonly weightSe: number;
  readonly curve: readonly CurvePoint[];
  readonly median: AgeRange;
  readonly p90: AgeRange;
  /** Weight dead by the end, and the oldest age seen. */
  readonly diedWeight: number;
  readonly oldest: number;
  /** Why there is no curve, and what would give one; '' where there is. */
  readonly missing: string;
}

/** The share that is older than an age, with its band; null beyond what was seen. */
export function shareAt(curve: readonly CurvePoint[], age: number): CurvePoint | null {
  if ((curve[curve.length - 1]?.age ?? -1) < age) return null;
  return curve.findLast((point) => point.age <= age) ?? null;
}

/** Fewer samples than this tell of single objects, not of a group. */
const LEAST_SAMPLES = 10;
const LEAST_DEATHS = 1;
/** Points of a curve are never closer than this share of a step down. */
const MOST_POINTS = 120;

/** How long the lives of each group last, and all of them. */
export interface LivesSurvival {
  readonly whole: GroupSurvival;
  readonly groups: readonly GroupSurvival[];
}

/**
 * Survival of all lives and of each group. Three curves each (stats/survival-curve.ts): with deaths as early as they can
 * have been, as late, and in the middle of the two, which is the estimate. Its variance is that of sampling, by the
 * influence of each life on the logarithm of the curve (Reid 1981), which is Greenwood's where every life counts alike.
 * One pass over the lives, and one over the classes a group.
 */
export function survivalOf(grouped: LivesByGroup, kind: AgeKind): LivesSurvival {
  // All of them stand behind the groups.
  const tables = [...grouped.groups, grouped.whole];
  const curves = tables.map(({ entered, middle, left }) => survivalCurve({ entered, died: middle.died, left }));
  const errors = influences(grouped, curves);
  const told = tables.map((table, at) => groupSurvival(table, curves[at]!, errors[at]!, kind));
  return { whole: told.pop()!, groups: told };
}

/** Variance of the logarithm of a group's curve at each class, and of what it rests on. */
interface CurveError {
  readonly logVariance: Float64Array;
  /** Variance of the weight of which it is known whether it is older than each class: at risk there, or dead by then. */
  readonly knownVariance: Float64Array;
}

/** Sums by group and class of what lives add to the variance: by itself, by the hazard they entered at, its square. */
interface HazardSums {
  readonly one: Float64Array;
  readonly by: Float64Array;
  readonly square: Float64Array;
}

/**
 * What sampling leaves open of each curve. A life's influence on log S(t) is the hazard sum over the classes in which it
 * was at risk up to t, less 1/(n − d) where it died by t; squares of them, weighted by what the life adds to the variance
 * of a sum, add up. Lives that are over by t are constant; of those still at risk the sum goes on.
 */
function influences({ lives, groupOf }: LivesByGroup, curves: readonly SurvivalCurve[]): CurveError[] {
  const size = curves.length * CLASSES;
  const sums = (): HazardSums => ({
    one: new Float64Array(size),
    by: new Float64Array(size),
    square: new Float64Array(size),
  });
  const [ends, enters, settled, censored] = [sums(), sums(), new Float64Array(size), new Float64Array(size)];
  const hazards = new Float64Array(size);
  const rests = new Float64Array(size);
  curves.forEach(({ hazard, atRisk, survival }, group) => {
    hazards.set(hazard, group * CLASSES);
    for (let age = 0; age < CLASSES; age++)
      rests[group * CLASSES + age] = atRisk[age]! * (survival[age]! / ((age > 0 ? survival[age - 1]! : 1) || 1));
  });
  const { entry, middle, dead, variance: variances, originId } = lives;
  const add = (group: number, row: number, variance: number): void => {
    const [from, at] = [group * CLASSES + entry[row]!, group * CLASSES + middle[row]!];
    const before = entry[row] === 0 ? 0 : hazards[from - 1]!;
    enters.one[from]! += variance;
    ends.one[at]! += variance;
    if (before !== 0) {
      enters.by[from]! += variance * before;
      enters.square[from]! += variance * before * before;
      ends.by[at]! += variance * before;
      ends.square[at]! += variance * before * before;
    }
    const isDead = dead[row] === 1;
    if (!isDead) censored[at]! += variance;
    const influence = hazards[at]! - before - (isDead ? 1 / rests[at]! : 0);
    if (Number.isFinite(influence)) settled[at]! += variance * influence * influence;
  };
  for (let row = 0; row < lives.length; row++) {
    const variance = variances[row]!;
    if (variance === 0) continue;
    const group = groupOf[originId[row]!]!;
    if (group >= 0) add(group, row, variance);
    add(curves.length - 1, row, variance);
  }
  return curves.map(({ hazard }, group) => {
    const logVariance = new Float64Array(CLASSES);
    const knownVariance = new Float64Array(CLASSES);
    let [one, by, square, done, known] = [0, 0, 0, 0, 0];
    for (let age = 0; age < CLASSES; age++) {
      const at = group * CLASSES + age;
      one += enters.one[at]!;
      by += enters.by[at]!;
      square += enters.square[at]!;
      known += enters.one[at]!;
      knownVariance[age] = known;
      known -= censored[at]!;
      one -= ends.one[at]!;
      by -= ends.by[at]!;
      square -= ends.square[at]!;
      done += settled[at]!;
      const sum = hazard[age]!;
      logVariance[age] = sum === Infinity ? Infinity : Math.max(0, done + sum * sum * one - 2 * sum * by + square);
    }
    return { logVariance, knownVariance };
  });
}

function groupSurvival(sum: LifeTable, curve: SurvivalCurve, error: CurveError, kind: AgeKind): GroupSurvival {
  const told = {
    samples: sum.samples,
    weight: sum.weight,
    weightSe: Math.sqrt(sum.variance),
    diedWeight: sum.died,
    oldest: ageOfClass(kind, sum.oldest),
  };
  const missing = missingOf(sum);
  if (missing !== '') return { ...told, curve: [], median: NOTHING, p90: NOTHING, missing };
  const { entered, left } = sum;
  const early = survivalCurve({ entered, died: sum.early.died, left }).survival;
  const late = survivalCurve({ entered, died: sum.late.died, left }).survival;
  // Counted, since sums of weights miss each other by their last digits.
  const counts = survivalCurve({ entered: sum.came, died: sum.middle.count, left: sum.leftCount }).atRisk;
  const lateCounts = survivalCurve({ entered: sum.came, died: sum.late.count, left: sum.leftCount }).atRisk;
  const points: CurvePoint[] = [];
  let last = 2;
  // What came into sight less what left it alive: of that much it is known.
  let known = 0;
  // Beyond what was seen nothing is known, nor beyond an age at which none was.
  for (let age = 0; age <= sum.oldest && (counts[age]! > 0 || lateCounts[age]! > 0); age++) {
    known += entered[age]! - (age > 0 ? left[age - 1]! : 0);
    // What lives is nowhere between two whole numbers.
    if (kind === 'collections' && !Number.isInteger(ageOfClass(kind, age))) continue;
    const samples = effective(known, error.knownVariance[age]!);
    const estimate = curve.survival[age]!;
    const isLast = age === sum.oldest;
    const moved = Math.max(last - late[age]!, last - estimate, last - early[age]!) >= 1 / MOST_POINTS;
    if (points.length > 0 && !moved && !isLast && age % EVERY_CLASS !== 0) continue;
    last = estimate;
    const variance = estimate * estimate * error.logVariance[age]!;
    const [least, most] = [Math.min(early[age]!, estimate), Math.max(late[age]!, estimate)];
    const spread = (share: number): { low: number; high: number } =>
      shareBand(share, scaled(variance, share, estimate), samples);
    points.push({
      age: kind === 'collections' ? ageOfClass(kind, age) : ageOfClass(kind, age + 1),
      low: spread(least).low,
      estimate,
      high: spread(most).high,
      earliest: least,
      latest: most,
      atRisk: counts[age]!,
    });
  }
  return { ...told, curve: points, median: rangeOf(points, HALF), p90: rangeOf(points, 1 - 0.9), missing: '' };
}

/** Every so many classes a curve has a point, however level it is. */
const EVERY_CLASS = 16;
const HALF = 0.5;
const NOTHING: AgeRange = { low: null, high: null };

// The variance of a share near the estimate, by that of a share: S(1 − S).
function scaled(variance: number, share: number, estimate: number): number {
  const spread = estimate * (1 - estimate);
  return spread > 0 && Number.isFinite(variance) ? (variance * share * (1 - share)) / spread : 0;
}

// Samples that would tell as much, were all alike (Kish 1965); Infinity where everything was seen.
function effective(weight: number, variance: number): number {
  return variance > 0 ? (weight * weight) / variance : Infinity;
}

// Where the band crosses a share: the least age at which it may be reached, and at which it surely is.
function rangeOf(points: readonly CurvePoint[], share: number): AgeRange {
  const at = (below: (point: CurvePoint) => number): number | null =>
    points.find((point) => below(point) <= share + 1e-12)?.age ?? null;
  const low = points.findIndex((point) => point.low <= share + 1e-12);
  return { low: low < 0 ? null : low === 0 ? 0 : points[low - 1]!.age, high: at((point) => point.high) };
}

function missingOf({ samples, deaths }: LifeTable): string {
  if (samples === 0) return 'no object of it was seen in this span';
  if (samples < LEAST_SAMPLES)
    return `only ${samples} of it ${samples === 1 ? 'was' : 'were'} seen, and ${LEAST_SAMPLES} are needed: record for longer, or sample more closely`;
  if (deaths < LEAST_DEATHS)
    return 'none of it was seen to die: all that is known is that it lives. A longer recording would tell';
  return '';
}
