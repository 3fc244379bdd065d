import { survivalCurve, type AgeTable, type SurvivalCurve, shareBand } from '../../stats/survival-curve.ts';
import { CLASSES } from '../median-lifetimes.ts';
import { ageOfClass } from './lives.ts';
import type { AgeKind } from './age-meter.ts';
import type { Lives } from './lives.ts';

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

/** Fewer samples than this tell of single objects, not of a group. */
const LEAST_SAMPLES = 10;
const LEAST_DEATHS = 1;
/** Points of a curve are never closer than this share of a step down. */
const MOST_POINTS = 120;

interface Sums {
  readonly table: AgeTable;
  readonly early: AgeTable;
  readonly late: AgeTable;
  /** Samples that entered, died or left in each class, for the numbers at risk. */
  readonly counts: AgeTable;
  samples: number;
  weight: number;
  variance: number;
  died: number;
  deaths: number;
  oldest: number;
}

/**
 * Survival of each group of lives: `groupOf` says whose a life's origin is, −1 for nobody's. Three curves a group
 * (stats/survival-curve.ts): with deaths as early as they can have been, as late, and in the middle of the two, which is
 * the estimate. Its variance is that of sampling, by the influence of each life on the logarithm of the curve (Reid
 * 1981), which is Greenwood's where every life counts alike. Two passes over the lives, and one over the classes a group.
 */
export function survivalOf(lives: Lives, groups: number, groupOf: Int32Array, kind: AgeKind): GroupSurvival[] {
  const sums = Array.from({ length: groups }, () => emptySums());
  for (let row = 0; row < lives.length; row++) {
    const group = groupOf[lives.originId[row]!]!;
    if (group >= 0) addLife(sums[group]!, lives, row);
  }
  const curves = sums.map(({ table }) => survivalCurve(table));
  const errors = influences(lives, groups, groupOf, curves);
  return sums.map((sum, group) => groupSurvival(sum, curves[group]!, errors[group]!, kind));
}

function emptyTable(): AgeTable {
  return { entered: new Float64Array(CLASSES), died: new Float64Array(CLASSES), left: new Float64Array(CLASSES) };
}

function emptySums(): Sums {
  return {
    ...{ table: emptyTable(), early: emptyTable(), late: emptyTable(), counts: emptyTable() },
    ...{ samples: 0, weight: 0, variance: 0, died: 0, deaths: 0, oldest: 0 },
  };
}

function addLife(sum: Sums, lives: Lives, row: number): void {
  const [weight, entry, late] = [lives.weight[row]!, lives.entry[row]!, lives.late[row]!];
  const middle = lives.middle[row]!;
  for (const table of [sum.table, sum.early, sum.late]) table.entered[entry]! += weight;
  sum.counts.entered[entry]! += 1;
  if (lives.dead[row] === 1) {
    sum.table.died[middle]! += weight;
    sum.early.died[lives.early[row]!]! += weight;
    sum.late.died[late]! += weight;
    sum.counts.died[middle]! += 1;
    sum.died += weight;
    sum.deaths++;
  } else {
    for (const table of [sum.table, sum.early, sum.late]) table.left[late]! += weight;
    sum.counts.left[late]! += 1;
  }
  sum.samples++;
  sum.weight += weight;
  sum.variance += lives.variance[row]!;
  sum.oldest = Math.max(sum.oldest, late);
}

/** Variance of the logarithm of a group's curve at each class, and of what it rests on. */
interface CurveError {
  readonly logVariance: Float64Array;
  /** Variance of the weight of which it is known whether it is older than each class: at risk there, or dead by then. */
  readonly knownVariance: Float64Array;
}

/**
 * What sampling leaves open of each curve. A life's influence on log S(t) is the hazard sum over the classes in which it
 * was at risk up to t, less 1/(n − d) where it died by t; squares of them, weighted by what the life adds to the variance
 * of a sum, add up. Lives that are over by t are constant; of those still at risk the sum goes on.
 */
function influences(lives: Lives, groups: number, groupOf: Int32Array, curves: readonly SurvivalCurve[]): CurveError[] {
  // By group and class: variance, variance × hazard at entry, × its square, of what ends there; and what is settled.
  const size = groups * CLASSES;
  const ends = { one: new Float64Array(size), by: new Float64Array(size), square: new Float64Array(size) };
  const enters = { one: new Float64Array(size), by: new Float64Array(size), square: new Float64Array(size) };
  const settled = new Float64Array(size);
  const censored = new Float64Array(size);
  for (let row = 0; row < lives.length; row++) {
    const group = groupOf[lives.originId[row]!]!;
    const variance = lives.variance[row]!;
    if (group < 0 || variance === 0) continue;
    const { hazard, atRisk, survival } = curves[group]!;
    const entry = lives.entry[row]!;
    const before = entry === 0 ? 0 : hazard[entry - 1]!;
    const isDead = lives.dead[row] === 1;
    const end = lives.middle[row]!;
    const [from, at] = [group * CLASSES + entry, group * CLASSES + end];
    enters.one[from]! += variance;
    enters.by[from]! += variance * before;
    enters.square[from]! += variance * before * before;
    if (!isDead) censored[at]! += variance;
    ends.one[at]! += variance;
    ends.by[at]! += variance * before;
    ends.square[at]! += variance * before * before;
    const rest = end > 0 ? atRisk[end]! * (survival[end]! / (survival[end - 1]! || 1)) : atRisk[0]! * survival[0]!;
    const influence = hazard[end]! - before - (isDead ? 1 / rest : 0);
    if (Number.isFinite(influence)) settled[at]! += variance * influence * influence;
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

function groupSurvival(sum: Sums, curve: SurvivalCurve, error: CurveError, kind: AgeKind): GroupSurvival {
  const told = {
    samples: sum.samples,
    weight: sum.weight,
    weightSe: Math.sqrt(sum.variance),
    diedWeight: sum.died,
    oldest: ageOfClass(kind, sum.oldest),
  };
  const missing = missingOf(sum);
  if (missing !== '') return { ...told, curve: [], median: NOTHING, p90: NOTHING, missing };
  const early = survivalCurve(sum.early).survival;
  const { survival: late, atRisk: lateRisk } = survivalCurve(sum.late);
  const counts = survivalCurve(sum.counts).atRisk;
  const points: CurvePoint[] = [];
  let last = 2;
  // Beyond what was seen nothing is known.
  // What came into sight less what left it alive: of that much it is known.
  let known = 0;
  for (let age = 0; age <= sum.oldest && (curve.atRisk[age]! > 0 || lateRisk[age]! > 0); age++) {
    known += sum.table.entered[age]! - (age > 0 ? sum.table.left[age - 1]! : 0);
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

function missingOf({ samples, deaths }: Sums): string {
  if (samples === 0) return 'no object of it was seen in this span';
  if (samples < LEAST_SAMPLES)
    return `only ${samples} of it ${samples === 1 ? 'was' : 'were'} seen, and ${LEAST_SAMPLES} are needed: record for longer, or sample more closely`;
  if (deaths < LEAST_DEATHS)
    return 'none of it was seen to die: all that is known is that it lives. A longer recording would tell';
  return '';
}
