import type { Notebook } from '@brisk-heron/core';
import { liveQuery, type Subscription } from 'dexie';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { HeronDb, type RecordingRow } from '../db/heron-db.ts';
import { browserStore } from './browser-store.ts';
import { exportState } from './export-state.ts';
import { importFilesState } from './import-files.ts';
import { importRunState } from './import-run.ts';
import { serverLists } from './server-lists.ts';

function isVersionError(error: unknown): boolean {
  const { name, inner } = error as { name?: string; inner?: { name?: string } };
  return name === 'VersionError' || inner?.name === 'VersionError';
}

export type { ServerStream } from './server-lists.ts';

/** A recording that follows a stream has an id of its own form. */
export function liveId(streamId: string): string {
  return `live-${streamId}`;
}

/** Recordings kept in the browser, streams and samples on the server, and importing and exporting. */
export const useLibrary = defineStore('library', () => {
  const db = new HeronDb();
  const recordings = shallowRef<readonly RecordingRow[] | null>(null);
  const problem = ref('');
  /** What was done with files that were given, where it is not plain. */
  const told = ref('');
  const store = browserStore(db);
  const run = importRunState(db, store, problem);
  let listening: Subscription | null = null;

  function listen(): void {
    if (listening !== null) return;
    listening = liveQuery(() => db.recordings.orderBy('addedEpochMs').reverse().toArray()).subscribe({
      next: (rows) => {
        recordings.value = rows;
      },
      error: (error: unknown) => {
        problem.value = isVersionError(error)
          ? 'the recordings here were stored by a newer version of this page: reload it, or start the newer server'
          : 'the browser does not let this page store anything: recordings cannot be kept';
        recordings.value = [];
      },
    });
    // Another tab has a newer version of this page, which waits for this one to let go.
    db.on('versionchange', () => {
      db.close();
      problem.value = 'another tab has a newer version of this page: reload this one';
    });
    void store.mend().catch(() => undefined);
  }

  const rename = (id: string, name: string): Promise<unknown> => db.recordings.update(id, { name });
  /**
   * Keeps what was noted beside a recording. By the page and not its worker, which may be busy when the page is left.
   */
  const keepNotebook = (id: string, notebook: Notebook): Promise<unknown> => db.recordings.update(id, { notebook });
  async function kept(fileName: string): Promise<string | null> {
    const rows = await db.recordings
      .filter(({ parts, importing }) => !importing && parts[0]?.name === fileName)
      .toArray();
    return rows[0]?.id ?? null;
  }
  const remove = (id: string): Promise<void> => db.removeRecording(id).then(store.look);

  return {
    ...{ db, recordings, problem, told, listen, rename, remove, keepNotebook },
    ...{ use: store.use, askToKeep: store.askToKeep },
    ...serverLists(),
    ...run,
    ...importFilesState(run, { problem, told, kept }),
    ...exportState(problem),
  };
});
