import { z } from 'zod';
import { NONE } from '../base/ids.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';
import { measure } from './measure.ts';
import { known } from './overview.ts';
import { scopeName } from './ribbon.ts';

/** All that is known of the collection a pause belongs to. Null where the source does not tell. */
export interface CollectionDetail {
  readonly pauseRow: number;
  readonly label: string;
  readonly cause: string;
  readonly scope: string;
  readonly heap: string;
  readonly startMs: number;
  readonly durationMs: number;
  readonly own: boolean;
  readonly explicit: boolean;
  readonly failed: boolean;
  readonly degenerated: boolean;
  readonly usedBeforeBytes: number | null;
  readonly usedAfterBytes: number | null;
  readonly capacityBytes: number | null;
  readonly promotedBytes: number | null;
  readonly concurrentMs: number | null;
  readonly cpu: { readonly userMs: number; readonly sysMs: number; readonly realMs: number } | null;
  /** Since the last collection of the heap began. */
  readonly sinceLastMs: number | null;
  /** Until every thread had stopped, of the safepoint that this pause lies in. */
  readonly reachMs: number | null;
  readonly gcId: number | null;
  readonly line: number | null;
  readonly spaces: readonly { readonly name: string; readonly beforeBytes: number; readonly afterBytes: number }[];
  readonly ages: readonly { readonly age: number; readonly bytes: number }[];
  /** Other pauses of the same collection. */
  readonly others: readonly { readonly row: number; readonly label: string; readonly durationMs: number }[];
}

/** Answers `collection` of a row of pauses. */
export function collectionDetailOf(recording: Recording, pauseRow: number): CollectionDetail {
  const { pauses, collections } = recording.tables;
  const { col } = collections;
  const row = pauses.col.collectionRow[pauseRow]!;
  const told = row !== NONE;
  const flags = told ? col.flags[row]! : 0;
  const of = (column: Float64Array | Float32Array): number | null => (told ? known(column[row]!) : null);
  return {
    pauseRow,
    label: recording.strings.text(pauses.col.labelId[pauseRow]!),
    cause: recording.strings.text(pauses.col.causeId[pauseRow]!),
    scope: scopeName(pauses.col.scope[pauseRow]!),
    heap: recording.heaps.length > 1 ? recording.heaps[pauses.col.heapId[pauseRow]!]!.name : '',
    startMs: pauses.col.startMs[pauseRow]!,
    durationMs: pauses.col.durationMs[pauseRow]!,
    own: pauses.col.flags[pauseRow] !== 0,
    explicit: (flags & CollectionFlag.explicit) !== 0,
    failed: (flags & CollectionFlag.evacuationFailed) !== 0,
    degenerated: (flags & CollectionFlag.degenerated) !== 0,
    usedBeforeBytes: known(pauses.col.usedBeforeBytes[pauseRow]!),
    usedAfterBytes: known(pauses.col.usedAfterBytes[pauseRow]!),
    capacityBytes: of(col.capacityBytes),
    promotedBytes: of(col.promotedBytes),
    concurrentMs: of(col.concurrentMs),
    cpu:
      told && col.realMs[row]! >= 0
        ? { userMs: col.userMs[row]!, sysMs: col.sysMs[row]!, realMs: col.realMs[row]! }
        : null,
    sinceLastMs: told ? sinceLast(recording, row) : null,
    reachMs: reachOf(recording, pauseRow),
    gcId: told && col.gcId[row] !== NONE ? col.gcId[row]! : null,
    line: pauses.col.line[pauseRow] === NONE ? null : pauses.col.line[pauseRow]!,
    ...partsOf(recording, row, pauseRow),
  };
}

function partsOf(
  recording: Recording,
  row: number,
  pauseRow: number,
): Pick<CollectionDetail, 'spaces' | 'ages' | 'others'> {
  if (row === NONE) return { spaces: [], ages: [], others: [] };
  const { spaces, ages, pauses } = recording.tables;
  const text = (id: number): string => recording.strings.text(id);
  return {
    spaces: rowsOf(spaces.col.collectionRow, spaces.length, row).map((at) => ({
      name: text(spaces.col.nameId[at]!),
      beforeBytes: spaces.col.beforeBytes[at]!,
      afterBytes: spaces.col.afterBytes[at]!,
    })),
    ages: rowsOf(ages.col.collectionRow, ages.length, row).map((at) => ({
      age: ages.col.age[at]!,
      bytes: ages.col.bytes[at]!,
    })),
    others: rowsOf(pauses.col.collectionRow, pauses.length, row)
      .filter((at) => at !== pauseRow)
      .map((at) => ({ row: at, label: text(pauses.col.labelId[at]!), durationMs: pauses.col.durationMs[at]! })),
  };
}

function rowsOf(collectionRow: Uint32Array, length: number, wanted: number): number[] {
  const rows: number[] = [];
  for (let at = 0; at < length; at++) if (collectionRow[at] === wanted) rows.push(at);
  return rows;
}

function sinceLast(recording: Recording, row: number): number | null {
  const { length, col } = recording.tables.collections;
  let lastMs = -Infinity;
  for (let at = 0; at < length; at++) {
    if (
      at !== row &&
      col.heapId[at] === col.heapId[row] &&
      col.startMs[at]! < col.startMs[row]! &&
      col.startMs[at]! > lastMs
    )
      lastMs = col.startMs[at]!;
  }
  return recording.hasClock ? known(col.startMs[row]! - lastMs) : null;
}

// The stop is logged after the pause, and its clock is read a little apart.
function reachOf(recording: Recording, pauseRow: number): number | null {
  const { safepoints, pauses } = recording.tables;
  const middleMs = pauses.col.startMs[pauseRow]! + pauses.col.durationMs[pauseRow]! / 2;
  for (let at = 0; at < safepoints.length; at++) {
    const startMs = safepoints.col.startMs[at]!;
    if (startMs <= middleMs && middleMs <= startMs + safepoints.col.totalMs[at]!) return safepoints.col.reachMs[at]!;
  }
  return null;
}

/** All that is known of the collection a pause belongs to. */
export const collection = measure({
  name: 'collection',
  title: 'all that is known of the collection that a pause belongs to',
  needs: 'collections',
  ask: z.strictObject({ row: z.number().int().min(0).describe('row of the pause, as collections gives it') }),
  answer: (side, { row }): CollectionDetail | null =>
    row < side.recording.tables.pauses.length ? collectionDetailOf(side.recording, row) : null,
});
