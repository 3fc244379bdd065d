import type { GrowableTable, TableSchema } from '../base/growable-table.ts';
import type { Recording } from './recording.ts';

/** Ten years: a recording is of one run of a program. */
export const MOST_TIME_MS = 10 * 365.25 * 86_400_000;
/** A day: no runtime stops a program for longer, and one that did would not be waited for. */
export const MOST_PAUSE_MS = 86_400_000;
/** 16 TiB, the largest heap that a runtime manages. */
export const MOST_BYTES = 2 ** 44;

/** True for a time that a recording may have, NaN for one that is not told. */
export function isTime(ms: number): boolean {
  return !(Math.abs(ms) > MOST_TIME_MS);
}

/** True for how long a program may be stopped, NaN for what is not told. */
export function isPause(ms: number): boolean {
  return !(ms < 0 || ms > MOST_PAUSE_MS);
}

/**
 * Forgets sizes that no program has, so that no figure rests on them, and counts each as an issue with its line. Times
 * are looked at where they are read, for the order of rows rests on them. Cost: the rows of tables of which there is
 * one a collection or less.
 */
export function forgetAbsurdSizes(recording: Recording): void {
  const { collections, pauses, spaces, releases, ages, sizes } = recording.tables;
  const told: { readonly line: number; readonly bytes: number }[] = [];
  const look = <S extends TableSchema>(table: GrowableTable<S>, lineOf: (row: number) => number): void => {
    for (const name of Object.keys(table.schema)) {
      if (!/bytes$/i.test(name) || name === 'byteOffset') continue;
      const column = table.col[name as keyof S] as unknown as Float64Array;
      for (let row = 0; row < table.length; row++) {
        const bytes = column[row]!;
        if (!(bytes < 0 || bytes > MOST_BYTES)) continue;
        column[row] = NaN;
        told.push({ line: lineOf(row), bytes });
      }
    }
  };
  const ofCollection =
    (rows: Uint32Array) =>
    (row: number): number =>
      lineOf(collections.col.line, rows[row]!);
  look(collections, (row) => lineOf(collections.col.line, row));
  look(pauses, (row) => lineOf(pauses.col.line, row));
  look(spaces, ofCollection(spaces.col.collectionRow));
  look(releases, ofCollection(releases.col.collectionRow));
  look(ages, ofCollection(ages.col.collectionRow));
  look(sizes, () => 0);
  for (const heap of recording.heaps) {
    if (!(heap.limitBytes <= 0 || heap.limitBytes > MOST_BYTES)) continue;
    told.push({ line: 0, bytes: heap.limitBytes });
    heap.limitBytes = NaN;
  }
  told.sort((a, b) => a.line - b.line);
  told.forEach(({ line, bytes }, at) => {
    // A pause and its collection are told in one line.
    if (line > 0 && told[at - 1]?.line === line && told[at - 1]?.bytes === bytes) return;
    recording.issues.add({
      code: 'absurd-size',
      line,
      byteOffset: NaN,
      message: `${line > 0 ? `line ${line}` : 'a size'}: expected at most 16 TiB, found ${bytes} bytes; is the input damaged? The size was left out`,
    });
  });
}

function lineOf(lines: Uint32Array, row: number): number {
  const line = lines[row];
  return line === undefined || line === 0xffffffff ? 0 : line;
}
