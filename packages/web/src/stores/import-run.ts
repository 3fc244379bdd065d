import { formatBytes } from '@brisk-heron/core';
import { ref, type Ref, shallowRef } from 'vue';
import type { HeronDb } from '../db/heron-db.ts';
import type { Progress } from '../worker/progress.ts';
import { CancelledError, WorkerClient } from '../worker/worker-client.ts';
import type { browserStore } from './browser-store.ts';

/** Importing one run into a recording of its own, at most one at a time; what goes wrong is told in `problem`. */
export function importRunState(db: HeronDb, store: ReturnType<typeof browserStore>, problem: Ref<string>) {
  const importing = shallowRef<Progress | null>(null);
  const importingId = ref('');
  let importer: WorkerClient | null = null;
  let removing: Promise<void> | null = null;
  /** The worker that has read the last import, until that is opened. */
  let imported: { readonly id: string; readonly client: WorkerClient } | null = null;

  async function importRun(files: readonly File[]): Promise<string | null> {
    problem.value = '';
    const wantedBytes = files.reduce((sum, file) => sum + file.size, 0);
    const roomBytes = await store.roomBytes();
    if (wantedBytes > roomBytes) {
      problem.value = noRoom(files, roomBytes, wantedBytes);
      return null;
    }
    void store.askToKeep();
    importing.value = { doing: 'Opening', doneBytes: 0, totalBytes: NaN };
    importingId.value = crypto.randomUUID();
    takeImported('');
    importer = new WorkerClient({
      onProgress: (progress) => {
        importing.value = progress;
      },
    });
    try {
      const { recordingId } = await importer.ask('importFiles', { files: [...files], recordingId: importingId.value });
      imported = { id: recordingId, client: importer };
      return recordingId;
    } catch (error) {
      importer?.close();
      if (!(error instanceof CancelledError))
        problem.value = `${namesOf(files)}: ${error instanceof Error ? error.message : String(error)}`;
      return null;
    } finally {
      await removing?.catch(() => undefined);
      removing = null;
      importer = null;
      importing.value = null;
      importingId.value = '';
    }
  }

  /** The worker that has just read a recording; null where that was another. Whoever takes it closes it. */
  function takeImported(id: string): WorkerClient | null {
    const last = imported;
    imported = null;
    if (last?.id === id) return last.client;
    last?.client.close();
    return null;
  }

  /** Stops an import that runs; what it had stored is removed. */
  async function cancelImport(): Promise<void> {
    const unfinished = importingId.value;
    const cancelled = importer;
    // The import counts as running until nothing of it is stored any more.
    removing = Promise.resolve().then(() => {
      cancelled?.close();
      return db.removeRecording(unfinished);
    });
    await removing;
  }

  return { importing, importingId, importRun, takeImported, cancelImport };
}

function namesOf(files: readonly File[]): string {
  return files.map((file) => file.name).join(', ');
}

function noRoom(files: readonly File[], roomBytes: number, wantedBytes: number): string {
  const room = formatBytes(Math.max(0, roomBytes));
  return `${namesOf(files)}: the browser has room for ${room} more, and this needs ${formatBytes(wantedBytes)} or more. Export and delete recordings first, or read the file with “heron analyze”.`;
}
