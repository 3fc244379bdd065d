import { NONE } from './ids.ts';

/** Element kinds a column may have. Missing is NaN in floats, NONE in `u32`, 0 in `u8` and `u16`. */
export type ColumnKind = 'f64' | 'f32' | 'u32' | 'u16' | 'u8';

interface ArrayOf {
  f64: Float64Array<ArrayBuffer>;
  f32: Float32Array<ArrayBuffer>;
  u32: Uint32Array<ArrayBuffer>;
  u16: Uint16Array<ArrayBuffer>;
  u8: Uint8Array<ArrayBuffer>;
}

/** Columns of a table by name, with the kind of their elements. */
// eslint-disable-next-line no-restricted-syntax -- names of our own columns
export type TableSchema = Readonly<Record<string, ColumnKind>>;
/** The arrays of a table, by the name of their column. */
export type TableColumns<S extends TableSchema> = { [K in keyof S]: ArrayOf[S[K]] };

const MIN_CAPACITY = 64;
const FILLED_AT_ONCE = 1024;
/** What is expected is an estimate; a wrong one must not take all memory. */
const MORE_THAN_EXPECTED = 1.05;
const MOST_TIMES = 64;
/** Up to so many rows a table grows fourfold, then twofold: what is behind its rows takes no memory until it is written. */
const QUICK_UP_TO = 1 << 22;

/**
 * Rows held as one typed array per column, grown by a factor.
 *
 * Invariants: every column has the same capacity; rows from `length` to before `filled` hold the missing value, and what
 * lies behind is memory that nobody has looked at. `col` is replaced when the table grows, so hold it only within a loop
 * that adds no row.
 */
export class GrowableTable<S extends TableSchema> {
  readonly schema: S;
  col: TableColumns<S>;
  private rows = 0;
  private capacity: number;
  private filled = 0;
  private expected = 0;

  constructor(schema: S, capacity = MIN_CAPACITY) {
    this.schema = schema;
    this.capacity = Math.max(MIN_CAPACITY, capacity);
    this.col = allocateColumns(schema, this.capacity);
  }

  /** Number of rows. */
  get length(): number {
    return this.rows;
  }

  /** Appends one row of missing values and returns its index; amortised constant time. */
  addRow(): number {
    if (this.rows === this.filled) this.fillTo(this.rows + 1);
    return this.rows++;
  }

  /** Appends so many rows of missing values and returns the index of the first: `col` may be held until the next call. */
  addRows(count: number): number {
    if (this.rows + count > this.filled) this.fillTo(this.rows + count);
    this.rows += count;
    return this.rows - count;
  }

  /** So many rows are to come in all, more or less: room for them is made when next there is too little. */
  expect(rows: number): void {
    this.expected = rows;
  }

  /** Takes back the last rows, which nothing was written into. */
  takeBack(count: number): void {
    this.rows -= count;
  }

  /** A table of some of the rows, copied in the order given. Cost: the rows by the columns. */
  picked(rows: Uint32Array): GrowableTable<S> {
    const picked = new GrowableTable(this.schema, 0);
    picked.rows = rows.length;
    picked.capacity = Math.max(MIN_CAPACITY, rows.length);
    picked.col = allocateColumns(this.schema, picked.capacity);
    picked.filled = rows.length;
    for (const name of Object.keys(this.schema) as (keyof S)[]) copyRows(this.col[name], picked.col[name], rows);
    return picked;
  }

  /**
   * The same, each column copied when it is first looked at: this table must not change until then. For what is asked
   * of some of the columns and thrown away.
   */
  pickedAsAsked(rows: Uint32Array): GrowableTable<S> {
    const picked = new GrowableTable(this.schema, 0);
    picked.rows = picked.filled = rows.length;
    picked.capacity = Math.max(MIN_CAPACITY, rows.length);
    const { col: given, schema } = this;
    for (const name of Object.keys(schema) as (keyof S & string)[])
      Object.defineProperty(picked.col, name, {
        configurable: true,
        enumerable: true,
        get(): ArrayOf[ColumnKind] {
          const column = allocateColumn(schema[name]!, picked.capacity);
          copyRows(given[name], column, rows);
          Object.defineProperty(picked.col, name, {
            value: column,
            writable: true,
            enumerable: true,
            configurable: true,
          });
          return column;
        },
      });
    return picked;
  }

