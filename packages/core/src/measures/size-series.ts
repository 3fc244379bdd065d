import { rememberReading } from '../analysis/remember.ts';
import { collectionsByStart } from '../analysis/row-orders.ts';
import { firstPlaceFrom, firstPlaceNear } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { RangeLargest } from '../stats/range-largest.ts';

/**
 * Sizes of the heap, or of one of its spaces, before and after collections: parallel columns in order of time; `before`
 * may be NaN.
 */
export interface SizeSeries {
  readonly name: string;
  readonly tMs: Float64Array;
  readonly beforeBytes: Float64Array;
  readonly afterBytes: Float64Array;
}

/** More than these cannot be told apart; of each slice the collection that began with most is kept. */
const MOST_POINTS = 1200;
const WHOLE_HEAP = 'heap';

/**
 * Series of the heap and of every space that the source tells. O(log n) a point that is kept, once the largest of each
 * block of collections is known.
 */
export function sizeSeries(recording: Recording, span: Span): SizeSeries[] {
  const { heap, spaces } = toldSizes(recording);
  const begun = (told: ToldSizes): number => told.placeFrom(span.fromMs);
  // Spaces stand in the order in which the span tells of them.
  const named = spaces
    .filter((told) => begun(told) < told.placeFrom(span.toMs))
    .sort((a, b) => a.rows[begun(a)]! - b.rows[begun(b)]!);
  return [heap, ...named].map((told) => seriesOf(told, span)).filter((series) => series.tMs.length > 0);
}

const toldSizes = rememberReading((recording) => {
  const { collections, spaces } = recording.tables;
  const { startMs, usedBeforeBytes, usedAfterBytes } = collections.col;
  const rows = collectionsByStart(recording).rows.filter((row) => usedAfterBytes[row]! >= 0);
  const heap = new ToldSizes(WHOLE_HEAP, rows, {
    startMs,
    collectionRow: null,
    before: usedBeforeBytes,
    after: usedAfterBytes,
  });
  const { collectionRow, nameId, beforeBytes, afterBytes } = spaces.col;
  // By the number of the name, of which a log has few.
  const numberOf = new Int32Array(recording.strings.length).fill(-1);
  const counts: number[] = [];
  let isRising = true;
  for (let row = 0, lastMs = -Infinity; row < spaces.length; row++) {
    const tMs = startMs[collectionRow[row]!]!;
    isRising &&= tMs >= lastMs;
    lastMs = tMs;
    const id = nameId[row]!;
    if (numberOf[id]! < 0) numberOf[id] = counts.push(0) - 1;
    counts[numberOf[id]!]!++;
  }
  const rowsOf = counts.map((count) => new Uint32Array(count));
  const filled = new Uint32Array(counts.length);
  const order = isRising
    ? null
    : orderBy(Float64Array.from(collectionRow.subarray(0, spaces.length), (row) => startMs[row]!));
  for (let at = 0; at < spaces.length; at++) {
    const row = order === null ? at : order[at]!;
    const number = numberOf[nameId[row]!]!;
    rowsOf[number]![filled[number]!++] = row;
  }
  return {
    heap,
    spaces: rowsOf.map((rows) => {
      const name = recording.strings.text(nameId[rows[0]!]!);
      return new ToldSizes(name, rows, { startMs, collectionRow, before: beforeBytes, after: afterBytes });
    }),
  };
});

/** Columns of the rows that tell sizes. */
interface SizeColumns {
  /** When each collection began, and the collection of each row: null where they are the same. */
  readonly startMs: Float64Array;
  readonly collectionRow: Uint32Array | null;
  readonly before: Float64Array;
  readonly after: Float64Array;
}

/** What is told of the heap, or of one space, in order of time. */
class ToldSizes {
  readonly name: string;
  readonly rows: Uint32Array;
  readonly columns: SizeColumns;
  private readonly largest: RangeLargest;

  constructor(name: string, rows: Uint32Array, columns: SizeColumns) {
    this.name = name;
    this.rows = rows;
    this.columns = columns;
    const { before, after } = columns;
    this.largest = new RangeLargest(rows.length, (place) => {
      const row = rows[place]!;
      return before[row]! > after[row]! ? before[row]! : after[row]!;
    });
  }

  /** When the collection of a row began. */
  tMsOf(row: number): number {
    const { startMs, collectionRow } = this.columns;
    return startMs[collectionRow === null ? row : collectionRow[row]!]!;
  }

  /** The first place that begins at an instant or later. O(log n). */
  placeFrom(tMs: number): number {
    return firstPlaceFrom(this.rows.length, (place) => this.tMsOf(this.rows[place]!), tMs);
  }

  /** Place of the largest of [first, end), the first of equal ones; −1 where none has a size. */
  largestOf(first: number, end: number): number {
    return this.largest.within(first, end);
  }
}

// At most one point a slice of the span: of each the one with most.
function seriesOf(told: ToldSizes, { fromMs, toMs }: Span): SizeSeries {
  const { rows, columns } = told;
  const perMs = MOST_POINTS / Math.max(1e-9, toMs - fromMs);
  const sliceOf = (place: number): number =>
    Math.min(MOST_POINTS - 1, Math.floor((told.tMsOf(rows[place]!) - fromMs) * perMs));
  const kept: number[] = [];
  const end = told.placeFrom(toMs);
  for (let first = told.placeFrom(fromMs); first < end;) {
    const slice = sliceOf(first);
    // As many as in each slice that is left, about.
    const guess = first + Math.ceil((end - first) / (MOST_POINTS - slice));
    const next = firstPlaceNear(end, sliceOf, slice + 1, guess);
    const largest = told.largestOf(first, next);
    if (largest >= 0) kept.push(rows[largest]!);
    first = next;
  }
  return {
    name: told.name,
    tMs: Float64Array.from(kept, (row) => told.tMsOf(row)),
    beforeBytes: Float64Array.from(kept, (row) => columns.before[row]!),
    afterBytes: Float64Array.from(kept, (row) => columns.after[row]!),
  };
}
