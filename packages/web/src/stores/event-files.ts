import { ref, shallowRef } from 'vue';
import type { Look } from '../workers/answers/evidence.ts';
import type { Progress } from '../workers/progress.ts';
import type { Calls } from '../workers/protocol.ts';
import { CancelledError } from '../workers/worker-client.ts';
import { fileBase } from '../workers/file-base.ts';
import { saveBlob } from './save-blob.ts';

/** Asks the worker. */
type Asker = <K extends 'eventFiles' | 'ledgerFile' | 'stopEventFiles'>(
  call: K,
  ask: Calls[K]['ask'],
) => Promise<Calls[K]['answer']>;

/** Takes a recording's events away as files. `asker` is null while no recording is open. */
export function eventFilesOf(asker: () => Asker | null) {
  /** How far the writing is; null when nothing is written. */
  const progress = shallowRef<Progress | null>(null);
  /** What went wrong with the last file; '' for nothing. */
  const problem = ref('');

  // One file is written at a time; the page goes on meanwhile.
  async function write(doing: string, work: (ask: Asker) => Promise<void>): Promise<void> {
    const ask = asker();
    if (ask === null || progress.value !== null) return;
    problem.value = '';
    progress.value = { doing, doneBytes: 0, totalBytes: NaN };
    try {
      await work(ask);
    } catch (error) {
      if (!(error instanceof CancelledError))
        problem.value = `the file could not be written: ${error instanceof Error ? error.message : String(error)}`;
    } finally {
      progress.value = null;
    }
  }

  /** Writes every event and the call paths as Arrow files, and saves them under the recording's name. */
  const take = (name: string): Promise<void> =>
    write('Writing the events', async (ask) => {
      const files = await ask('eventFiles', {});
      if (files === null) return;
      const base = fileBase(name);
      saveBlob(files.events, `${base}-events.arrow`);
      saveBlob(files.paths, `${base}-paths.arrow`);
    });

  /** Writes the lines of the ledger as a CSV file. */
  const takeLedger = (name: string, look: Look): Promise<void> =>
    write('Writing the ledger', async (ask) => {
      const file = await ask('ledgerFile', { look });
      if (file !== null) saveBlob(file, `${fileBase(name)}-ledger.csv`);
    });

  const stop = async (): Promise<void> => {
    await asker()?.('stopEventFiles', {});
  };

  return { progress, problem, take, takeLedger, stop };
}
