import { isMainThread } from 'node:worker_threads';
import { Recorder } from './recorder.ts';
import { readSettings, SETTINGS_VARIABLE } from './settings.ts';

/** Loaded with `--import` before the program's own code: records this isolate when the environment says where to. */

const SIGNALS = ['SIGTERM', 'SIGINT', 'SIGHUP'] as const;
const LOADED = Symbol.for('brisk-heron.recorder-loaded');
const place = globalThis as { [LOADED]?: boolean };

// `record -- npm start` means the program that npm starts, not npm.
const STARTER = /[/\\](?:npm|npx|pnpm|yarn)(?:-cli)?(?:\.c?js)?$/;

const settings = readSettings(process.env[SETTINGS_VARIABLE]);
if (settings !== null && place[LOADED] !== true && !STARTER.test(process.argv[1] ?? '')) {
  place[LOADED] = true;
  try {
    const recorder = new Recorder(settings, new URL('.', import.meta.url).href);
    recorder.start();
    process.on('exit', (code) => recorder.finish(`exit ${code}`));
    if (isMainThread) for (const signal of SIGNALS) endOn(signal, recorder);
  } catch (error) {
    process.stderr.write(`brisk-heron: this program is not recorded: ${String(error)}\n`);
  }
}

// A signal that nobody else handles ends the program after what is known was written, with the exit status it would have
// had. Where the program handles it, ending is the program's affair.
function endOn(signal: (typeof SIGNALS)[number], recorder: Recorder): void {
  const handler = (): void => {
    if (process.listenerCount(signal) > 1) return;
    recorder.finish(signal);
    process.off(signal, handler);
    process.kill(process.pid, signal);
  };
  process.on(signal, handler);
}
