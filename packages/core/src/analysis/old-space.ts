import { contains, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { RuntimeTraits } from '../model/runtime-traits.ts';
import { CollectionFlag, Scope } from '../model/tables.ts';
import { rememberReading } from './remember.ts';
import { intervalsOf, touching } from './row-orders.ts';

/** What went into the old space between two collections of it, and what the second found dead there. */
export interface OldSpaceCycle {
  /** Row of the collection that emptied it. */
  readonly row: number;
  readonly fromMs: number;
  readonly toMs: number;
  readonly promotedBytes: number;
  readonly diedBytes: number;
}

/** What a row of spaces tells of. */
export const SpaceKind = { other: 0, old: 1, large: 2 } as const;

/**
 * By row of spaces, what it tells of, as the runtime of its heap names it: promoted objects, those too large for the
 * young space, or anything else. Linear in the rows.
 */
export const spaceKinds = rememberReading(({ tables, heaps, traits, strings }): Uint8Array => {
  const { spaces, collections } = tables;
  const kinds = new Uint8Array(spaces.length);
  const { nameId, collectionRow } = spaces.col;
  // A log has few names and many rows.
  const known = heaps.map(() => new Map<number, number>());
  for (let at = 0; at < spaces.length; at++) {
    const heap = collections.col.heapId[collectionRow[at]!]!;
    let kind = known[heap]?.get(nameId[at]!);
    if (kind === undefined) {
      kind = kindOf(heaps[heap]?.traits ?? traits, strings.text(nameId[at]!));
      known[heap]?.set(nameId[at]!, kind);
    }
    kinds[at] = kind;
  }
  return kinds;
});

function kindOf({ oldSpaces, largeSpaces }: RuntimeTraits, name: string): number {
  return oldSpaces.has(name) ? SpaceKind.old : largeSpaces.has(name) ? SpaceKind.large : SpaceKind.other;
}

const toldRows = rememberReading((recording) => {
  const { strings, tables } = recording;
  const { spaces, collections } = tables;
  const kinds = spaceKinds(recording);
  let count = 0;
  for (let at = 0; at < spaces.length; at++) if (kinds[at] !== SpaceKind.other) count++;
  const rows = new Uint32Array(count);
  const series = new Uint16Array(count);
  const numbers = new Map<number, number>();
  const [fromMs, toMs] = [new Float64Array(count), new Float64Array(count)];
  count = 0;
  for (let at = 0; at < spaces.length; at++) {
    if (kinds[at] === SpaceKind.other) continue;
    const row = spaces.col.collectionRow[at]!;
    fromMs[count] = collections.col.startMs[row]!;
    toMs[count] = collections.col.endMs[row]!;
    const key = collections.col.heapId[row]! * strings.length + spaces.col.nameId[at]!;
    let number = numbers.get(key);
    if (number === undefined) numbers.set(key, (number = numbers.size));
    series[count] = number;
    rows[count++] = at;
  }
  return { rows, series, count: numbers.size, ...intervalsOf(fromMs, toMs) };
});

/**
 * Rows of spaces that tell of the old space or of large objects, of collections that touch the span and perhaps of
 * others.
 */
export function oldSpaceRows(recording: Recording, span: Span): Uint32Array {
  const told = toldRows(recording);
  return told.rows.subarray(...touching(told, span));
}

/** The same with the number of the space, of so many, that each row tells of: one of one heap. */
export function oldSpaceSeries(
  recording: Recording,
  span: Span,
): { readonly rows: Uint32Array; readonly series: Uint16Array; readonly count: number } {
  const told = toldRows(recording);
  const [first, end] = touching(told, span);
  return { rows: told.rows.subarray(first, end), series: told.series.subarray(first, end), count: told.count };
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

/**
 * The old space of each heap, from one collection of it to the next: bytes promoted into it, and bytes that the second
 * found dead. With G1 one stretch ends with the last of a row of mixed collections. Only what the source tells of the
 * space is counted. Linear in the collections of the span.
 */
export function oldSpaceCycles(recording: Recording, span: Span): OldSpaceCycle[] {
  const { spaces, collections } = recording.tables;
  const { scope, startMs, endMs, heapId, flags } = collections.col;
  const { collectionRow, beforeBytes, afterBytes } = spaces.col;
  const open: { lastBytes: number; fromMs: number; promoted: number; died: number }[] = [];
  const cycles: OldSpaceCycle[] = [];
  const kinds = spaceKinds(recording);
  const rows = oldSpaceRows(recording, span);
  for (let told = 0; told < rows.length; told++) {
    const at = rows[told]!;
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
    cycles.push({ row, fromMs: state.fromMs, toMs: endMs[row]!, promotedBytes: state.promoted, diedBytes: state.died });
    open[heapId[row]!] = { lastBytes: after, fromMs: endMs[row]!, promoted: 0, died: 0 };
  }
  return cycles;
}
