import { collectionsFrom, spaceRowsNear } from '../analysis/row-orders.ts';
import { contains, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';

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

/** Series of the heap and of every space that the source tells. Linear in collections and rows of spaces. */
export function sizeSeries(recording: Recording, span: Span): SizeSeries[] {
  const { collections, spaces } = recording.tables;
  const { startMs, usedBeforeBytes, usedAfterBytes } = collections.col;
  const heap = new Points(span);
  const rows = collectionsFrom(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    if (usedAfterBytes[row]! >= 0 && contains(span, startMs[row]!))
      heap.add(startMs[row]!, usedBeforeBytes[row]!, usedAfterBytes[row]!);
  }
  const named: { readonly nameId: number; readonly points: Points }[] = [];
  // By the number of the name, of which a log has few.
  const numberOf = new Int16Array(recording.strings.length).fill(-1);
  const { collectionRow, nameId, beforeBytes, afterBytes } = spaces.col;
  const [first, end] = spaceRowsNear(recording, span);
  for (let at = first; at < end; at++) {
    const tMs = startMs[collectionRow[at]!]!;
    if (!contains(span, tMs)) continue;
    let number = numberOf[nameId[at]!]!;
    if (number < 0) {
      number = named.push({ nameId: nameId[at]!, points: new Points(span) }) - 1;
      numberOf[nameId[at]!] = number;
    }
    named[number]!.points.add(tMs, beforeBytes[at]!, afterBytes[at]!);
  }
  return [
    heap.series(WHOLE_HEAP),
    ...named.map((each) => each.points.series(recording.strings.text(each.nameId))),
  ].filter((series) => series.tMs.length > 0);
}

/** Points of one series, at most one a slice of the span: of each the one with most. */
class Points {
  private readonly fromMs: number;
  private readonly perMs: number;
  private readonly tMs = new Float64Array(MOST_POINTS).fill(NaN);
  private readonly before = new Float64Array(MOST_POINTS);
  private readonly after = new Float64Array(MOST_POINTS);
  private readonly most = new Float64Array(MOST_POINTS).fill(-Infinity);

  constructor({ fromMs, toMs }: Span) {
    this.fromMs = fromMs;
    this.perMs = MOST_POINTS / Math.max(1e-9, toMs - fromMs);
  }

  add(tMs: number, before: number, after: number): void {
    const slice = Math.min(MOST_POINTS - 1, Math.floor((tMs - this.fromMs) * this.perMs));
    const size = before > after ? before : after;
    if (!(size > this.most[slice]!)) return;
    this.most[slice] = size;
    this.tMs[slice] = tMs;
    this.before[slice] = before;
    this.after[slice] = after;
  }

  series(name: string): SizeSeries {
    const slices = Uint32Array.from(this.tMs.keys()).filter((slice) => !Number.isNaN(this.tMs[slice]!));
    return {
      name,
      tMs: Float64Array.from(slices, (slice) => this.tMs[slice]!),
      beforeBytes: Float64Array.from(slices, (slice) => this.before[slice]!),
      afterBytes: Float64Array.from(slices, (slice) => this.after[slice]!),
    };
  }
}
