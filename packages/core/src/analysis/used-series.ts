import { orderBy } from '../base/order-by.ts';
import type { Recording } from '../model/recording.ts';
import { heapLives } from './heap-lives.ts';
import { rememberReading } from './remember.ts';

/** Readings of used memory in order of time, all heaps added: `bytes[i]` is what was used from `tMs[i]` on. */
export interface UsedSeries {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
}

/**
 * Used memory over time from every reading there is: both ends of each pause and of each release, and sizes read in
 * between. With several heaps each reading adds the last known use of the others. O(n log n) over pauses and size rows.
 */
export const usedSeries = rememberReading((recording: Recording): UsedSeries => {
  const { pauses, releases, sizes } = recording.tables;
  const most = (pauses.length + releases.length) * 2 + sizes.length + recording.heaps.length;
  const tMs = new Float64Array(most);
  const bytes = new Float64Array(most);
  const heap = new Uint16Array(most);
  let count = 0;
  const add = (time: number, used: number, heapId: number): void => {
    if (Number.isNaN(used)) return;
    tMs[count] = time;
    bytes[count] = used;
    heap[count++] = heapId;
  };
  for (let row = 0; row < pauses.length; row++) {
    const startMs = pauses.col.startMs[row]!;
    add(startMs, pauses.col.usedBeforeBytes[row]!, pauses.col.heapId[row]!);
    add(startMs + pauses.col.durationMs[row]!, pauses.col.usedAfterBytes[row]!, pauses.col.heapId[row]!);
  }
  for (let row = 0; row < releases.length; row++) {
    add(releases.col.startMs[row]!, releases.col.usedBeforeBytes[row]!, releases.col.heapId[row]!);
    add(releases.col.endMs[row]!, releases.col.usedAfterBytes[row]!, releases.col.heapId[row]!);
  }
  for (let row = 0; row < sizes.length; row++)
    add(sizes.col.tMs[row]!, sizes.col.usedBytes[row]!, sizes.col.heapId[row]!);
  return addHeaps({ tMs, bytes, heap, count }, recording);
});

/**
 * Used memory right after each pause and release that tells it, all heaps added: what was not given back. O(n log n) in
 * the pauses.
 */
export const usedAfterSeries = rememberReading((recording: Recording): UsedSeries => {
  const { pauses, releases } = recording.tables;
  const { startMs, durationMs, usedAfterBytes, heapId } = pauses.col;
  const most = pauses.length + releases.length + recording.heaps.length;
  const tMs = new Float64Array(most);
  const bytes = new Float64Array(most);
  const heap = new Uint16Array(most);
  let count = 0;
  for (let row = 0; row < pauses.length; row++) {
    if (Number.isNaN(usedAfterBytes[row]!)) continue;
    tMs[count] = startMs[row]! + durationMs[row]!;
    bytes[count] = usedAfterBytes[row]!;
    heap[count++] = heapId[row]!;
  }
  for (let row = 0; row < releases.length; row++) {
    tMs[count] = releases.col.endMs[row]!;
    bytes[count] = releases.col.usedAfterBytes[row]!;
    heap[count++] = releases.col.heapId[row]!;
  }
  return addHeaps({ tMs, bytes, heap, count }, recording);
});

interface Readings {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
  readonly heap: Uint16Array;
  count: number;
}

function addHeaps(readings: Readings, recording: Recording): UsedSeries {
  if (recording.heaps.length > 1) addEnds(readings, recording);
  const { tMs, bytes, heap, count } = readings;
  const order = orderBy(tMs, count);
  const used = new Float64Array(Math.max(1, recording.heaps.length));
  const outT = new Float64Array(count);
  const outBytes = new Float64Array(count);
  let total = 0;
  for (let i = 0; i < count; i++) {
    const row = order[i]!;
    total += bytes[row]! - used[heap[row]!]!;
    used[heap[row]!] = bytes[row]!;
    outT[i] = tMs[row]!;
    outBytes[i] = total;
  }
  return { tMs: outT, bytes: outBytes };
}

// A heap that ended uses nothing from then on: a reading of 0, for which there is room. Nothing else is told of it
// after that.
function addEnds(readings: Readings, recording: Recording): void {
  const { tMs, bytes, heap } = readings;
  const told = new Set(heap.subarray(0, readings.count));
  heapLives(recording).forEach(({ toMs }, heapId) => {
    if (toMs === Infinity || !told.has(heapId)) return;
    tMs[readings.count] = toMs;
    bytes[readings.count] = 0;
    heap[readings.count++] = heapId;
  });
}
