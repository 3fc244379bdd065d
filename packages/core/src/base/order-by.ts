/** Moves for each value, on average, that put it in its place sooner than merging does. */
const MOST_MOVES = 4;
/** So many values may be out of order before it is seen that most are. */
const MOVES_AHEAD = 1024;

/** With more stretches than this that stand in order, merging them takes longer than looking at each digit. */
const MOST_RUNS = 64;
const DIGIT_BITS = 16;
const DIGITS = 1 << DIGIT_BITS;
/** Which of a number's two words in memory holds its lesser bits: the first, on every usual machine. */
const LOW_WORD = new Uint8Array(Uint32Array.of(1).buffer)[0] === 1 ? 0 : 1;

/**
 * Places of the first `count` values in ascending order, equal ones in the order they stand; NaN come last. By merging
 * the stretches that stand in order already, where there are few of them: linear where values stand almost in order, as
 * times of a log do. Else by their digits: linear in any order.
 */
export function orderBy(values: Float64Array, count = values.length): Uint32Array<ArrayBuffer> {
  let from = insertedInOrder(values, count);
  if (from !== null) return from;
  from = new Uint32Array(count);
  for (let at = 0; at < count; at++) from[at] = at;
  let runs = runsOf(values, count);
  if (runs.length <= 2) return from;
  if (runs.length > MOST_RUNS && count > DIGITS) return byDigits(values, from);
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
  let moves = MOST_MOVES * MOVES_AHEAD;
  for (let at = 0; at < count; at++) {
    const value = values[at]!;
    let place = at;
    moves += MOST_MOVES;
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

// By the bits of each number, from the least digit to the most: those of positive numbers ascend as the numbers do.
function byDigits(values: Float64Array, places: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> {
  const count = places.length;
  const bits = new Uint16Array(count * (64 / DIGIT_BITS));
  const words = new Uint32Array(2);
  const number = new Float64Array(words.buffer);
  for (let at = 0; at < count; at++) {
    // Adding makes a negative zero a positive one.
    number[0] = values[at]! + 0;
    let low = words[LOW_WORD]!;
    let high = words[1 - LOW_WORD]!;
    if (values[at] !== values[at]) low = high = 0xffffffff;
    else if (high >>> 31 === 1) {
      low = ~low;
      high = ~high;
    } else high |= 0x80000000;
    bits[at] = low & 0xffff;
    bits[count + at] = low >>> 16;
    bits[2 * count + at] = high & 0xffff;
    bits[3 * count + at] = high >>> 16;
  }
  let from = places;
  let to = new Uint32Array(count);
  for (let digit = 0; digit < 64 / DIGIT_BITS; digit++) {
    const of = bits.subarray(digit * count, (digit + 1) * count);
    const next = new Uint32Array(DIGITS);
    for (let at = 0; at < count; at++) next[of[at]!]!++;
    if (next[of[0]!] === count) continue;
    for (let value = 0, sum = 0; value < DIGITS; value++) {
      const held = next[value]!;
      next[value] = sum;
      sum += held;
    }
    for (let at = 0; at < count; at++) to[next[of[from[at]!]!]!++] = from[at]!;
    [from, to] = [to, from];
  }
  return from;
}
