/** Ids of rows, numbered from 0 in the order in which they come first. */
export interface NumberedIds {
  /** Of each row. */
  readonly numberOf: Uint16Array | Uint32Array;
  /** By number: the id, and how many rows have it. */
  readonly ids: readonly number[];
  readonly counts: readonly number[];
}

/** Numbers what `idOf` holds of each of the rows, of at most so many different ids. Linear. */
export function numberIds(rows: Uint32Array, idOf: Uint32Array, most: number): NumberedIds {
  const numbers = new Map<number, number>();
  const counts: number[] = [];
  const numberOf = most <= 0xffff ? new Uint16Array(rows.length) : new Uint32Array(rows.length);
  let [id, number] = [-1, -1];
  for (let at = 0; at < rows.length; at++) {
    const next = idOf[rows[at]!]!;
    // Most rows are like the one before.
    if (next !== id || number < 0) {
      id = next;
      number = numbers.get(id) ?? counts.push(0) - 1;
      numbers.set(id, number);
    }
    numberOf[at] = number;
    counts[number]!++;
  }
  return { numberOf, ids: [...numbers.keys()], counts };
}
