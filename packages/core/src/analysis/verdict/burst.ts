import { spanLengthMs, type Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { median } from '../../stats/quantile.ts';
import { RangeRanks } from '../../stats/range-ranks.ts';
import { rememberReading } from '../remember.ts';
import { collectionsByStart, placesTouched } from '../row-orders.ts';
import type { SizeSeries } from './judge-series.ts';

/** A peak stands out when it is this many times the usual one. */
const BURST_RATIO = 2;
/** And by this many steps of the sizes more than the usual: fewer may be rounding. */
const LEAST_TOLD_STEPS = 4;
/** A burst is the lesser part of the points. */
const LEAST_LOW_RATIO = 2 / 3;
/** What is usual is not known of fewer collections. */
const LEAST_COLLECTIONS = 8;
/**
 * A heap this many times as large as usual lets more pile up before it collects: that is its own sizing, not the
 * program's demand.
 */
const RESIZED_RATIO = 1.25;

/**
 * True when the program wanted far more than usual for a while: over twice the usual peak before collections, where
 * neither the heap's own size nor the printed digit explains it. Before a young collection, or a concurrent one, a peak
 * may be garbage that waited longer; demand is then what is still there after it, and goes without a whole collection.
 * The recorder's own collections, and those that were asked for, come when they come. Linear where something stands out,
 * and for the first spans; then O(log n).
 */
export function hasBurst(recording: Recording, span: Span, resolutionBytes: number): boolean {
  if (spanLengthMs(span) <= 0) return false;
  const before = levelsBefore(recording);
  if (!standsOut(before, span, resolutionBytes)) return false;
  const { capacityBytes, flags, scope } = recording.tables.collections.col;
  const peakRow = peakRowOf(before, span);
  const capacities = capacityLevels(recording);
  const isResized =
    capacityBytes[peakRow]! > RESIZED_RATIO * capacities.ranks.median(...placesTouched(capacities, span));
  const isDemand = scope[peakRow] !== Scope.young && !(flags[peakRow]! & CollectionFlag.concurrentCycle) && !isResized;
  return isDemand || standsOut(levelsAfter(recording), span, resolutionBytes);
}

/** A size that the collections tell which count here, in order of their starts. */
interface Levels {
  readonly rows: Uint32Array;
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
  readonly ranks: RangeRanks;
}

const levelsBefore = rememberReading((recording) =>
  levelsOf(recording, recording.tables.collections.col.usedBeforeBytes, (bytes) => bytes > 0),
);
const levelsAfter = rememberReading((recording) =>
  levelsOf(recording, recording.tables.collections.col.usedAfterBytes, (bytes) => bytes >= 0),
);
const capacityLevels = rememberReading((recording) =>
  levelsOf(recording, recording.tables.collections.col.capacityBytes, (bytes) => bytes > 0),
);

function levelsOf(recording: Recording, sizes: Float64Array, isTold: (bytes: number) => boolean): Levels {
  const { flags } = recording.tables.collections.col;
  const rows = collectionsByStart(recording).rows.filter(
    (row) => !(flags[row]! & (CollectionFlag.own | CollectionFlag.explicit)) && isTold(sizes[row]!),
  );
  const [tMs, bytes] = [new Float64Array(rows.length), new Float64Array(rows.length)];
  const { startMs } = recording.tables.collections.col;
  for (let at = 0; at < rows.length; at++) {
    tMs[at] = startMs[rows[at]!]!;
    bytes[at] = sizes[rows[at]!]!;
  }
  return { rows, tMs, bytes, ranks: new RangeRanks(bytes) };
}

// The first that was not exceeded later, of all but the first few.
function peakRowOf(before: Levels, span: Span): number {
  const [first, end] = placesTouched(before, span);
  let peak = Math.min(first + LEAST_COLLECTIONS - 2, end - 1);
  for (let at = peak + 1; at < end; at++) if (before.bytes[at]! > before.bytes[peak]!) peak = at;
  return before.rows[peak]!;
}

/**
 * A floor without the stretches in which it was over twice its median, where they are the lesser part and over by the
 * end: what lives for a while only. Null where there is none. Copies.
 */
export function withoutBursts({ tMs, bytes }: SizeSeries, resolutionBytes: number): SizeSeries | null {
  const usual = median(bytes);
  const mostBytes = Math.max(BURST_RATIO * usual, usual + LEAST_TOLD_STEPS * resolutionBytes);
  const low = { tMs: new Float64Array(bytes.length), bytes: new Float64Array(bytes.length) };
  let count = 0;
  for (let at = 0; at < bytes.length; at++) {
    if (bytes[at]! > mostBytes) continue;
    low.tMs[count] = tMs[at]!;
    low.bytes[count++] = bytes[at]!;
  }
  const isHigh = (at: number): boolean => bytes[at]! > mostBytes;
  const endsLow = bytes.length >= LEAST_COLLECTIONS && !isHigh(bytes.length - 1) && !isHigh(bytes.length - 2);
  if (count === bytes.length || count < LEAST_LOW_RATIO * bytes.length || !endsLow) return null;
  return { tMs: low.tMs.slice(0, count), bytes: low.bytes.slice(0, count) };
}

function standsOut(levels: Levels, span: Span, resolutionBytes: number): boolean {
  const [first, end] = placesTouched(levels, span);
  if (first === end) return false;
  const usual = levels.ranks.median(first, end);
  const most = levels.ranks.at(first, end, end - first - 1);
  return most > Math.max(BURST_RATIO * usual, usual + LEAST_TOLD_STEPS * resolutionBytes);
}
