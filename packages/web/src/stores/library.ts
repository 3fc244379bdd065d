import { liveQuery, type Subscription } from 'dexie';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { z } from 'zod';
import { HeronDb, type RecordingRow } from '../db/heron-db.ts';
import type { Progress } from '../workers/progress.ts';
import { CancelledError, WorkerClient } from '../workers/worker-client.ts';
import { saveBlob } from './save-blob.ts';

const streamSchema = z.object({
  id: z.string(), name: z.string(), program: z.string(), runtime: z.string(), startedEpochMs: z.number(), bytes: z.number(), connected: z.boolean(),
  ended: z.object({ exitCode: z.number().nullable(), signal: z.string().nullable() }).nullable(),
});
const streamsSchema = z.object({ streams: z.array(streamSchema) });
const samplesSchema = z.object({ samples: z.array(z.string()) });

export type ServerStream = z.infer<typeof streamSchema>;

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
  const importing = shallowRef<Progress | null>(null);
  const problem = ref('');
  let importer: WorkerClient | null = null;
  /** The worker that has read the last import, until that is opened. */
  let imported: { readonly id: string; readonly client: WorkerClient } | null = null;
  const importingId = ref('');
  let listening: Subscription | null = null;

  function listen(): void {
    listening ??= liveQuery(() => db.recordings.orderBy('addedEpochMs').reverse().toArray()).subscribe({
      next: (rows) => { recordings.value = rows; },
      error: () => { problem.value = 'the browser does not let this page store anything: recordings cannot be kept'; recordings.value = []; },
    });
  }

  async function askServer(): Promise<void> {
    try {
      streams.value = streamsSchema.parse(await (await fetch('/api/streams')).json()).streams;
      if (samples.value.length === 0) samples.value = samplesSchema.parse(await (await fetch('/api/samples')).json()).samples;
      serverReached.value = true;
    } catch {
      serverReached.value = false;
    }
  }

  /** Imports files; answers the new recording's id, or null when that failed or was cancelled. */
  async function importFiles(files: readonly File[]): Promise<string | null> {
    problem.value = '';
    importing.value = { doing: 'Opening', doneBytes: 0, totalBytes: NaN };
    importingId.value = crypto.randomUUID();
    takeImported('');
    importer = new WorkerClient({ onProgress: (progress) => { importing.value = progress; } });
    try {
      const { recordingId } = await importer.ask('importFiles', { files: [...files], recordingId: importingId.value });
      imported = { id: recordingId, client: importer };
      return recordingId;
    } catch (error) {
      importer?.close();
      if (!(error instanceof CancelledError)) problem.value = `${files.map((file) => file.name).join(', ')}: ${error instanceof Error ? error.message : String(error)}`;
      return null;
    } finally {
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
    importer?.close();
    await db.removeRecording(unfinished);
  }

  async function importSample(name: string): Promise<string | null> {
    const response = await fetch(`/samples/${encodeURIComponent(name)}`);
    return importFiles([new File([await response.blob()], name)]);
  }

  async function exportRecording(id: string): Promise<void> {
    const client = new WorkerClient();
    try {
      const { blob, name } = await client.ask('exportFile', { recordingId: id });
      saveBlob(blob, name);
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error);
    } finally {
      client.close();
    }
  }

  const rename = (id: string, name: string): Promise<unknown> => db.recordings.update(id, { name });
  const remove = (id: string): Promise<void> => db.removeRecording(id);

  return {
    recordings, streams, samples, serverReached, importing, importingId, problem,
    listen, askServer, importFiles, takeImported, cancelImport, importSample, exportRecording, rename, remove, db,
  };
});
