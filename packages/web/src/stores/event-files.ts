import { shallowRef } from 'vue';
import type { Progress } from '../workers/progress.ts';
import type { Calls } from '../workers/protocol.ts';
import { fileBase } from '../workers/file-base.ts';
import { saveBlob } from './save-blob.ts';

/** Asks the worker. */
type Asker = <K extends 'eventFiles' | 'stopEventFiles'>(call: K, ask: Calls[K]['ask']) => Promise<Calls[K]['answer']>;

/** Takes a recording's events away as Arrow files. `asker` is null while no recording is open. */
export function eventFilesOf(asker: () => Asker | null, fail: (error: unknown) => void) {
  /** How far the writing is; null when nothing is written. */
  const progress = shallowRef<Progress | null>(null);

  /** Writes both files and saves them under the recording's name. */
  async function take(name: string): Promise<void> {
    const ask = asker();
    if (ask === null || progress.value !== null) return;
    progress.value = { doing: 'Writing the events', doneBytes: 0, totalBytes: NaN };
    try {
      const files = await ask('eventFiles', {});
      if (files === null) return;
      const base = fileBase(name);
      saveBlob(files.events, `${base}-events.arrow`);
      saveBlob(files.paths, `${base}-paths.arrow`);
    } catch (error) {
      fail(error);
    } finally {
      progress.value = null;
    }
  }

  const stop = async (): Promise<void> => { await asker()?.('stopEventFiles', {}); };

  return { progress, take, stop };
}
