import { firstAtOrAfter } from '../base/binary-search.ts';
import { NONE } from '../base/ids.ts';
import { orderBy } from '../base/order-by.ts';
import { contains, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';
import { RangeSums } from '../stats/range-sums.ts';
import { Z_95 } from '../stats/z-95.ts';
import { rememberReading } from './remember.ts';
import { intervalsOf, placesWithin } from './row-orders.ts';

/** What was allocated at least and at most, in bytes; `highBytes` NaN where nothing limits it. */
export interface AllocationBounds {
  readonly lowBytes: number;
  readonly highBytes: number;
}

/**
 * Memory is handed out in pieces that need not be filled: of what the sizes say, this much may be no object's.
 * Measured: up to 3.3 % over 90 logs.
 */
const UNFILLED_RATIO = 0.05;
/**
 * And so many bytes whatever the total: what the runtime makes of its own, and the pieces in use at the two ends.
 * Measured: up to 3 MB.
 */
const UNFILLED_BYTES = 4 * 1024 * 1024;
/** Collectors that count pages have their last ones in use at every cycle: two of 2 MiB, by the logs. */
const PAGES_BYTES = 4 * 1024 * 1024;
/** An object of half a region and more takes whole regions of its own: at least half of them is filled. */
const LARGE_FILLED_RATIO = 0.5;

/**
 * Bounds of a total that was worked out from the sizes around collections in a span. Below, what collectors copy while
 * the program runs is left out, and what their pieces may hold unfilled; above, all that could be allocated after the
 * last reading is added. Linear.
 */
export function allocationBounds(
  recording: Recording,
  span: Span,
  total: { readonly totalBytes: number; readonly se: number },
): AllocationBounds {
  const { totalBytes, se } = total;
  const concurrent = recording.freesConcurrently ? copiedMeanwhile(recording, span) : { bytes: 0, cycles: 0 };
  const low =
    (totalBytes - concurrent.bytes - (1 - LARGE_FILLED_RATIO) * largeBytes(recording, span, totalBytes)) *
      (1 - UNFILLED_RATIO) -
    UNFILLED_BYTES -
    PAGES_BYTES * concurrent.cycles -
    Z_95 * se;
  const isSeen = !recording.freesConcurrently || seesCycles(recording);
  const high = isSeen
    ? totalBytes * (1 + UNFILLED_RATIO) + UNFILLED_BYTES + roomAfter(recording, span) + Z_95 * se
    : NaN;
  return { lowBytes: Math.max(0, low), highBytes: high };
}

/**
 * What was added between the readings inside one cycle, where the collector's own copies are counted too; and the
 * cycles of collectors that count pages.
 */
function copiedMeanwhile(recording: Recording, span: Span): { bytes: number; cycles: number } {
  const { releases, collections } = recording.tables;
  const { startMs, usedBeforeBytes, usedAfterBytes, allocatedBytes } = releases.col;
  let [bytes, cycles] = [0, 0];
  const { before } = cycleSteps(recording);
  for (let row = 0; row < releases.length; row++) {
    if (!contains(span, startMs[row]!)) continue;
    const known = before[row]!;
    if (known >= 0 && contains(span, startMs[known]!))
      bytes += Math.max(0, usedBeforeBytes[row]! - usedAfterBytes[known]!);
    if (allocatedBytes[row]! > 0) bytes += allocatedBytes[row]!;
  }
  for (let row = 0; row < collections.length; row++)
    if (contains(span, collections.col.startMs[row]!) && collections.col.flags[row]! & CollectionFlag.endPrinted)
      cycles++;
  return { bytes, cycles };
}

/**
 * What collections tell of objects which take whole regions: by how many bytes they had grown since the one before, and
 * when each began and ended.
 */
const regionRows = rememberReading(({ tables: { spaces, collections }, strings }) => {
  const name = strings.find('Humongous');
  const { nameId, collectionRow } = spaces.col;
  let count = 0;
  for (let at = 0; name !== NONE && at < spaces.length; at++) if (nameId[at] === name) count++;
  const rows = new Uint32Array(count);
  const [fromMs, toMs] = [new Float64Array(count), new Float64Array(count)];
  for (let at = 0, place = 0; place < count; at++) {
    if (nameId[at] !== name) continue;
    fromMs[place] = collections.col.startMs[collectionRow[at]!]!;
    toMs[place] = collections.col.endMs[collectionRow[at]!]!;
    rows[place++] = at;
  }
  const { beforeBytes, afterBytes } = spaces.col;
  const grown = (place: number): number => {
    const last = place === 0 ? 0 : afterBytes[rows[place - 1]!]!;
    return Math.max(0, beforeBytes[rows[place]!]! - last);
  };
  return { grown, sums: new RangeSums(count, grown), ...intervalsOf(fromMs, toMs) };
});

/** True where a collection had such an object for its cause. */
const hasRegionCause = rememberReading(({ tables: { collections }, strings }): boolean => {
  for (let row = 0; row < collections.length; row++)
    if (strings.text(collections.col.causeId[row]!).includes('Humongous')) return true;
  return false;
});

// Objects that take whole regions: told as a space, or else by the cause of a collection, of which nothing says how
// much it was.
function largeBytes(recording: Recording, span: Span, totalBytes: number): number {
  const told = regionRows(recording);
  if (told.fromMs.length === 0) return hasRegionCause(recording) ? totalBytes : 0;
  if (told.isRising) {
    const [first, end] = placesWithin({ tMs: told.fromMs }, span.fromMs, span.toMs);
    const { sum, known } = told.sums.within(first, end);
    return known < end - first ? NaN : sum;
  }
  let bytes = 0;
  for (let place = 0; place < told.fromMs.length; place++)
    if (contains(span, told.fromMs[place]!)) bytes += told.grown(place);
  return bytes;
}

/** The release before each one in the same cycle, −1 for a first one; and whether any cycle has several. */
const cycleSteps = rememberReading(({ tables: { releases, collections } }) => {
  const { collectionRow } = releases.col;
  const before = new Int32Array(releases.length).fill(-1);
  // Of releases in no cycle that is known, the last place.
  const last = new Int32Array(collections.length + 1).fill(-1);
  let areSeveral = false;
  for (let row = 0; row < releases.length; row++) {
    const cycle = Math.min(collectionRow[row]!, collections.length);
    before[row] = last[cycle]!;
    areSeveral ||= before[row]! >= 0;
    last[cycle] = row;
  }
  return { before, areSeveral };
});

/**
 * True where the source tells what was allocated while each cycle ran, or shows memory at every step that gives some
 * back.
 */
const seesCycles = rememberReading((recording): boolean => {
  const { releases } = recording.tables;
  for (let row = 0; row < releases.length; row++) if (releases.col.allocatedBytes[row]! >= 0) return true;
  return cycleSteps(recording).areSeveral;
});

/** No machine hands out memory faster: 200 GiB a second. */
const MOST_BYTES_PER_MS = (200 * 2 ** 30) / 1000;

/** The most that the heap was seen to have, used or not. */
const largestHeap = rememberReading(({ tables: { collections } }): number => {
  const { capacityBytes, usedBeforeBytes } = collections.col;
  let largest = 0;
  for (let row = 0; row < collections.length; row++)
    largest = Math.max(largest, capacityBytes[row]! || 0, usedBeforeBytes[row]! || 0);
  return largest;
});

/** What was used after pauses and releases, in order of their ends; of several at one instant the last row comes last. */
const readingsAfter = rememberReading(({ tables: { pauses, releases } }) => {
  const most = pauses.length + releases.length;
  const [ends, after] = [new Float64Array(most), new Float64Array(most)];
  let count = 0;
  const add = (tMs: number, bytes: number): void => {
    if (Number.isNaN(bytes) || Number.isNaN(tMs)) return;
    ends[count] = tMs;
    after[count++] = bytes;
  };
  for (let row = 0; row < pauses.length; row++)
    add(pauses.col.startMs[row]! + pauses.col.durationMs[row]!, pauses.col.usedAfterBytes[row]!);
  for (let row = 0; row < releases.length; row++) add(releases.col.endMs[row]!, releases.col.usedAfterBytes[row]!);
  const order = orderBy(ends, count);
  const [tMs, bytes] = [new Float64Array(count), new Float64Array(count)];
  for (let place = 0; place < count; place++) {
    tMs[place] = ends[order[place]!]!;
    bytes[place] = after[order[place]!]!;
  }
  return { tMs, bytes };
});

// What the heap could take after its last collection, if the span goes on after it: what later readings show, and what
// fits after the last of those.
function roomAfter(recording: Recording, span: Span): number {
  const largest = largestHeap(recording);
  const limit = recording.heapLimitBytes();
  const readings = readingsAfter(recording);
  let last = firstAtOrAfter(readings.tMs, span.toMs);
  while (readings.tMs[last] === span.toMs) last++;
  const lastMs = readings.tMs[last - 1] ?? -Infinity;
  const after = readings.bytes[last - 1] ?? 0;
  if (!(spanLengthMs(span) > 0 && span.toMs > lastMs)) return 0;
  const reading = recording.heaps.length > 1 ? null : lastSize(recording, lastMs, span.toMs);
  const grown = reading === null ? 0 : Math.max(0, reading.usedBytes - after);
  const fits = Math.max(0, (limit > 0 ? Math.max(limit, largest) : largest) - (reading?.usedBytes ?? after));
  return grown + Math.min(fits, (span.toMs - Math.max(lastMs, reading?.tMs ?? lastMs)) * MOST_BYTES_PER_MS);
}

// The last reading of used memory between two instants: nothing was given back since the last collection, so what it
// shows was allocated.
function lastSize(
  {
    tables: {
      sizes: { length, col },
    },
  }: Recording,
  fromMs: number,
  toMs: number,
): { tMs: number; usedBytes: number } | null {
  for (let row = length - 1; row >= 0 && col.tMs[row]! >= fromMs; row--) {
    if (col.tMs[row]! <= toMs && col.usedBytes[row]! >= 0)
      return { tMs: col.tMs[row]!, usedBytes: col.usedBytes[row]! };
  }
  return null;
}
