import { firstAtOrAfter } from '../../base/binary-search.ts';
import type { Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { usedAfterPoints } from '../floor.ts';
import { oldSpaceSeries } from '../old-space.ts';
import { rememberReading } from '../remember.ts';
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
  const all = allEntered(recording);
  if (!all.isRising) return entered(enteredWithin(recording, span));
  const first = firstAtOrAfter(all.tMs, span.fromMs);
  let end = firstAtOrAfter(all.tMs, span.toMs);
  while (all.tMs[end] === span.toMs) end++;
  return first === end ? null : enteredFrom(recording, first, end);
}

/** Rows of old spaces, and what enters them. */
interface EnteredRows {
  /** When each collection that tells of the space ended, and the last of its rows. */
  readonly tMs: Float64Array;
  readonly lastAt: Uint32Array;
  /** Bytes that have entered by each row, and those of them that entered since the row before of the same space. */
  readonly entered: Float64Array;
  readonly between: Float64Array;
  /** True where the ends of the collections rise. */
  readonly isRising: boolean;
}

const allEntered = rememberReading((recording) => enteredWithin(recording, { fromMs: -Infinity, toMs: Infinity }));

function enteredWithin(recording: Recording, span: Span): EnteredRows {
  const { spaces, collections } = recording.tables;
  const { endMs } = collections.col;
  const { collectionRow, beforeBytes, afterBytes } = spaces.col;
  const { rows, series, count: spacesTold, isRising } = oldSpaceSeries(recording, span);
  const last = new Float64Array(spacesTold).fill(NaN);
  const [tMs, lastAt] = [new Float64Array(rows.length), new Uint32Array(rows.length)];
  const [entered, between] = [new Float64Array(rows.length), new Float64Array(rows.length)];
  let [sum, lastRow, count] = [0, -1, 0];
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
    if (reached > known) between[told] = reached - known;
    sum += between[told]!;
    if (after > reached) sum += after - reached;
    entered[told] = sum;
    last[series[told]!] = after;
    if (row !== lastRow) tMs[count++] = toMs;
    lastAt[count - 1] = told;
    lastRow = row;
  }
  return { tMs: tMs.subarray(0, count), lastAt: lastAt.subarray(0, count), entered, between, isRising };
}

function entered({ tMs, lastAt, entered }: EnteredRows): Entered | null {
  if (tMs.length === 0) return null;
  const bytes = new Float64Array(tMs.length);
  for (let at = 0; at < bytes.length; at++) bytes[at] = entered[lastAt[at]!]!;
  return { tMs, bytes };
}

// Of a range of collections: what had entered before it is taken off, and what entered each space before its first row.
function enteredFrom(recording: Recording, first: number, end: number): Entered {
  const { tMs, lastAt, entered, between } = allEntered(recording);
  const { series, count: spacesTold } = oldSpaceSeries(recording, { fromMs: -Infinity, toMs: Infinity });
  const bytes = new Float64Array(end - first);
  const known = new Uint8Array(spacesTold);
  let told = first === 0 ? 0 : lastAt[first - 1]! + 1;
  let [before, unknown] = [told === 0 ? 0 : entered[told - 1]!, spacesTold];
  for (let at = first; at < end; at++) {
    for (; unknown > 0 && told <= lastAt[at]!; told++) {
      if (known[series[told]!] === 1) continue;
      known[series[told]!] = 1;
      unknown--;
      before += between[told]!;
    }
    bytes[at - first] = entered[lastAt[at]!]! - before;
  }
  return { tMs: tMs.subarray(first, end), bytes };
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
