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
