import { close } from 'node:inspector';
import { setFlagsFromString } from 'node:v8';
import { loadAddon } from './native/addon.ts';
import type { RecorderBase } from './recorder-base.ts';
import { readSettings } from './settings.ts';
import { endRecorder, isRecorded, startRecorder } from './start-recorder.ts';

/** Loaded into a program that runs already, by `heron attach`. */

/** Whoever asked for it has closed his end by then. */
const CLOSE_AFTER_MS = 300;

let running: RecorderBase | null = null;

/** Begins to record; answers why not, '' when it does. `text` are the settings as JSON. Never throws. */
export function attach(text: string): string {
  try {
    if (isRecorded()) return 'it is being recorded already: end that recording first (Ctrl-C where it runs)';
    const settings = readSettings(text);
    if (settings === null) return 'the recorder was given no settings';
    const loaded = loadAddon();
    if (loaded.addon === null) return `the recorder's addon cannot be loaded into it (${loaded.why})`;
    running = startRecorder(settings, loaded);
    running.onStop = detach;
    return '';
  } catch (error) {
    return String(error);
  }
}

/** Closes the inspector once nobody speaks to it any more. Never throws, now or later. */
export function closeInspector(): void {
  setTimeout(() => {
    try {
      close();
    } catch {
      // It was closed by the program meanwhile.
    }
  }, CLOSE_AFTER_MS).unref();
}

// Ends the recording and leaves the program as it was before: without callbacks, threads, files or modules of the
// recorder.
function detach(): void {
  if (running === null) return;
  endRecorder(running, 'detached');
  running = null;
  loadAddon().addon?.retire();
  setFlagsFromString('--turbo-allocation-folding');
  for (const file of Object.keys(require.cache))
    if (file.startsWith(__dirname)) Reflect.deleteProperty(require.cache, file);
}
