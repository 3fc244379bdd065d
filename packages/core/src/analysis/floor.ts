import { firstAtOrAfter, firstPlaceFrom } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { heapLives, type HeapLife } from './heap-lives.ts';
import { rememberReading, rememberSpan } from './remember.ts';
import { collectionsByEnd, placesTouched, type RowOrder } from './row-orders.ts';

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
  const whole = wholePoints(recording, span);
  // A recorder that forces whole collections will give more of them: nothing is judged by lesser points meanwhile.
  if (whole.points.tMs.length >= leastWhole || isPolled(recording, span))
    return {
      ...columnsOf(addHeaps(whole.points, recording)),
      basis: 'whole-collections',
      wholeCollections: whole.count,
    };
  const minima = windowMinima(addHeaps(pointsIn(recording, span), recording));
  return { ...minima, basis: 'window-minima', wholeCollections: whole.count };
}

/**
 * Used-after of every collection in the span. These are near the floor only where something else shows that little of
 * what they leave is garbage.
 */
export const usedAfterPoints = rememberSpan((recording: Recording, span: Span): Floor => {
  const points = columnsOf(addHeaps(pointsIn(recording, span), recording));
  return { ...points, basis: 'all-collections', wholeCollections: wholePoints(recording, span).count };
});

/** Parallel columns, in order of time. */
interface Points {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
  readonly heapId: Uint16Array;
}

type Columns = Pick<Floor, 'tMs' | 'bytes'>;

function columnsOf({ tMs, bytes }: Points): Columns {
  return { tMs, bytes };
}

/** Collections that are done, in order of their ends; those of the whole heap among them, and those of the recorder. */
interface Finished extends RowOrder {
  /**
   * Of collections of the whole heap, their places in the order, and those of the ones whose used-after tells what they
   * left: −1 for none.
   */
  readonly whole: Int32Array;
  readonly toldAt: Int32Array;
  readonly own: Float64Array;
  readonly points: Points;
}

const finished = rememberReading((recording: Recording): Finished => {
  const { flags, scope, usedAfterBytes, endMs } = recording.tables.collections.col;
  const all = collectionsByEnd(recording).rows;
  const rows = new Uint32Array(all.length);
  let count = 0;
  for (let at = 0; at < all.length; at++) if (!(flags[all[at]!]! & CollectionFlag.unfinished)) rows[count++] = all[at]!;
  const done = rows.subarray(0, count);
  const tMs = new Float64Array(count);
  const [whole, toldAt] = [new Int32Array(count), new Int32Array(count)];
  const own: number[] = [];
  let [wholeCount, told] = [0, 0];
  const toldRows = new Uint32Array(count);
  for (let place = 0; place < count; place++) {
    const row = done[place]!;
    tMs[place] = endMs[row]!;
    if (flags[row]! & CollectionFlag.own) own.push(endMs[row]!);
    if (scope[row] === Scope.whole) {
      whole[wholeCount] = place;
      toldAt[wholeCount++] = toldAfter(recording, done, place);
    }
    const used = usedAfterBytes[row]!;
    if (used === used) toldRows[told++] = row;
  }
  return {
    rows: done,
    tMs,
    whole: whole.subarray(0, wholeCount),
    toldAt: toldAt.subarray(0, wholeCount),
    own: Float64Array.from(own),
    points: pointsAt(recording, toldRows.subarray(0, told)),
  };
});

// Where what a collection of the whole heap left is told: by itself; or, of one that works beside the program, by the
// lowest of those that begin after its end and come before the next one.
function toldAfter(recording: Recording, rows: Uint32Array, place: number): number {
  const { scope, flags, usedAfterBytes, startMs, endMs } = recording.tables.collections.col;
  const row = rows[place]!;
  if (!(flags[row]! & CollectionFlag.concurrentCycle) || flags[row]! & CollectionFlag.ownSizes)
    return Number.isNaN(usedAfterBytes[row]!) ? -1 : place;
  let lowest = -1;
  for (let next = place + 1; next < rows.length && scope[rows[next]!] !== Scope.whole; next++) {
    const after = startMs[rows[next]!]! >= endMs[row]!;
    if (after && !(usedAfterBytes[rows[next]!]! >= usedAfterBytes[rows[lowest]!]!)) lowest = next;
  }
  return lowest;
}

function isPolled(recording: Recording, span: Span): boolean {
  const { own } = finished(recording);
  return own[firstAtOrAfter(own, span.fromMs)]! <= span.toMs;
}

function pointsIn(recording: Recording, span: Span): Points {
  const { points } = finished(recording);
  const [first, end] = placesTouched(points, span);
  return {
    tMs: points.tMs.subarray(first, end),
    bytes: points.bytes.subarray(first, end),
    heapId: points.heapId.subarray(first, end),
  };
}

