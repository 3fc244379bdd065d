import { median } from '../../stats/quantile.ts';

/** Fewer points than this are few enough wherever they lie. */
const LEAST_POINTS = 60;
/** Points crowd where the median gap is below this share of the mean one. */
const CROWDED_RATIO = 0.5;
const WINDOWS = 60;

/**
 * A series whose points crowd in parts of its time, as collections do near a full heap, by the median point of equal
 * windows: so that each stretch of time weighs alike. A series whose points lie evenly comes back as it is. Windows
 * without points are left out.
 */
export function evened(x: Float64Array, y: Float64Array): { readonly x: Float64Array; readonly y: Float64Array } {
  const n = x.length;
  const seconds = x[n - 1]! - x[0]!;
  if (
    n < LEAST_POINTS ||
    !(median(x.subarray(1).map((each, at) => each - x[at]!)) < (CROWDED_RATIO * seconds) / (n - 1))
  )
    return { x, y };
  const [times, levels]: [number[], number[]] = [[], []];
  for (let from = 0; from < n;) {
    const window = Math.min(WINDOWS - 1, Math.floor(((x[from]! - x[0]!) / seconds) * WINDOWS));
    let to = from + 1;
    while (to < n && Math.min(WINDOWS - 1, Math.floor(((x[to]! - x[0]!) / seconds) * WINDOWS)) === window) to++;
    times.push(median(x.subarray(from, to)));
    levels.push(median(y.subarray(from, to)));
    from = to;
  }
  return { x: Float64Array.from(times), y: Float64Array.from(levels) };
}
