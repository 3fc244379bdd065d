import { handDown, loadAddon } from './native/addon.ts';
import { readSettings, SETTINGS_VARIABLE } from './settings.ts';
import { isRecorded, startRecorder } from './start-recorder.ts';

/**
 * Loaded with `--require` before the program's own code, in every thread: records this isolate when the environment
 * says where to. A module of the older kind, for workers that are given their code as text load no other.
 */

// `record -- npm start` means the program that npm starts, not npm.
const STARTER = /[/\\](?:npm|npx|pnpm|yarn)(?:-cli)?(?:\.c?js)?$/;

const loaded = loadAddon();
const settings = readSettings(handDown(loaded, process.env[SETTINGS_VARIABLE]));
if (settings !== null && !isRecorded() && !STARTER.test(process.argv[1] ?? '') && !buildsSnapshot()) {
  try {
    startRecorder(settings, loaded);
  } catch (error) {
    process.stderr.write(`brisk-heron: this program is not recorded: ${String(error)}\n`);
  }
}

// What is in memory goes into the snapshot, and neither an addon nor a session may.
function buildsSnapshot(): boolean {
  return process.execArgv.includes('--build-snapshot');
}
