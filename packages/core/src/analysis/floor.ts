import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { heapLives, type HeapLife } from './heap-lives.ts';
import { rememberSpan } from './remember.ts';
import { collectionsByEnd } from './row-orders.ts';

/** Memory still used right after collections that freed all they could: parallel columns in order of time. */
export interface Floor {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
  /** How the points were found. */
  readonly basis: 'whole-collections' | 'window-minima' | 'all-collections';
  /** Whole-heap collections in the span, whether or not they gave a point. */
  readonly wholeCollections: number;
}

/** Fewer points of whole-heap collections than this, and the minima of equal windows are taken. */
const LEAST_WHOLE = 5;
const COLLECTIONS_PER_WINDOW = 3;
/** More windows than this would not change a trend that is judged on medians. */
const MOST_WINDOWS = 200;

/**
 * The floor's points inside the span, all heaps added. Points are the used-after of whole-heap collections, the
 * recorder's own included; a finished concurrent cycle that tells its own sizes counts at its end, with what marking
 * found alive where that is told; any other at the lowest used-after of the collections between its end and the next
 * whole collection's start, since only those empty the young space. With fewer than five, minima of used-after in as
 * many equal windows as give at least three collections each. `leastWhole` sets another number than five.
 */
export function floorPoints(recording: Recording, span: Span, leastWhole = LEAST_WHOLE): Floor {
  return leastWhole === LEAST_WHOLE ? lastFloor(recording, span) : workOutFloor(recording, span, leastWhole);
}

const lastFloor = rememberSpan((recording, span) => workOutFloor(recording, span, LEAST_WHOLE));

function workOutFloor(recording: Recording, span: Span, leastWhole: number): Floor {
  const rows = finishedRows(recording, span);
  const whole = wholePoints(recording, rows);
  // A recorder that forces whole collections will give more of them: nothing is judged by lesser points meanwhile.
  const polls = rows.some((row) => recording.tables.collections.col.flags[row]! & CollectionFlag.own);
  if (whole.points.length >= leastWhole || polls)
    return toFloor(addHeaps(whole.points, recording), 'whole-collections', whole.count);
  return toFloor(windowMinima(addHeaps(pointsOf(recording, rows), recording)), 'window-minima', whole.count);
}

/**
 * Used-after of every collection in the span. These are near the floor only where something else shows that little of
 * what they leave is garbage.
 */
export function usedAfterPoints(recording: Recording, span: Span): Floor {
  const rows = finishedRows(recording, span);
  return toFloor(addHeaps(pointsOf(recording, rows), recording), 'all-collections', wholePoints(recording, rows).count);
}

interface Point {
  readonly tMs: number;
  readonly bytes: number;
  readonly heapId: number;
}

function finishedRows(recording: Recording, span: Span): Uint32Array {
  const { flags } = recording.tables.collections.col;
  const order = collectionsByEnd(recording);
  const from = firstAtOrAfter(order.tMs, span.fromMs);
  const rows = new Uint32Array(order.rows.length - from);
  let kept = 0;
  for (let place = from; place < order.rows.length && order.tMs[place]! <= span.toMs; place++)
    if (!(flags[order.rows[place]!]! & CollectionFlag.unfinished)) rows[kept++] = order.rows[place]!;
  return rows.subarray(0, kept);
}

function pointsOf(recording: Recording, rows: Uint32Array): Point[] {
  const { usedAfterBytes } = recording.tables.collections.col;
  const points: Point[] = [];
  for (const row of rows) if (!Number.isNaN(usedAfterBytes[row]!)) points.push(pointOf(recording, row));
  return points;
}

function pointOf(recording: Recording, row: number): Point {
  const { col } = recording.tables.collections;
  // What a collector that works beside the program leaves has what was allocated meanwhile in it; what marking reached
  // has not.
  const live = col.scope[row] === Scope.whole ? col.liveBytes[row]! : NaN;
  return {
    tMs: col.endMs[row]!,
    bytes: Number.isNaN(live) ? col.usedAfterBytes[row]! : live,
    heapId: col.heapId[row]!,
  };
}

