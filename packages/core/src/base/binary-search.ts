/** Index of the first value of ascending `sorted` that is at least `value`; its length when there is none. O(log n). */
export function firstAtOrAfter(sorted: Float64Array, value: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle]! < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/**
 * The same over places whose values ascend, for a column that stands in another order than its rows: the first of
 * `count` places whose value is at least `value`; `count` when there is none. O(log count).
 */
export function firstPlaceFrom(count: number, valueAt: (place: number) => number, value: number): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (valueAt(middle) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/**
 * The same where it is known about where that is: looked for near `guess`, in ever wider steps. O(log of how far it is
 * from there).
 */
export function firstPlaceNear(
  count: number,
  valueAt: (place: number) => number,
  value: number,
  guess: number,
): number {
  let low = Math.max(0, Math.min(guess, count));
  let high = low;
  for (let step = 1; low > 0 && !(valueAt(low - 1) < value); step *= 2) {
    high = low - 1;
    low = Math.max(0, low - step);
  }
  for (let step = 1; high < count && valueAt(high) < value; step *= 2) {
    low = high + 1;
    high = Math.min(count, high + step);
  }
  return low + firstPlaceFrom(high - low, (place) => valueAt(low + place), value);
}

/**
 * Index of the last value of ascending `sorted` that is at most `value`, looked for from `low` on, which must be one
 * that is. O(log n).
 */
export function lastAtOrBefore(sorted: Float64Array | Uint32Array, value: number, low = 0): number {
  let from = low;
  let to = sorted.length;
  while (from + 1 < to) {
    const middle = (from + to) >>> 1;
    if (sorted[middle]! <= value) from = middle;
    else to = middle;
  }
  return from;
}
