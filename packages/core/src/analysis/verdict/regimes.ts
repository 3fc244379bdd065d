import { median } from '../../stats/quantile.ts';
import { localMemoryFactor, memoryFactor } from './noise-memory.ts';
import { LineFits } from './line-fit.ts';

/** A stretch of the floor that one line describes: points `[from, to)`. */
export interface Regime {
  readonly from: number;
  readonly to: number;
  /**
   * The first and the last point with which it may have begun, by the break's 95 % interval; both `from` where no break
   * came before.
   */
  readonly earliest: number;
  readonly latest: number;
}

/**
 * Fewest points on each side of a break; where none is found so, one before it is enough, as the first of a program
 * that loads all it needs at once.
 */
const LEAST_SIDE = 4;
const LEAST_BEFORE = 1;
const MOST_BREAKS = 4;
/**
 * A break is believed when two lines, for one, lower the squared error by this much of what is left for a point (the 1
 * % point of the greatest F over all places, with two parameters more: Andrews, Tests for Parameter Instability,
 * Econometrica 61 (1993), table I, and its later corrigendum), more for few points.
 */
const SURE_BREAK = 17;
const FEW_POINTS = 6;
/**
 * Squared error by which a place of the break may differ from the best within its 95 % interval: χ² of one parameter,
 * doubled for its being found.
 */
const INTERVAL_OF_BREAK = 2 * 3.84;
/**
 * A point this many deviations from the median of itself and its neighbours stands out, and is taken for that median.
 */
const OUTLYING = 4;
const TWO_LINES = 4;

/**
 * The last stretch of a series since which one line describes it: whatever broke before it, as a start-up, a step or a
 * change of pace, is left out. Looks for the most telling break, then for another one behind it, and so on. `noise` is
 * the least deviation that points may have, in units of y.
 */
export function lastRegime(x: Float64Array, y: Float64Array, noise: number): Regime {
  const smooth = withoutOutliers(y);
  let regime: Regime = { from: 0, to: y.length, earliest: 0, latest: 0 };
  for (let found = 0; found < MOST_BREAKS; found++) {
    const next =
      breakIn({ x, y: smooth, noise }, regime.from, LEAST_SIDE) ??
      breakIn({ x, y: smooth, noise }, regime.from, LEAST_BEFORE);
    if (next === null) return regime;
    regime = next;
  }
  return regime;
}

interface Points {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly noise: number;
}

function breakIn({ x: allX, y: allY, noise }: Points, start: number, leastBefore: number): Regime | null {
  const [x, y] = [allX.subarray(start), allY.subarray(start)];
  const n = y.length;
  if (n < leastBefore + LEAST_SIDE + 2) return null;
  const fits = new LineFits(x, y);
  const least = n * noise * noise;
  const errors = new Float64Array(n).fill(Infinity);
  let best = leastBefore;
  for (let at = leastBefore; at <= n - LEAST_SIDE; at++) {
    errors[at] = Math.max(least, fits.fit(0, at).rss + fits.fit(at, n).rss);
    if (errors[at]! < errors[best]!) best = at;
  }
  const one = Math.max(least, fits.fit(0, n).rss);
  const perPoint = errors[best]! / (n - TWO_LINES);
  const inflation = inflationOf(x, y, fits, best);
  if (!(one - errors[best]! > SURE_BREAK * (1 + FEW_POINTS / (n - TWO_LINES)) * inflation * perPoint)) return null;
  const within = errors[best]! + INTERVAL_OF_BREAK * inflation * perPoint;
  let [earliest, latest] = [best, best];
  while (earliest > 1 && errors[earliest - 1]! <= within) earliest--;
  while (latest < n - 1 && errors[latest + 1]! <= within) latest++;
  // Where two lines meet without a jump, the break may lie between the two points as well.
  return { from: start + best, to: start + n, earliest: start + earliest - 1, latest: start + latest };
}

// How much less the points tell than as many independent ones would. Whatever the break does not describe looks like
// memory in what it leaves, and a break looks like memory in a block that it crosses: the lesser of both is nearer.
function inflationOf(x: Float64Array, y: Float64Array, fits: LineFits, at: number): number {
  const [before, after] = [fits.fit(0, at), fits.fit(at, y.length)];
  const residuals = y.map((value, point) =>
    point < at
      ? value - before.atStart - before.slope * (x[point]! - x[0]!)
      : value - after.atStart - after.slope * (x[point]! - x[at]!),
  );
  return Math.min(memoryFactor(residuals, TWO_LINES), localMemoryFactor(x, y));
}

/**
 * The series with each point that stands out alone put between its neighbours (Hampel's identifier with one neighbour
 * on each side).
 */
export function withoutOutliers(y: Float64Array): Float64Array {
  const apart = Float64Array.from(y, (value, at) => value - middleOf(y, at));
  const deviation = 1.4826 * median(apart.map(Math.abs)) || 1.4826 * median(differencesOf(y)) * Math.SQRT1_2;
  return Float64Array.from(y, (value, at) =>
    at > 0 && at < y.length - 1 && Math.abs(apart[at]!) > OUTLYING * Math.max(deviation, 1e-9)
      ? value - apart[at]!
      : value,
  );
}

function middleOf(y: Float64Array, at: number): number {
  const [a, b, c] = [y[Math.max(0, at - 1)]!, y[at]!, y[Math.min(y.length - 1, at + 1)]!];
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
}

/** Absolute differences of neighbours. */
export function differencesOf(y: Float64Array): Float64Array {
  return Float64Array.from({ length: Math.max(0, y.length - 1) }, (_, at) => Math.abs(y[at + 1]! - y[at]!));
}
