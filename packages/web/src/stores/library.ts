import { formatBytes, type Notebook } from '@brisk-heron/core';
import { liveQuery, type Subscription } from 'dexie';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { z } from 'zod';
import { HeronDb, type RecordingRow } from '../db/heron-db.ts';
import type { Progress } from '../worker/progress.ts';
import { CancelledError, WorkerClient } from '../worker/worker-client.ts';
import { browserStore } from './browser-store.ts';
import { saveBlob } from './save-blob.ts';

const streamSchema = z.object({
  id: z.string(),
  name: z.string(),
  program: z.string(),
  runtime: z.string(),
  startedEpochMs: z.number(),
  bytes: z.number(),
  connected: z.boolean(),
  ended: z.object({ exitCode: z.number().nullable(), signal: z.string().nullable() }).nullable(),
});
const streamsSchema = z.object({ streams: z.array(streamSchema) });
const samplesSchema = z.object({ samples: z.array(z.string()) });

export type ServerStream = z.infer<typeof streamSchema>;

function isVersionError(error: unknown): boolean {
  const { name, inner } = error as { name?: string; inner?: { name?: string } };
  return name === 'VersionError' || inner?.name === 'VersionError';
}

/** A recording that follows a stream has an id of its own form. */
export function liveId(streamId: string): string {
  return `live-${streamId}`;
}

/** Recordings kept in the browser, streams and samples on the server, and importing and exporting. */
export const useLibrary = defineStore('library', () => {
  const db = new HeronDb();
  const recordings = shallowRef<readonly RecordingRow[] | null>(null);
  const streams = shallowRef<readonly ServerStream[]>([]);
  const samples = shallowRef<readonly string[]>([]);
  const serverReached = ref(true);
  /** The server is there and does not know this browser: it keeps another data folder, or the cookie is gone. */
  const serverRefuses = ref(false);
  const importing = shallowRef<Progress | null>(null);
  const problem = ref('');
  /** What was done with files that were given, where it is not plain. */
  const told = ref('');
  let importer: WorkerClient | null = null;
  let removing: Promise<void> | null = null;
  /** The worker that has read the last import, until that is opened. */
  let imported: { readonly id: string; readonly client: WorkerClient } | null = null;
  const importingId = ref('');
  const store = browserStore(db);
  /** How far an export is; null while none runs. */
  const exporting = shallowRef<Progress | null>(null);
  let exporter: WorkerClient | null = null;
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

  async function askServer(): Promise<void> {
    try {
      const response = await fetch('/api/streams');
      serverRefuses.value = response.status === 401;
      streams.value = streamsSchema.parse(await response.json()).streams;
      if (samples.value.length === 0)
        samples.value = samplesSchema.parse(await (await fetch('/api/samples')).json()).samples;
      serverReached.value = true;
    } catch {
      serverReached.value = false;
    }
  }

  /**
   * Imports files, each run that they hold into a recording of its own; answers the new recording's id where there is
   * one, null when there are several, or
   * when that failed or was cancelled.
   */
  async function importFiles(files: readonly File[]): Promise<string | null> {
    problem.value = '';
    told.value = '';
    if (files.length === 1) return importRun(files);
    const client = new WorkerClient();
    const { groups, copies } = await client
      .ask('groupFiles', { files: [...files] })
      .catch(() => ({ groups: [files], copies: [] }))
      .finally(() => client.close());
    const left =
      copies.length === 0
        ? ''
        : ` ${copies.length} ${copies.length === 1 ? 'file was a copy' : 'files were copies'} of another, and left out.`;
    if (groups.length <= 1) {
      const id = await importRun(groups[0] ?? files);
      told.value = left.trim();
      return id;
    }
    const problems: string[] = [];
    let imports = 0;
    for (const group of groups) {
      if ((await importRun(group)) !== null) imports++;
      else if (problem.value === '') break;
      else problems.push(problem.value);
    }
    problem.value = problems.join('\n');
    told.value = `${files.length} files held ${groups.length} runs, by their clocks and what they say of themselves: ${imports} recordings were made of them.${left}`;
    return null;
  }

  async function importRun(files: readonly File[]): Promise<string | null> {
    problem.value = '';
    const wantedBytes = files.reduce((sum, file) => sum + file.size, 0);
    const roomBytes = await store.roomBytes();
    if (wantedBytes > roomBytes) {
      problem.value = `${files.map((file) => file.name).join(', ')}: the browser has room for ${formatBytes(Math.max(0, roomBytes))} more, and this needs ${formatBytes(wantedBytes)} or more. Export and delete recordings first, or read the file with “heron analyze”.`;
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
        problem.value = `${files.map((file) => file.name).join(', ')}: ${error instanceof Error ? error.message : String(error)}`;
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

  async function importSample(name: string): Promise<string | null> {
    const response = await fetch(`/samples/${encodeURIComponent(name)}`);
    return importFiles([new File([await response.blob()], name)]);
  }

  async function exportRecording(id: string): Promise<void> {
    cancelExport();
    const client = new WorkerClient({
      onProgress: (progress) => {
        exporting.value = progress;
      },
    });
    exporter = client;
    exporting.value = { doing: 'Reading what is stored', doneBytes: 0, totalBytes: NaN };
    try {
      const { blob, name } = await client.ask('exportFile', { recordingId: id });
      saveBlob(blob, name);
    } catch (error) {
      if (!(error instanceof CancelledError)) problem.value = error instanceof Error ? error.message : String(error);
    } finally {
      client.close();
      if (exporter === client) {
        exporter = null;
        exporting.value = null;
      }
    }
  }

  /** Stops an export that runs; no file comes of it. */
  function cancelExport(): void {
    exporter?.close();
  }

  const rename = (id: string, name: string): Promise<unknown> => db.recordings.update(id, { name });
  /**
   * Keeps what was noted beside a recording. By the page and not its worker, which may be busy when the page is left.
   */
  const keepNotebook = (id: string, notebook: Notebook): Promise<unknown> => db.recordings.update(id, { notebook });
  const remove = (id: string): Promise<void> => db.removeRecording(id).then(store.look);

  return {
    recordings,
    streams,
    samples,
    serverReached,
    serverRefuses,
    importing,
    importingId,
    problem,
    told,
    use: store.use,
    askToKeep: store.askToKeep,
    exporting,
    cancelExport,
    listen,
    askServer,
    importFiles,
    takeImported,
    cancelImport,
    importSample,
    exportRecording,
    rename,
    remove,
    keepNotebook,
    db,
  };
});
