/** Parting halves what is left, more or less: it takes a few times as many parts as halvings at most. */
const MOST_PARTS_A_DOUBLING = 6;

/**
 * The value that would stand at index `rank` if `values` were ascending. Reorders `values`; expected linear. NaN for a
 * rank outside. `values` must hold no NaN. Where values stand so that parting them gets nowhere, the rest is sorted.
 *
 * Source: Hoare, Algorithm 65: find, CACM 4 (1961), with the median of three as pivot.
 */
export function selectRank(values: Float64Array, rank: number): number {
  let low = 0;
  let high = values.length - 1;
  if (rank < low || rank > high) return NaN;
  let parts = MOST_PARTS_A_DOUBLING * Math.ceil(Math.log2(values.length + 1));
  while (low < high) {
    if (parts-- === 0) {
      values.subarray(low, high + 1).sort();
      break;
    }
    const pivot = middleOf(values[low]!, values[(low + high) >> 1]!, values[high]!);
    let up = low;
    let down = high;
    while (up <= down) {
      while (values[up]! < pivot) up++;
      while (values[down]! > pivot) down--;
      if (up > down) break;
      const held = values[up]!;
      values[up++] = values[down]!;
      values[down--] = held;
    }
    if (rank <= down) high = down;
    else if (rank >= up) low = up;
    else return values[rank]!;
  }
  return values[rank]!;
}

/**
 * The values that would stand at some ascending ranks, by rank; none for a rank outside. Reorders `values`; expected
 * linear, and less for each further rank.
 */
export function selectRanks(values: Float64Array, ranks: readonly number[]): ReadonlyMap<number, number> {
  const found = new Map<number, number>();
  selectIn(values, 0, values.length, ranks, found);
  return found;
}

// Selecting leaves what is below a rank to its left, so that the others are looked for in one part each.
function selectIn(
  values: Float64Array,
  from: number,
  to: number,
  ranks: readonly number[],
  found: Map<number, number>,
): void {
  const rank = ranks[ranks.length >> 1];
  if (rank === undefined) return;
  if (rank >= from && rank < to)
    found.set(
      rank,
      rank === to - 1 ? putLargestLast(values, from, to) : selectRank(values.subarray(from, to), rank - from),
    );
  const [left, right] = [ranks.filter((each) => each < rank), ranks.filter((each) => each > rank)];
  selectIn(values, from, Math.min(to, rank), left, found);
  selectIn(values, Math.max(from, rank + 1), to, right, found);
}

function putLargestLast(values: Float64Array, from: number, to: number): number {
  let place = from;
  let largest = values[from]!;
  for (let at = from + 1; at < to; at++) {
    if (values[at]! <= largest) continue;
    largest = values[at]!;
    place = at;
  }
  values[place] = values[to - 1]!;
  values[to - 1] = largest;
  return largest;
}

function middleOf(a: number, b: number, c: number): number {
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
}

/**
 * Median of the values, the mean of the two middle ones where they are even in number; NaN of none. Reorders `values`;
 * expected linear.
 */
export function selectMedian(values: Float64Array): number {
  const middle = values.length >> 1;
  const upper = selectRank(values, middle);
  if (values.length % 2 === 1 || values.length === 0) return upper;
  let lower = -Infinity;
  for (let at = 0; at < middle; at++) if (values[at]! > lower) lower = values[at]!;
  return (lower + upper) / 2;
}
