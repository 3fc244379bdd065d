/** Moves for each value, on average, that put it in its place sooner than merging does. */
const MOST_MOVES = 4;

/**
 * Places of the first `count` values in ascending order, equal ones in the order they stand; NaN come last. By merging
 * the stretches that stand in order already: linear where values stand almost in order, as times of a log do, else
 * O(n log r) for r such stretches.
 */
export function orderBy(values: Float64Array, count = values.length): Uint32Array<ArrayBuffer> {
  let from = insertedInOrder(values, count);
  if (from !== null) return from;
  from = new Uint32Array(count);
  for (let at = 0; at < count; at++) from[at] = at;
  let runs = runsOf(values, count);
  if (runs.length <= 2) return from;
  let to = new Uint32Array(count);
  while (runs.length > 2) {
    const merged = [0];
    for (let run = 0; run < runs.length - 1; run += 2) {
      const [start, middle] = [runs[run]!, runs[run + 1]!];
      const end = runs[run + 2] ?? middle;
      merge(values, from, to, { start, middle, end });
      merged.push(end);
    }
    [from, to] = [to, from];
    runs = merged;
  }
  return from;
}

// Each is moved back to its place, which is near where values stand almost in order; null where they do not.
function insertedInOrder(values: Float64Array, count: number): Uint32Array<ArrayBuffer> | null {
  const order = new Uint32Array(count);
  let moves = MOST_MOVES * count;
  for (let at = 0; at < count; at++) {
    const value = values[at]!;
    let place = at;
    while (place > 0 && !(values[order[place - 1]!]! <= value)) {
      // NaN are left to the merging, which knows where they go.
      if (--moves < 0 || value !== value || values[order[place - 1]!] !== values[order[place - 1]!]) return null;
      order[place] = order[place - 1]!;
      place--;
    }
    order[place] = at;
  }
  return order;
}

// Where each stretch in order begins, and the end.
function runsOf(values: Float64Array, count: number): number[] {
  const runs = [0];
  for (let at = 1; at < count; at++) if (comesBefore(values[at]!, values[at - 1]!)) runs.push(at);
  if (count > 0) runs.push(count);
  return runs;
}

// Two stretches that follow each other, into one.
function merge(
  values: Float64Array,
  from: Uint32Array,
  to: Uint32Array,
  { start, middle, end }: { readonly start: number; readonly middle: number; readonly end: number },
): void {
  let [left, right] = [start, middle];
  for (let at = start; at < end; at++) {
    const takesRight = right < end && (left === middle || comesBefore(values[from[right]!]!, values[from[left]!]!));
    to[at] = from[takesRight ? right++ : left++]!;
  }
}

function comesBefore(a: number, b: number): boolean {
  return a < b || (b !== b && a === a);
}
