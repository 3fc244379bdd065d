const FIRST_CAPACITY = 1024;

/** A growing column of numbers in one typed array, taken at its exact length at the end. */
export interface Growing<A extends Float64Array | Uint32Array | Uint8Array> {
  readonly length: number;
  add(value: number): void;
  /** The values so far, borrowed: not to be kept over another `add`. */
  values(): A;
  /** The values at their exact length; the column is empty after that. */
  take(): A;
}

class GrowableColumn<A extends Float64Array | Uint32Array | Uint8Array> implements Growing<A> {
  private readonly make: (length: number) => A;
  private column: A;
  length = 0;

  constructor(make: (length: number) => A) {
    this.make = make;
    this.column = make(FIRST_CAPACITY);
  }

  add(value: number): void {
    if (this.length === this.column.length) {
      const next = this.make(this.length * 2);
      next.set(this.column);
      this.column = next;
    }
    this.column[this.length++] = value;
  }

  values(): A {
    return this.column.subarray(0, this.length) as A;
  }

  take(): A {
    const taken = this.column.slice(0, this.length) as A;
    this.column = this.make(FIRST_CAPACITY);
    this.length = 0;
    return taken;
  }
}

/** A growing column of numbers of any size. */
export const growableNumbers = (): Growing<Float64Array> => new GrowableColumn((length) => new Float64Array(length));
/** A growing column of whole numbers below 2³². */
export const growableWords = (): Growing<Uint32Array> => new GrowableColumn((length) => new Uint32Array(length));
/** A growing column of whole numbers below 256. */
export const growableBytes = (): Growing<Uint8Array> => new GrowableColumn((length) => new Uint8Array(length));
