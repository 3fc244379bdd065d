import { sortAndCount } from './inversions.ts';
import { selectRanks } from './select-rank.ts';

/** Up to so many pairs all slopes are looked at. */
const FEW_PAIRS = 4096;
/** Slopes of a sample, between two of which the wanted ones are looked for: of fewer pairs than these, and of more. */
const SAMPLED: readonly (readonly [pairs: number, slopes: number])[] = [
  [1_000_000, 1024],
  [Infinity, 4096],
];
/** Bounds lie this share of themselves further out: what equals one is inside then, however it is rounded. */
const OUTWARD = 1e-9;

/** Pairs of points whose x differ: each has a slope. */
export function slopeCount(x: Float64Array): number {
  const sorted = isAscending(x) ? x : x.slice().sort();
  let same = 0;
  for (let at = 1, run = 0; at < sorted.length; at++) {
    run = sorted[at] === sorted[at - 1] ? run + 1 : 0;
    same += run;
  }
  return (sorted.length * (sorted.length - 1)) / 2 - same;
}

/**
 * Values at some ranks among the slopes of all pairs of points with different x, by rank; `pairs` is their number
 * (`slopeCount`). Bounds between which they lie are taken from a sample of the pairs; slopes below are counted as the
 * inversions of `y − bound · x`, those inside are the pairs that both bounds order differently. Expected O(n log n + k)
 * for k slopes inside, a tenth of all as a rule; all of them where most are equal.
 *
 * Source: Dillencourt, Mount & Netanyahu, A randomized algorithm for slope selection, Int. J. Computational Geometry &
 * Applications 2 (1992), with one sample. It is the same each time, so that an answer is.
 */
export function slopeRanks(
  x: Float64Array,
  y: Float64Array,
  pairs: number,
  ranks: readonly number[],
): ReadonlyMap<number, number> {
  const [least, most] = [Math.min(...ranks), Math.max(...ranks)];
  if (pairs > FEW_PAIRS) {
    const points = byX(x, y);
    const sample = sampledSlopes(points, SAMPLED.find(([upTo]) => pairs < upTo)![1]);
    for (let margin = 1.5 / Math.sqrt(sample.length); margin < 0.5; margin *= 2) {
      const low = sample[Math.floor((least / pairs - margin) * sample.length)];
      const high = sample[Math.ceil((most / pairs + margin) * sample.length)];
      if (low === undefined || high === undefined) break;
      const bounds = [low - outward(low, high), high + outward(low, high)] as const;
      const below = slopesBelow(points, bounds[0]);
      const inside = slopesInside(points, bounds, Math.ceil(pairs * ((most - least) / pairs + 3 * margin)));
      if (least < below || most >= below + inside.length) continue;
      const found = selectRanks(
        inside,
        ranks.map((rank) => rank - below),
      );
      return new Map(ranks.map((rank) => [rank, found.get(rank - below)!]));
    }
  }
  return selectRanks(allSlopes(x, y, pairs), ranks);
}

function outward(low: number, high: number): number {
  return OUTWARD * Math.max(Math.abs(low), Math.abs(high), Number.MIN_VALUE / OUTWARD);
}

function allSlopes(x: Float64Array, y: Float64Array, pairs: number): Float64Array {
  const slopes = new Float64Array(pairs);
  let count = 0;
  for (let i = 0; i < x.length; i++) {
    const xi = x[i]!;
    const yi = y[i]!;
    for (let j = i + 1; j < x.length; j++) if (x[j] !== xi) slopes[count++] = (y[j]! - yi) / (x[j]! - xi);
  }
  return slopes;
}

/** Points in order of their x. */
interface Points {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

function isAscending(x: Float64Array): boolean {
  for (let at = 1; at < x.length; at++) if (x[at]! < x[at - 1]!) return false;
  return true;
}

function byX(x: Float64Array, y: Float64Array): Points {
  if (isAscending(x)) return { x, y };
  const order = Uint32Array.from(x, (_, at) => at).sort((a, b) => x[a]! - x[b]!);
  return { x: Float64Array.from(order, (at) => x[at]!), y: Float64Array.from(order, (at) => y[at]!) };
}

// Ascending.
function sampledSlopes({ x, y }: Points, most: number): Float64Array {
  const slopes = new Float64Array(most);
  let count = 0;
  let state = 1;
  for (let draw = 0; draw < most; draw++) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
    const i = ((state >>> 0) / 2 ** 32) * x.length;
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
    const j = ((state >>> 0) / 2 ** 32) * x.length;
    const run = x[j | 0]! - x[i | 0]!;
    if (run !== 0) slopes[count++] = (y[j | 0]! - y[i | 0]!) / run;
  }
  return slopes.subarray(0, count).sort();
}

// A pair whose slope is less stands the other way round by what is left of y.
function slopesBelow({ x, y }: Points, slope: number): number {
  const n = x.length;
  const left = new Float64Array(n);
  for (let at = 0; at < n; at++) left[at] = y[at]! - slope * x[at]!;
  // Those of one x have no slope between them.
  for (let first = 0; first < n;) {
    let end = first + 1;
    while (end < n && x[end] === x[first]) end++;
    if (end - first > 1) left.subarray(first, end).sort();
    first = end;
  }
  return sortAndCount(left);
}

// In order of what is left by the lower bound, the pairs that stand the other way round by what is left by the upper.
function slopesInside({ x, y }: Points, [low, high]: readonly [number, number], expected: number): Float64Array {
  const n = x.length;
  const leftByLow = new Float64Array(n);
  const leftByHigh = new Float64Array(n);
  for (let at = 0; at < n; at++) {
    leftByLow[at] = y[at]! - low * x[at]!;
    leftByHigh[at] = y[at]! - high * x[at]!;
  }
  let from = sortedBy(leftByLow, leftByHigh);
  let to = new Uint32Array(n);
  let slopes = new Float64Array(Math.max(16, expected));
  let count = 0;
  for (let width = 1; width < n; width *= 2) {
    for (let first = 0; first < n; first += 2 * width) {
      const middle = Math.min(n, first + width);
      const end = Math.min(n, middle + width);
      let [left, right] = [first, middle];
      for (let at = first; at < end; at++) {
        if (right < end && (left === middle || leftByHigh[from[right]!]! < leftByHigh[from[left]!]!)) {
          const j = from[right++]!;
          while (count + middle - left > slopes.length) slopes = doubled(slopes);
          for (let other = left; other < middle; other++) {
            const i = from[other]!;
            slopes[count++] = (y[j]! - y[i]!) / (x[j]! - x[i]!);
          }
          to[at] = j;
        } else to[at] = from[left++]!;
      }
    }
    [from, to] = [to, from];
  }
  return slopes.subarray(0, count);
}

// Places in order of the first values; of equal ones in order of the second, so that they are no pair.
function sortedBy(first: Float64Array, second: Float64Array): Uint32Array<ArrayBuffer> {
  const order = new Uint32Array(first.length);
  for (let at = 0; at < order.length; at++) order[at] = at;
  return order.sort((a, b) => first[a]! - first[b]! || second[a]! - second[b]!);
}

function doubled(values: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const next = new Float64Array(2 * values.length);
  next.set(values);
  return next;
}
