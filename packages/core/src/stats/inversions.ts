/** Sorts values and answers how many pairs of them stood the wrong way round, equal ones not counted. O(n log n). */
export function sortAndCount(values: Float64Array): number {
  const n = values.length;
  let from = values;
  let to = new Float64Array(n);
  let inversions = 0;
  for (let width = 1; width < n; width *= 2) {
    for (let first = 0; first < n; first += 2 * width) {
      const middle = Math.min(n, first + width);
      const end = Math.min(n, middle + width);
      let [left, right] = [first, middle];
      for (let at = first; at < end; at++) {
        if (right < end && (left === middle || from[right]! < from[left]!)) {
          inversions += middle - left;
          to[at] = from[right++]!;
        } else to[at] = from[left++]!;
      }
    }
    [from, to] = [to, from as Float64Array<ArrayBuffer>];
  }
  if (from !== values) values.set(from);
  return inversions;
}
