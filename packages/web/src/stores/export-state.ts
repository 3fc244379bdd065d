import { type Ref, shallowRef } from 'vue';
import { saveBlob } from '../save-blob.ts';
import type { Progress } from '../worker/progress.ts';
import { CancelledError, WorkerClient } from '../worker/worker-client.ts';

/** Exporting stored recordings as files, one at a time; what goes wrong is told in `problem`. */
export function exportState(problem: Ref<string>) {
  /** How far an export is; null while none runs. */
  const exporting = shallowRef<Progress | null>(null);
  let exporter: WorkerClient | null = null;

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

  return { exporting, exportRecording, cancelExport };
}