// What a collector that works beside the program leaves has what was allocated meanwhile in it; what marking reached has
// not.
function pointsAt(recording: Recording, rows: ArrayLike<number>): Points {
  const { scope, liveBytes, usedAfterBytes, endMs, heapId } = recording.tables.collections.col;
  const count = rows.length;
  const points = { tMs: new Float64Array(count), bytes: new Float64Array(count), heapId: new Uint16Array(count) };
  for (let at = 0; at < count; at++) {
    const row = rows[at]!;
    const live = scope[row] === Scope.whole ? liveBytes[row]! : NaN;
    points.tMs[at] = endMs[row]!;
    points.bytes[at] = live === live ? live : usedAfterBytes[row]!;
    points.heapId[at] = heapId[row]!;
  }
  return points;
}

function wholePoints(recording: Recording, span: Span): { points: Points; count: number } {
  const { endMs } = recording.tables.collections.col;
  const { rows, whole, toldAt, tMs } = finished(recording);
  const [first, end] = placesTouched({ tMs }, span);
  const told: number[] = [];
  let inOrder = true;
  const from = firstPlaceFrom(whole.length, (each) => whole[each]!, first);
  const to = firstPlaceFrom(whole.length, (each) => whole[each]!, end);
  for (let each = from; each < to; each++) {
    // The span may end before what tells it: then the lowest until there does.
    const at = toldAt[each]! < end ? toldAt[each]! : toldAfter(recording, rows.subarray(0, end), whole[each]!);
    if (at < 0) continue;
    inOrder &&= told.length === 0 || endMs[rows[at]!]! >= endMs[told[told.length - 1]!]!;
    told.push(rows[at]!);
  }
  if (!inOrder) told.sort((a, b) => endMs[a]! - endMs[b]!);
  return { points: pointsAt(recording, told), count: to - from };
}

// Each point is the sum of what every heap that is there told last; a heap that ended holds nothing.
function addHeaps(points: Points, recording: Recording): Points {
  if (recording.heaps.length <= 1) return points;
  const last = new Float64Array(recording.heaps.length);
  const lives = heapLives(recording);
  const ends = lives
    .map(({ toMs }, heapId) => ({ toMs, heapId }))
    .filter(({ toMs }) => toMs < Infinity)
    .sort((a, b) => a.toMs - b.toMs);
  let total = 0;
  let ended = 0;
  const sums = new Float64Array(points.tMs.length);
  for (let at = 0; at < sums.length; at++) {
    for (; ended < ends.length && ends[ended]!.toMs < points.tMs[at]!; ended++) {
      total -= last[ends[ended]!.heapId]!;
      last[ends[ended]!.heapId] = 0;
    }
    total += points.bytes[at]! - last[points.heapId[at]!]!;
    last[points.heapId[at]!] = points.bytes[at]!;
    sums[at] = total;
  }
  const first = firstComplete(points, lives);
  return { tMs: points.tMs.subarray(first), bytes: sums.subarray(first), heapId: points.heapId.subarray(first) };
}

// Before every heap that is there throughout has told its floor, the sum would rise just because more of them are
// known.
function firstComplete({ tMs, heapId }: Points, lives: readonly HeapLife[]): number {
  const middleMs = tMs.length === 0 ? 0 : (tMs[0]! + tMs[tMs.length - 1]!) / 2;
  const waiting = new Set(
    Array.from(new Set(heapId)).filter((heap) => lives[heap]!.fromMs < middleMs && lives[heap]!.toMs > middleMs),
  );
  const complete = heapId.findIndex((heap) => waiting.delete(heap) && waiting.size === 0);
  return complete <= tMs.length / 2 ? Math.max(0, complete) : 0;
}

function windowMinima(points: Points): Columns {
  const none = { tMs: new Float64Array(0), bytes: new Float64Array(0) };
  const count = points.tMs.length;
  if (count < COLLECTIONS_PER_WINDOW) return none;
  const most = Math.min(MOST_WINDOWS, Math.floor(count / COLLECTIONS_PER_WINDOW));
  for (let windows = most; windows > 1; windows--) {
    const minima = minimaOf(points, windows);
    if (minima !== null) return minima;
  }
  return minimaOf(points, 1) ?? none;
}

function minimaOf({ tMs, bytes }: Points, windows: number): Columns | null {
  const fromMs = tMs[0]!;
  const lengthMs = tMs[tMs.length - 1]! - fromMs;
  const least = new Int32Array(windows).fill(-1);
  const counts = new Uint32Array(windows);
  for (let at = 0; at < tMs.length; at++) {
    const window = lengthMs > 0 ? Math.min(windows - 1, Math.floor(((tMs[at]! - fromMs) / lengthMs) * windows)) : 0;
    counts[window]!++;
    if (least[window] === -1 || bytes[at]! < bytes[least[window]!]!) least[window] = at;
  }
  if (!counts.every((count) => count >= COLLECTIONS_PER_WINDOW)) return null;
  return { tMs: Float64Array.from(least, (at) => tMs[at]!), bytes: Float64Array.from(least, (at) => bytes[at]!) };
}
