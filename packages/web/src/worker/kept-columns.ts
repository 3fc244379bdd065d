import { readColumns, writeColumns, type StoredColumns } from '@brisk-heron/core';
import type { ColumnsRow, HeronDb, RecordingRow } from '../db/heron-db.ts';
import type { RecordingSession } from './recording-session.ts';

/** Below this, reading the source takes no time to speak of, and its columns would be a second copy for nothing. */
export const LEAST_KEPT_BYTES = 8 * 1024 * 1024;
/** The store must have this many times the file's room, so that what is recorded comes first. */
const ROOM_FACTOR = 2;

/** What was kept of a recording's columns, and how its program ended; null where its bytes are to be read. */
export async function keptColumns(
  db: HeronDb,
  row: RecordingRow,
): Promise<(Pick<ColumnsRow, 'endedHow' | 'chunkEnds'> & { readonly columns: StoredColumns }) | null> {
  const kept = await db.columns.get(row.id).catch(() => undefined);
  if (kept === undefined) return null;
  const columns = readColumns(new Uint8Array(await kept.file.arrayBuffer()));
  // More has come since, or less is there.
  if (columns !== null && columns.source.bytes === row.bytes) return { ...kept, columns };
  await db.columns.delete(row.id);
  return null;
}

/** Keeps the columns of a finished input, where that is worth the room; nothing of it can fail. */
export async function keepColumns(db: HeronDb, session: RecordingSession, endedHow: string | null): Promise<void> {
  // The columns of an inventory are no part of the file: it is read out of its bytes each time.
  const hasInventory = session.runs.some(({ inventories }) => inventories.length > 0);
  if (session.isRestored || hasInventory || session.bytes < LEAST_KEPT_BYTES) return;
  try {
    const file = writeColumns(session.runs, session.shape);
    const { usage = 0, quota = Infinity } = (await globalThis.navigator?.storage?.estimate?.()) ?? {};
    if (quota - usage < ROOM_FACTOR * file.length) return;
    await db.transaction('rw', db.recordings, db.columns, async () => {
      // A recording that was deleted meanwhile leaves nothing.
      if ((await db.recordings.get(session.recordingId)) !== undefined)
        await db.columns.put({
          recordingId: session.recordingId,
          file: new Blob([file]),
          endedHow,
          chunkEnds: session.chunkEnds,
        });
    });
  } catch {
    // The bytes are there: they are read the next time.
  }
}