function wholePoints(recording: Recording, rows: Uint32Array): { points: Point[]; count: number } {
  const { scope, flags, usedAfterBytes, startMs } = recording.tables.collections.col;
  const points: Point[] = [];
  let count = 0;
  for (let at = 0; at < rows.length; at++) {
    const row = rows[at]!;
    if (scope[row] !== Scope.whole) continue;
    count++;
    if (!(flags[row]! & CollectionFlag.concurrentCycle) || flags[row]! & CollectionFlag.ownSizes) {
      if (!Number.isNaN(usedAfterBytes[row]!)) points.push(pointOf(recording, row));
      continue;
    }
    let lowest = -1;
    for (let next = at + 1; next < rows.length && scope[rows[next]!] !== Scope.whole; next++) {
      const candidate = rows[next]!;
      const after = startMs[candidate]! >= recording.tables.collections.col.endMs[row]!;
      if (after && !(usedAfterBytes[candidate]! >= usedAfterBytes[lowest]!)) lowest = candidate;
    }
    if (lowest >= 0) points.push(pointOf(recording, lowest));
  }
  points.sort((a, b) => a.tMs - b.tMs);
  return { points, count };
}

// Each point is the sum of what every heap that is there told last; a heap that ended holds nothing.
function addHeaps(points: readonly Point[], recording: Recording): readonly Point[] {
  if (recording.heaps.length <= 1) return points;
  const last = new Float64Array(recording.heaps.length);
  const lives = heapLives(recording);
  const ends = lives
    .map(({ toMs }, heapId) => ({ toMs, heapId }))
    .filter(({ toMs }) => toMs < Infinity)
    .sort((a, b) => a.toMs - b.toMs);
  let total = 0;
  let ended = 0;
  const sums = points.map((point) => {
    for (; ended < ends.length && ends[ended]!.toMs < point.tMs; ended++) {
      total -= last[ends[ended]!.heapId]!;
      last[ends[ended]!.heapId] = 0;
    }
    total += point.bytes - last[point.heapId]!;
    last[point.heapId] = point.bytes;
    return { ...point, bytes: total };
  });
  return sums.slice(firstComplete(points, lives));
}

// Before every heap that is there throughout has told its floor, the sum would rise just because more of them are
// known.
function firstComplete(points: readonly Point[], lives: readonly HeapLife[]): number {
  const middleMs = points.length === 0 ? 0 : (points[0]!.tMs + points[points.length - 1]!.tMs) / 2;
  const waiting = new Set(
    points
      .map((point) => point.heapId)
      .filter((heapId) => lives[heapId]!.fromMs < middleMs && lives[heapId]!.toMs > middleMs),
  );
  const complete = points.findIndex((point) => waiting.delete(point.heapId) && waiting.size === 0);
  return complete <= points.length / 2 ? Math.max(0, complete) : 0;
}

function windowMinima(points: readonly Point[]): Point[] {
  if (points.length < COLLECTIONS_PER_WINDOW) return [];
  const fromMs = points[0]!.tMs;
  const lengthMs = points[points.length - 1]!.tMs - fromMs;
  const most = Math.min(MOST_WINDOWS, Math.floor(points.length / COLLECTIONS_PER_WINDOW));
  for (let windows = most; windows > 1; windows--) {
    const minima = minimaOf(points, fromMs, lengthMs, windows);
    if (minima !== null) return minima;
  }
  return minimaOf(points, fromMs, lengthMs, 1) ?? [];
}

function minimaOf(points: readonly Point[], fromMs: number, lengthMs: number, windows: number): Point[] | null {
  const least: (Point | undefined)[] = new Array<Point | undefined>(windows).fill(undefined);
  const counts = new Uint32Array(windows);
  for (const point of points) {
    const window = lengthMs > 0 ? Math.min(windows - 1, Math.floor(((point.tMs - fromMs) / lengthMs) * windows)) : 0;
    counts[window]!++;
    const known = least[window];
    if (known === undefined || point.bytes < known.bytes) least[window] = point;
  }
  return counts.every((count) => count >= COLLECTIONS_PER_WINDOW) ? least.filter((point) => point !== undefined) : null;
}

function toFloor(points: readonly Point[], basis: Floor['basis'], wholeCollections: number): Floor {
  const floor = {
    tMs: new Float64Array(points.length),
    bytes: new Float64Array(points.length),
    basis,
    wholeCollections,
  };
  for (let at = 0; at < points.length; at++) {
    floor.tMs[at] = points[at]!.tMs;
    floor.bytes[at] = points[at]!.bytes;
  }
  return floor;
}
