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
  for (let row = 0; row < collections.length; row++) {
    if (usedAfterBytes[row]! >= 0 && contains(span, startMs[row]!))
      heap.add(startMs[row]!, usedBeforeBytes[row]!, usedAfterBytes[row]!);
  }
  const byName = new Map<number, Points>();
  for (let at = 0; at < spaces.length; at++) {
    const row = spaces.col.collectionRow[at]!;
    if (!contains(span, startMs[row]!)) continue;
    const name = spaces.col.nameId[at]!;
    const points = byName.get(name) ?? new Points(span);
    byName.set(name, points);
    points.add(startMs[row]!, spaces.col.beforeBytes[at]!, spaces.col.afterBytes[at]!);
  }
  return [
    heap.series(WHOLE_HEAP),
    ...[...byName].map(([name, points]) => points.series(recording.strings.text(name))),
  ].filter((series) => series.tMs.length > 0);
}

/** Points of one series, at most one a slice of the span. */
class Points {
  private readonly span: Span;
  private readonly kept = new Map<number, [tMs: number, before: number, after: number]>();

  constructor(span: Span) {
    this.span = span;
  }

  add(tMs: number, before: number, after: number): void {
    const slice = Math.floor(
      ((tMs - this.span.fromMs) / Math.max(1e-9, this.span.toMs - this.span.fromMs)) * MOST_POINTS,
    );
    const known = this.kept.get(slice);
    if (known === undefined || Math.max(before || 0, after) > Math.max(known[1] || 0, known[2]))
      this.kept.set(slice, [tMs, before, after]);
  }

  series(name: string): SizeSeries {
    const points = [...this.kept.values()].sort((a, b) => a[0] - b[0]);
    return {
      name,
      tMs: Float64Array.from(points, (point) => point[0]),
      beforeBytes: Float64Array.from(points, (point) => point[1]),
      afterBytes: Float64Array.from(points, (point) => point[2]),
    };
  }
}
