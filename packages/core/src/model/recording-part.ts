import type { GrowableTable, TableSchema } from '../base/growable-table.ts';
import { NONE } from '../base/ids.ts';
import type { Recording } from './recording.ts';
import type { RecordingTables } from './tables.ts';

/**
 * A recording that has some tables of its own, and reads everything else from another: strings, frames, paths, origins,
 * notes, and settings, also those that are given later. When the other has grown, the part must be made anew: its own
 * tables do not grow with it.
 */
export function partOf(
  recording: Recording,
  tables: Partial<RecordingTables>,
  chosenHeaps = recording.chosenHeaps,
): Recording {
  return Object.create(recording, {
    tables: { value: { ...recording.tables, ...tables }, enumerable: true },
    chosenHeaps: { value: chosenHeaps, enumerable: true },
  }) as Recording;
}

/**
 * The recording as if it had some of its heaps only; marks, which speak of the whole program, stay. Linear in the
 * tables.
 */
export function heapsPart(recording: Recording, heapIds: readonly number[]): Recording {
  const { tables } = recording;
  const ofHeaps = maskOf(recording, heapIds);
  const chosen = {
    origins: Uint8Array.from(
      tables.origins.col.heapId.subarray(0, tables.origins.length),
      (heapId) => ofHeaps[heapId]!,
    ),
    collections: Uint8Array.from(
      tables.collections.col.heapId.subarray(0, tables.collections.length),
      (heapId) => ofHeaps[heapId]!,
    ),
  };
  const newRow = renumbered(chosen.collections);
  const ofHeap = <S extends TableSchema & { readonly heapId: 'u16' }>(table: GrowableTable<S>): GrowableTable<S> =>
    table.picked(rowsOf(ofHeaps, table.col.heapId, table.length));
  const ofOrigin = <S extends TableSchema & { readonly originId: 'u32' }>(table: GrowableTable<S>): GrowableTable<S> =>
    table.picked(rowsOf(chosen.origins, table.col.originId, table.length));
  const ofCollection = <S extends TableSchema & { readonly collectionRow: 'u32' }>(
    table: GrowableTable<S>,
  ): GrowableTable<S> =>
    pointed(table.picked(rowsOf(chosen.collections, table.col.collectionRow, table.length)), newRow);
  return partOf(
    recording,
    {
      objects: ofOrigin(tables.objects),
      flows: ofOrigin(tables.flows),
      collections: ofHeap(tables.collections),
      pauses: pointed(ofHeap(tables.pauses), newRow),
      releases: pointed(ofHeap(tables.releases), newRow),
      spaces: ofCollection(tables.spaces),
      ages: ofCollection(tables.ages),
      stalls: ofHeap(tables.stalls),
      pacing: ofHeap(tables.pacing),
      safepoints: ofHeap(tables.safepoints),
      sizes: ofHeap(tables.sizes),
      phases: ofHeap(tables.phases),
      intervals: ofHeap(tables.intervals),
      witnesses: ofHeap(tables.witnesses),
      polls: ofHeap(tables.polls),
      looks: ofHeap(tables.looks),
      silences: ofHeap(tables.silences),
    },
    heapIds,
  );
}

/**
 * Each heap that is looked at by itself, with its collections alone; the recording itself where there are no two. For
 * what rests on collections, as floors do: all else is that of the whole.
 */
export function heapsApart(recording: Recording): readonly Recording[] {
  const { collections } = recording.tables;
  const heapIds = recording.chosenHeaps ?? recording.heaps.map((_, heapId) => heapId);
  if (heapIds.length < 2) return [recording];
  return heapIds.map((heapId) =>
    partOf(
      recording,
      {
        collections: collections.picked(
          rowsOf(maskOf(recording, [heapId]), collections.col.heapId, collections.length),
        ),
      },
      [heapId],
    ),
  );
}

// 1 for each heap that is chosen, by heap id.
function maskOf({ heaps }: Recording, heapIds: readonly number[]): Uint8Array {
  return Uint8Array.from(heaps, (_, heapId) => (heapIds.includes(heapId) ? 1 : 0));
}

// Rows of which what they point to is chosen; NONE points to nothing.
function rowsOf(chosen: Uint8Array, ids: Uint16Array | Uint32Array, length: number): Uint32Array {
  const rows = new Uint32Array(length);
  let count = 0;
  for (let row = 0; row < length; row++) if (chosen[ids[row]!] === 1) rows[count++] = row;
  return rows.subarray(0, count);
}

// Where each row is once the others are gone; NONE for those that go.
function renumbered(chosen: Uint8Array): Uint32Array {
  let next = 0;
  return Uint32Array.from(chosen, (each) => (each === 1 ? next++ : NONE));
}

function pointed<S extends TableSchema & { readonly collectionRow: 'u32' }>(
  table: GrowableTable<S>,
  newRow: Uint32Array,
): GrowableTable<S> {
  const { collectionRow } = table.col;
  for (let row = 0; row < table.length; row++) collectionRow[row] = newRow[collectionRow[row]!] ?? NONE;
  return table;
}
