import type { Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { usedAfterPoints } from '../floor.ts';
import { oldSpaceSeries } from '../old-space.ts';
import { collectionsByEnd } from '../row-orders.ts';
import { judgeSeries } from './judge-series.ts';

/** The most that can be staying where too few whole collections have looked: what enters the old space. */
export interface GrowthBound {
  /** Upper bound of what stays, in bytes a second, over the time judged. */
  readonly mostPerSec: number;
  readonly sinceMs: number;
  readonly points: number;
  /** Least that was used after a collection in the last third: what stays is no more than that. */
  readonly levelBytes: number;
  /** What it rests on: the sizes of the old space, or the whole heap's after collections of the young one. */
  readonly basis: 'old-space' | 'used-after';
  /** True when so little can be staying, against what is used, that nothing worth a verdict grows. */
  readonly decides: boolean;
}

const LEAST_POINTS = 6;
/** As for the floor: growth of less than this over the time judged is no growth that matters. */
const HIDDEN_GROWTH_RATIO = 0.15;
const LEAST_TOLD_STEPS = 2;
/** Share of the time that must be judged: what entered before it may stay, and went in for whatever reason. */
const LEAST_TIME_RATIO = 0.6;

/**
 * What stays cannot grow faster than what enters the old space: bytes promoted, and those allocated there at once.
 * Where the source tells the old space's sizes, that is summed; else what is used after each young collection, of which
 * the old space is a part. Null with too few collections.
 */
export function growthBound(recording: Recording, span: Span): GrowthBound | null {
  const entering = enteredOldSpace(recording, span);
  const after = usedAfterPoints(recording, span);
  const series = entering ?? enteredByTotals(recording, after);
  if (series === null || series.tMs.length < LEAST_POINTS) return null;
  const resolutionBytes = Math.max(
    0,
    ...recording.tables.collections.col.resolutionBytes
      .subarray(0, Math.min(100, recording.tables.collections.length))
      .filter((bytes) => bytes > 0),
  );
  const judged = judgeSeries(series, { resolutionBytes });
  if (Number.isNaN(judged.mostHiddenPerSec)) return null;
  const third = Math.floor((after.bytes.length * 2) / 3);
  let levelBytes = Infinity;
  for (let at = third; at < after.bytes.length; at++) levelBytes = Math.min(levelBytes, after.bytes[at]!);
  // Little may have entered during the time that one line describes, and much before it: only that time is judged.
  const seconds = judged.lengthMs / 1000;
  const small = Math.max(HIDDEN_GROWTH_RATIO * levelBytes, LEAST_TOLD_STEPS * resolutionBytes);
  const lastsLong = judged.lengthMs >= LEAST_TIME_RATIO * (series.tMs.at(-1)! - series.tMs[0]!);
  return {
    mostPerSec: judged.mostHiddenPerSec,
    sinceMs: series.tMs.at(-1)! - judged.lengthMs,
    points: series.tMs.length,
    levelBytes,
    basis: entering === null ? 'used-after' : 'old-space',
    decides: lastsLong && judged.mostHiddenPerSec * seconds <= small,
  };
}

interface Entered {
  readonly tMs: Float64Array;
  readonly bytes: Float64Array;
}

/**
 * What has entered the old space by the end of each collection: increases of its size summed. Null where its sizes are
 * not told.
 */
function enteredOldSpace(recording: Recording, span: Span): Entered | null {
  const { spaces, collections } = recording.tables;
  const { endMs } = collections.col;
  const { collectionRow, beforeBytes, afterBytes } = spaces.col;
  const { rows, series, count: spacesTold } = oldSpaceSeries(recording, span);
  const last = new Float64Array(spacesTold).fill(NaN);
  const [times, sums] = [new Float64Array(rows.length), new Float64Array(rows.length)];
  let [entered, lastRow, count] = [0, -1, 0];
  // Large objects go where they stay.
  for (let told = 0; told < rows.length; told++) {
    const at = rows[told]!;
    const row = collectionRow[at]!;
    const toMs = endMs[row]!;
    if (!(toMs >= span.fromMs && toMs <= span.toMs)) continue;
    const before = beforeBytes[at]!;
    const after = afterBytes[at]!;
    const known = last[series[told]!]!;
    const reached = before === before ? before : after;
    if (reached > known) entered += reached - known;
    if (after > reached) entered += after - reached;
    last[series[told]!] = after;
    if (row !== lastRow) times[count++] = toMs;
    sums[count - 1] = entered;
    lastRow = row;
  }
  return count === 0 ? null : { tMs: times.slice(0, count), bytes: sums.slice(0, count) };
}

// After a whole collection everything that stays is in what is used; what later young collections leave on top of it
// has entered since, or is young.
function enteredByTotals(recording: Recording, after: Entered): Entered | null {
  const { collections } = recording.tables;
  const { scope, flags, endMs, usedAfterBytes } = collections.col;
  if (recording.heaps.length > 1 || after.tMs.length === 0) return null;
  let [given, last] = [0, NaN];
  const { rows } = collectionsByEnd(recording);
  // By what was given back until then; where several end at once, the last.
  const bytes = after.bytes.slice();
  let told = 0;
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    while (told < bytes.length && after.tMs[told]! < endMs[row]!) bytes[told++]! += given;
    if (Number.isNaN(usedAfterBytes[row]!)) continue;
    // What a whole collection gives back had entered all the same.
    if (scope[row] !== Scope.young && usedAfterBytes[row]! < last && !(flags[row]! & CollectionFlag.unfinished))
      given += last - usedAfterBytes[row]!;
    last = usedAfterBytes[row]!;
  }
  while (told < bytes.length) bytes[told++]! += given;
  return { tMs: after.tMs, bytes };
}
