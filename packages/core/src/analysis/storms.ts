import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { rememberReading, rememberSpan } from './remember.ts';
import { collectionsByStart, placesWithin, type RowOrder } from './row-orders.ts';

/** A run of whole-heap collections that pile up; `rows` are collection rows in order of time. */
export interface Storm {
  readonly fromMs: number;
  readonly toMs: number;
  readonly rows: readonly number[];
}

const LEAST_IN_ROW = 3;
/** The next whole collection comes sooner than the last one's pause times this. */
const SOON_FACTOR = 20;
const TIME_RATIO = 0.2;
const GAIN_RATIO = 0.05;
/** Little given back tells of a full heap only where it was nearly full. */
const NEARLY_FULL_RATIO = 0.85;

/**
 * Storms in the span: three or more whole-heap collections in a row, each starting sooner after the last than that
 * one's pause × 20, or together taking over 20 % of the time, or giving back under 5 % of what was used while over 85 %
 * of the limit (of the capacity, where no limit is known) was. Concurrent cycles and the recorder's own collections are
 * left out. Linear in the whole-heap collections of the span.
 */
export const findStorms = rememberSpan((recording: Recording, span: Span): Storm[] => {
  const { collections } = recording.tables;
  const { startMs, endMs } = collections.col;
  const storms: Storm[] = [];
  let run: number[] = [];
  const close = (): void => {
    if (run.length >= LEAST_IN_ROW)
      storms.push({ fromMs: startMs[run[0]!]!, toMs: endMs[run[run.length - 1]!]!, rows: run });
    run = [];
  };
  for (const rows of byHeap(recording, span)) {
    for (const row of rows) {
      const last = run[run.length - 1];
      if (last !== undefined && !pilesUp(recording, run, row)) close();
      run.push(row);
    }
    close();
  }
  return spanLengthMs(span) > 0 ? storms.sort((a, b) => a.fromMs - b.fromMs) : [];
});

const wholeCollections = rememberReading((recording): RowOrder => {
  const { startMs, scope, flags } = recording.tables.collections.col;
  const left = CollectionFlag.concurrentCycle | CollectionFlag.own;
  const rows = collectionsByStart(recording).rows.filter((row) => scope[row] === Scope.whole && !(flags[row]! & left));
  const tMs = new Float64Array(rows.length);
  for (let place = 0; place < rows.length; place++) tMs[place] = startMs[rows[place]!]!;
  return { rows, tMs };
});

// Collections of two heaps that fall together are no row.
function byHeap(recording: Recording, span: Span): number[][] {
  const { heapId } = recording.tables.collections.col;
  const whole = wholeCollections(recording);
  const rows = Array.from(whole.rows.subarray(...placesWithin(whole, span.fromMs, span.toMs)));
  return recording.heaps.map((_, heap) => rows.filter((row) => heapId[row] === heap));
}

function pilesUp(recording: Recording, run: readonly number[], next: number): boolean {
  const { startMs, endMs, usedBeforeBytes, usedAfterBytes, capacityBytes } = recording.tables.collections.col;
  const last = run[run.length - 1]!;
  const limit = recording.heapLimitBytes();
  const isNearlyFull = (row: number): boolean =>
    usedAfterBytes[row]! >= NEARLY_FULL_RATIO * (limit > 0 ? limit : capacityBytes[row]!);
  const givesLittle = [last, next].every(
    (row) => usedBeforeBytes[row]! - usedAfterBytes[row]! < GAIN_RATIO * usedBeforeBytes[row]! && isNearlyFull(row),
  );
  // Without a clock nobody knows how much time lay between.
  if (givesLittle || !recording.hasClock) return givesLittle;
  const gapMs = startMs[next]! - endMs[last]!;
  if (gapMs < (endMs[last]! - startMs[last]!) * SOON_FACTOR) return true;
  const pausedMs = [...run.slice(1 - LEAST_IN_ROW), next].reduce((sum, row) => sum + endMs[row]! - startMs[row]!, 0);
  const first = run[Math.max(0, run.length - LEAST_IN_ROW + 1)]!;
  return pausedMs > TIME_RATIO * (endMs[next]! - startMs[first]!);
}
