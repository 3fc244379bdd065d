import { createRequire } from 'node:module';
import { sep } from 'node:path';
import { isMainThread } from 'node:worker_threads';
import type * as Inspector from './inspector/inspector-recorder.ts';
import { handDown, loadAddon } from './native/addon.ts';
import { NativeRecorder } from './native/native-recorder.ts';
import type { RecorderBase } from './recorder-base.ts';
import { readSettings, SETTINGS_VARIABLE, type RecorderSettings } from './settings.ts';

/**
 * Loaded with `--require` before the program's own code, in every thread: records this isolate when the environment says where to. A module of
 * the older kind, for workers that are given their code as text load no other.
 */

const SIGNALS = ['SIGTERM', 'SIGINT', 'SIGHUP'] as const;
const LOADED = Symbol.for('brisk-heron.recorder-loaded');
const place = globalThis as { [LOADED]?: boolean };

// `record -- npm start` means the program that npm starts, not npm.
const STARTER = /[/\\](?:npm|npx|pnpm|yarn)(?:-cli)?(?:\.c?js)?$/;

const loaded = loadAddon();
const settings = readSettings(handDown(loaded, process.env[SETTINGS_VARIABLE]));
if (settings !== null && place[LOADED] !== true && !STARTER.test(process.argv[1] ?? '') && !buildsSnapshot()) {
  Object.defineProperty(place, LOADED, { value: true, enumerable: false });
  try {
    const recorder = recorderOf(settings);
    recorder.start();
    process.on('exit', (code) => recorder.finish(`exit ${code}`));
    if (isMainThread) for (const signal of SIGNALS) endOn(signal, recorder);
  } catch (error) {
    process.stderr.write(`brisk-heron: this program is not recorded: ${String(error)}\n`);
  }
}

function recorderOf(wanted: RecorderSettings): RecorderBase {
  const ownDirectory = `${__dirname}${sep}`;
  if (wanted.native && loaded.addon !== null) return new NativeRecorder(wanted, loaded.addon, ownDirectory);
  // Loaded when it is needed alone: it brings half of the runtime's own modules with it.
  const { InspectorRecorder } = createRequire(__filename)('./inspector/inspector-recorder.js') as typeof Inspector;
  return new InspectorRecorder(wanted, ownDirectory, loaded.addon === null ? loaded.why : 'it was asked to do without');
}

// What is in memory goes into the snapshot, and neither an addon nor a session may.
function buildsSnapshot(): boolean {
  return process.execArgv.includes('--build-snapshot');
}

// A signal that nobody else handles ends the program after what is known was written, with the exit status it would have
// had. Where the program handles it, ending is the program's affair.
function endOn(signal: (typeof SIGNALS)[number], recorder: RecorderBase): void {
  const handler = (): void => {
    if (process.listenerCount(signal) > 1) return;
    recorder.finish(signal);
    process.off(signal, handler);
    process.kill(process.pid, signal);
  };
  process.on(signal, handler);
}
