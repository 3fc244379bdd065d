/** One column of a dense table over rows of T. */
export interface DenseColumn<T> {
  readonly key: string;
  readonly title: string;
  /** Word of docs/words.md that explains it. */
  readonly term?: string | undefined;
  /** What saved values are counted in: `bytes`, `ms`; missing where they have no unit. */
  readonly unit?: string;
  /** Text of the cell, when no slot draws it. */
  readonly text?: (row: T) => string;
  /** Exact value, shown when the pointer rests on the cell. */
  readonly hint?: (row: T) => string;
  /** What the column sorts by and is saved as: NaN for none. A column without it cannot be sorted. */
  readonly order?: (row: T) => number | string;
  /** What is saved instead of what the column sorts by. */
  readonly saved?: (row: T) => string;
  /** Standard error of what the column sorts by; its 95 % half-width is saved beside it. */
  readonly se?: (row: T) => number;
  /** Text columns stand left and sort upward first. */
  readonly isText?: boolean;
}
