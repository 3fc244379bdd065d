import type { SideAsk } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';
import { saveBlob } from '../save-blob.ts';
import { fileBase } from '../worker/file-base.ts';
import type { Progress } from '../worker/progress.ts';
import type { Calls } from '../worker/protocol.ts';
import { CancelledError } from '../worker/worker-client.ts';
import type { LookAsked } from './question.ts';

/** Asks the worker, of what is looked at. */
export interface FileAsker {
  readonly ask: <K extends 'eventFiles' | 'ledgerFile' | 'stopEventFiles'>(
    call: K,
    ask: Calls[K]['ask'],
  ) => Promise<Calls[K]['answer']>;
  readonly side: () => SideAsk;
}

/** Takes a recording's events away as files. `asker` is null while no recording is open. */
export function eventFilesOf(asker: () => FileAsker | null) {
  /** How far the writing is; null when nothing is written. */
  const progress = shallowRef<Progress | null>(null);
  /** What went wrong with the last file; '' for nothing. */
  const problem = ref('');

  // One file is written at a time; the page goes on meanwhile.
  async function write(doing: string, work: (asking: FileAsker) => Promise<void>): Promise<void> {
    const asking = asker();
    if (asking === null || progress.value !== null) return;
    problem.value = '';
    progress.value = { doing, doneBytes: 0, totalBytes: NaN };
    try {
      await work(asking);
    } catch (error) {
      if (!(error instanceof CancelledError))
        problem.value = `the file could not be written: ${error instanceof Error ? error.message : String(error)}`;
    } finally {
      progress.value = null;
    }
  }

  /** Writes every event and the call paths as Arrow files, and saves them under the recording's name. */
  const take = (name: string): Promise<void> =>
    write('Writing the events', async ({ ask, side }) => {
      const files = await ask('eventFiles', { side: side() });
      if (files === null) return;
      const base = fileBase(name);
      saveBlob(files.events, `${base}-events.arrow`);
      saveBlob(files.paths, `${base}-paths.arrow`);
    });

  /** Writes the lines of the ledger as a CSV file. */
  const takeLedger = (name: string, look: LookAsked): Promise<void> =>
    write('Writing the ledger', async ({ ask, side }) => {
      const file = await ask('ledgerFile', { side: side(), ask: look });
      if (file !== null) saveBlob(file, `${fileBase(name)}-ledger.csv`);
    });

  const stop = async (): Promise<void> => {
    await asker()?.ask('stopEventFiles', {});
  };

  return { progress, problem, take, takeLedger, stop };
}
