import { spanLengthMs, type Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { collectionsFrom } from '../row-orders.ts';
import type { SizeSeries } from './judge-series.ts';
import { median } from '../../stats/quantile.ts';

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
 * The recorder's own collections, and those that were asked for, come when they come. Linear.
 */
export function hasBurst(recording: Recording, span: Span, resolutionBytes: number): boolean {
  const { usedBeforeBytes, capacityBytes, flags, scope } = recording.tables.collections.col;
  const rows = collectionsFrom(recording, span);
  const before = new Float64Array(rows.length);
  let [peakRow, count] = [-1, 0];
  const isCounted = (row: number): boolean => !(flags[row]! & (CollectionFlag.own | CollectionFlag.explicit));
  for (let at = 0; at < rows.length; at++) {
    const row = rows[at]!;
    if (!isCounted(row) || !(usedBeforeBytes[row]! > 0)) continue;
    before[count++] = usedBeforeBytes[row]!;
    if (count < LEAST_COLLECTIONS || usedBeforeBytes[row]! > usedBeforeBytes[peakRow]!) peakRow = row;
  }
  if (peakRow < 0 || spanLengthMs(span) <= 0 || !standsOut(before.subarray(0, count), resolutionBytes)) return false;
  const { after, capacities } = levelsOf(recording, rows, isCounted);
  const isResized = capacityBytes[peakRow]! > RESIZED_RATIO * median(capacities);
  const isDemand = scope[peakRow] !== Scope.young && !(flags[peakRow]! & CollectionFlag.concurrentCycle) && !isResized;
  return isDemand || standsOut(after, resolutionBytes);
}

// Used memory after collections and the heap's size at them, where either is told.
function levelsOf(
  recording: Recording,
  rows: Uint32Array,
  isCounted: (row: number) => boolean,
): { after: Float64Array; capacities: Float64Array } {
  const { usedAfterBytes, capacityBytes } = recording.tables.collections.col;
  const after = new Float64Array(rows.length);
  const capacities = new Float64Array(rows.length);
  let [afterCount, capacityCount] = [0, 0];
  for (let at = 0; at < rows.length; at++) {
    const row = rows[at]!;
    if (!isCounted(row)) continue;
    if (usedAfterBytes[row]! >= 0) after[afterCount++] = usedAfterBytes[row]!;
    if (capacityBytes[row]! > 0) capacities[capacityCount++] = capacityBytes[row]!;
  }
  return { after: after.subarray(0, afterCount), capacities: capacities.subarray(0, capacityCount) };
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

function standsOut(levels: Float64Array, resolutionBytes: number): boolean {
  if (levels.length === 0) return false;
  const usual = median(levels);
  let most = levels[0]!;
  for (let at = 1; at < levels.length; at++) if (levels[at]! > most) most = levels[at]!;
  return most > Math.max(BURST_RATIO * usual, usual + LEAST_TOLD_STEPS * resolutionBytes);
}
