import { firstPlaceFrom } from '../base/binary-search.ts';
import { GrowableTable } from '../base/growable-table.ts';
import { contains, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { RuntimeTraits } from '../model/runtime-traits.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { rememberReading } from './remember.ts';
import { intervalsOf, touching } from './row-orders.ts';

/** What went into the old space between two collections of it, and what the second found dead there: parallel columns. */
export interface OldSpaceCycles {
  /** Rows of the collections that emptied it, in order of time. */
  readonly rows: Uint32Array;
  readonly fromMs: Float64Array;
  readonly toMs: Float64Array;
  readonly promotedBytes: Float64Array;
  readonly diedBytes: Float64Array;
}

/** What a row of spaces tells of. */
const SpaceKind = { other: 0, old: 1, large: 2 } as const;

/**
 * By row of spaces, what it tells of, as the runtime of its heap names it: promoted objects, those too large for the
 * young space, or anything else. Linear in the rows.
 */
const spaceKinds = rememberReading(({ tables, heaps, traits, strings }): Uint8Array => {
  const { spaces, collections } = tables;
  const kinds = new Uint8Array(spaces.length);
  const { nameId, collectionRow } = spaces.col;
  // A log has few names and many rows.
  const known: Int8Array[] = [];
  for (let at = 0; at < spaces.length; at++) {
    const heap = collections.col.heapId[collectionRow[at]!]!;
    const kindsOf = (known[heap] ??= new Int8Array(strings.length).fill(-1));
    const name = nameId[at]!;
    if (kindsOf[name]! < 0) kindsOf[name] = kindOf(heaps[heap]?.traits ?? traits, strings.text(name));
    kinds[at] = kindsOf[name]!;
  }
  return kinds;
});

function kindOf({ oldSpaces, largeSpaces }: RuntimeTraits, name: string): number {
  return oldSpaces.has(name) ? SpaceKind.old : largeSpaces.has(name) ? SpaceKind.large : SpaceKind.other;
}

const toldRows = rememberReading((recording) => {
  const { strings, tables } = recording;
  const { spaces, collections } = tables;
  const { startMs, endMs, heapId } = collections.col;
  const { collectionRow, nameId } = spaces.col;
  const kinds = spaceKinds(recording);
  let count = 0;
  for (let at = 0; at < spaces.length; at++) if (kinds[at] !== SpaceKind.other) count++;
  const rows = new Uint32Array(count);
  const series = new Uint16Array(count);
  const numbers: Int32Array[] = [];
  let numbered = 0;
  const [fromMs, toMs] = [new Float64Array(count), new Float64Array(count)];
  count = 0;
  for (let at = 0; at < spaces.length; at++) {
    if (kinds[at] === SpaceKind.other) continue;
    const row = collectionRow[at]!;
    fromMs[count] = startMs[row]!;
    toMs[count] = endMs[row]!;
    const numbersOf = (numbers[heapId[row]!] ??= new Int32Array(strings.length).fill(-1));
    if (numbersOf[nameId[at]!]! < 0) numbersOf[nameId[at]!] = numbered++;
    series[count] = numbersOf[nameId[at]!]!;
    rows[count++] = at;
  }
  return { rows, series, count: numbered, ...intervalsOf(fromMs, toMs) };
});

const wholeRows = rememberReading((recording) => {
  const { spaces, collections } = recording.tables;
  const { startMs, endMs, scope, flags } = collections.col;
  const { collectionRow, capacityBytes } = spaces.col;
  const kinds = spaceKinds(recording);
  const rows = toldRows(recording).rows.filter((at) => {
    const row = collectionRow[at]!;
    const isStop = scope[row] === Scope.whole && !(flags[row]! & CollectionFlag.concurrentCycle);
    return isStop && kinds[at] === SpaceKind.old && capacityBytes[at]! > 0;
  });
  const timesOf = (times: Float64Array): Float64Array => Float64Array.from(rows, (at) => times[collectionRow[at]!]!);
  return { rows, ...intervalsOf(timesOf(startMs), timesOf(endMs)) };
});

/**
 * Rows of spaces that tell how large the old space is after a collection of the whole heap that stopped the program, of
 * collections that touch the span and perhaps of others.
 */
export function wholeOldSpaceRows(recording: Recording, span: Span): Uint32Array {
  const told = wholeRows(recording);
  return told.rows.subarray(...touching(told, span));
}

/** Rows of old spaces with the number of the space, of so many, that each tells of: one of one heap. */
export interface OldSpaceSeries {
  readonly rows: Uint32Array;
  readonly series: Uint16Array;
  readonly count: number;
  /** True where their collections' times rise. */
  readonly isRising: boolean;
}

/** The same rows with the spaces that they tell of. */
export function oldSpaceSeries(recording: Recording, span: Span): OldSpaceSeries {
  const { rows, series, count, isRising, ...times } = toldRows(recording);
  const [first, end] = touching({ isRising, ...times }, span);
  return { rows: rows.subarray(first, end), series: series.subarray(first, end), count, isRising };
}

/** How large the old space was at most, in bytes, by its printed capacity; 0 where none is told. */
export const largestOldSpace = rememberReading((recording): number => {
  const { spaces } = recording.tables;
  const kinds = spaceKinds(recording);
  let largest = 0;
  for (let at = 0; at < spaces.length; at++)
    if (kinds[at] === SpaceKind.old) largest = Math.max(largest, spaces.col.capacityBytes[at]! || 0);
  return largest;
});

const cycleSchema = {
  row: 'u32',
  /** Where the collection's row of the old space stands among all such rows. */
  place: 'u32',
  fromMs: 'f64',
  toMs: 'f64',
  promotedBytes: 'f64',
  diedBytes: 'f64',
} as const;
type CycleTable = GrowableTable<typeof cycleSchema>;

const allCycles = rememberReading((recording): CycleTable => {
  const cycles = new GrowableTable(cycleSchema);
  const { rows } = toldRows(recording);
  walkCycles(recording, { fromMs: -Infinity, toMs: Infinity }, [0, rows.length], (cycle) => addCycle(cycles, cycle));
  return cycles;
});

/**
 * The old space of each heap, from one collection of it to the next: bytes promoted into it, and bytes that the second
 * found dead. With G1 one stretch ends with the last of a row of mixed collections. Only what the source tells of the
 * space is counted. Of one heap those of the whole recording are taken from the first on that ends as one of the span
 * does, since both begin anew there; else linear in the collections of the span.
 */
export function oldSpaceCycles(recording: Recording, span: Span): OldSpaceCycles {
  const told = toldRows(recording);
  const range = touching(told, span);
  const own = new GrowableTable(cycleSchema);
  const isOne = recording.heaps.length === 1 && told.isRising;
  const all = isOne ? allCycles(recording) : own;
  let joined = -1;
  walkCycles(recording, span, range, (cycle) => {
    addCycle(own, cycle);
    if (!isOne) return true;
    const at = firstPlaceFrom(all.length, (each) => all.col.place[each]!, cycle.place);
    if (at < all.length && all.col.place[at] === cycle.place) joined = at;
    return joined < 0;
  });
  const rest =
    joined < 0 ? [0, 0] : [joined + 1, firstPlaceFrom(all.length, (at) => told.fromMs[all.col.place[at]!]!, span.toMs)];
  const both = <T extends Uint32Array | Float64Array>(mine: T, theirs: T): T => {
    const column = new (mine.constructor as new (length: number) => T)(own.length + rest[1]! - rest[0]!);
    column.set(mine.subarray(0, own.length));
    column.set(theirs.subarray(rest[0], rest[1]), own.length);
    return column;
  };
  return {
    rows: both(own.col.row, all.col.row),
    fromMs: both(own.col.fromMs, all.col.fromMs),
    toMs: both(own.col.toMs, all.col.toMs),
    promotedBytes: both(own.col.promotedBytes, all.col.promotedBytes),
    diedBytes: both(own.col.diedBytes, all.col.diedBytes),
  };
}

interface Cycle {
  row: number;
  place: number;
  fromMs: number;
  toMs: number;
  promotedBytes: number;
  diedBytes: number;
}

function addCycle(cycles: CycleTable, cycle: Cycle): boolean {
  const at = cycles.addRow();
  const { col } = cycles;
  col.row[at] = cycle.row;
  col.place[at] = cycle.place;
  col.fromMs[at] = cycle.fromMs;
  col.toMs[at] = cycle.toMs;
  col.promotedBytes[at] = cycle.promotedBytes;
  col.diedBytes[at] = cycle.diedBytes;
  return true;
}

// Tells each cycle of a range of rows, until it is not wanted to go on.
function walkCycles(
  recording: Recording,
  span: Span,
  [first, end]: readonly [number, number],
  tell: (cycle: Cycle) => boolean,
): void {
  const { spaces, collections } = recording.tables;
  const { scope, startMs, endMs, heapId, flags } = collections.col;
  const { collectionRow, beforeBytes, afterBytes } = spaces.col;
  const open: { lastBytes: number; fromMs: number; promoted: number; died: number }[] = [];
  const kinds = spaceKinds(recording);
  const { rows } = toldRows(recording);
  for (let place = first; place < end; place++) {
    const at = rows[place]!;
    const row = collectionRow[at]!;
    if (kinds[at] !== SpaceKind.old || !contains(span, startMs[row]!)) continue;
    const before = beforeBytes[at]!;
    const after = afterBytes[at]!;
    if (Number.isNaN(before + after)) continue;
    const state = (open[heapId[row]!] ??= { lastBytes: before, fromMs: startMs[row]!, promoted: 0, died: 0 });
    // Memory that went between two collections was given back beside the program.
    if (before < state.lastBytes) state.died += state.lastBytes - before;
    else state.promoted += before - state.lastBytes;
    if (after > before) state.promoted += after - before;
    else state.died += before - after;
    state.lastBytes = after;
    const empties =
      scope[row] === Scope.whole ||
      (scope[row] === Scope.mixed && after < before) ||
      (flags[row]! & CollectionFlag.concurrentCycle) !== 0;
    if (!empties || state.died === 0) continue;
    const toMs = endMs[row]!;
    if (!tell({ row, place, fromMs: state.fromMs, toMs, promotedBytes: state.promoted, diedBytes: state.died })) return;
    open[heapId[row]!] = { lastBytes: after, fromMs: toMs, promoted: 0, died: 0 };
  }
}