  /**
   * Leaves out the rows whose flag is 0; answers where each of the others has gone, NONE for those left out. Cost: the
   * rows by the columns.
   */
  keepRows(keep: Uint8Array): Uint32Array {
    const places = new Uint32Array(this.rows).fill(NONE);
    let kept = 0;
    for (let row = 0; row < this.rows; row++) if (keep[row] === 1) places[row] = kept++;
    const { rows } = this;
    for (const name of Object.keys(this.schema) as (keyof S)[])
      closeUp(this.col[name], places, kept, rows, missingOf(this.schema[name]!));
    this.rows = kept;
    return places;
  }

  /**
   * Takes columns of exactly so many rows in place of its own, in the order of the schema; they are the table's from
   * then on. A row that is added later copies them once.
   */
  adopt(columns: readonly ArrayOf[ColumnKind][], rows: number): void {
    Object.keys(this.schema).forEach((name: keyof S, at) => {
      this.col[name] = columns[at] as TableColumns<S>[keyof S];
    });
    this.rows = this.filled = this.capacity = rows;
  }

  // A stretch at a time, which is written before it has left the processor's memory.
  private fillTo(rows: number): void {
    while (rows > this.capacity) this.grow();
    const to = Math.min(this.capacity, Math.max(rows, this.filled + FILLED_AT_ONCE));
    for (const name of Object.keys(this.schema) as (keyof S)[]) {
      const missing = missingOf(this.schema[name]!);
      if (missing !== 0) this.col[name].fill(missing, this.filled, to);
    }
    this.filled = to;
  }

  private grow(): void {
    const capacity = Math.max(
      MIN_CAPACITY,
      this.capacity * (this.capacity < QUICK_UP_TO ? 4 : 2),
      Math.min(this.expected * MORE_THAN_EXPECTED, this.capacity * MOST_TIMES) | 0,
    );
    const next = allocateColumns(this.schema, capacity);
    for (const name of Object.keys(this.schema) as (keyof S)[]) next[name].set(this.col[name].subarray(0, this.filled));
    this.col = next;
    this.capacity = capacity;
  }
}

function allocateColumns<S extends TableSchema>(schema: S, capacity: number): TableColumns<S> {
  const columns: Partial<Record<keyof S, ArrayOf[ColumnKind]>> = {};
  for (const name of Object.keys(schema) as (keyof S)[]) columns[name] = allocateColumn(schema[name]!, capacity);
  return columns as TableColumns<S>;
}

function allocateColumn(kind: ColumnKind, capacity: number): ArrayOf[ColumnKind] {
  switch (kind) {
    case 'f64':
      return new Float64Array(capacity);
    case 'f32':
      return new Float32Array(capacity);
    case 'u32':
      return new Uint32Array(capacity);
    case 'u16':
      return new Uint16Array(capacity);
    case 'u8':
      return new Uint8Array(capacity);
  }
}

// One loop for each kind of array: a loop that has seen several of them looks up how to read and write at every row,
// which is some twenty times as slow.
function copyRows(from: ArrayOf[ColumnKind], to: ArrayOf[ColumnKind], rows: Uint32Array): void {
  if (from instanceof Float64Array && to instanceof Float64Array)
    for (let at = 0; at < rows.length; at++) to[at] = from[rows[at]!]!;
  else if (from instanceof Float32Array && to instanceof Float32Array)
    for (let at = 0; at < rows.length; at++) to[at] = from[rows[at]!]!;
  else if (from instanceof Uint32Array && to instanceof Uint32Array)
    for (let at = 0; at < rows.length; at++) to[at] = from[rows[at]!]!;
  else if (from instanceof Uint16Array && to instanceof Uint16Array)
    for (let at = 0; at < rows.length; at++) to[at] = from[rows[at]!]!;
  else for (let at = 0; at < rows.length; at++) to[at] = from[rows[at]!]!;
}

function missingOf(kind: ColumnKind): number {
  return kind === 'f64' || kind === 'f32' ? NaN : kind === 'u32' ? NONE : 0;
}

// Moves rows down over those left out.
function closeUp(column: ArrayOf[ColumnKind], places: Uint32Array, kept: number, rows: number, missing: number): void {
  for (let row = 0; row < rows; row++) if (places[row] !== NONE) column[places[row]!] = column[row]!;
  column.fill(missing, kept, rows);
}
