/** A growing list of u32 values in one typed array. */
export interface GrowableRows {
  add(value: number): void;
  /** The values so far, borrowed: not to be kept over another `add`. */
  values(): Uint32Array;
}

const FIRST_CAPACITY = 1024;

/** Row numbers that are collected one by one and taken as an array at the end. */
export function growableRows(): GrowableRows {
  let column = new Uint32Array(FIRST_CAPACITY);
  let length = 0;
  return {
    add(value) {
      if (length === column.length) {
        const next = new Uint32Array(length * 2);
        next.set(column);
        column = next;
      }
      column[length++] = value;
    },
    values: () => column.subarray(0, length),
  };
}
