import { basename } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createRequire } from 'node:module';
import { SETTINGS_VARIABLE, type RecorderSettings } from '@brisk-heron/recorder-node';

/** Environment in which every Node process that the program starts is recorded. */
export function recorderEnvironment(environment: NodeJS.ProcessEnv, settings: RecorderSettings): NodeJS.ProcessEnv {
  const register = createRequire(import.meta.url).resolve('@brisk-heron/recorder-node/register');
  const options = `--import ${pathToFileURL(register).href}`;
  const given = environment['NODE_OPTIONS'];
  return {
    ...environment,
    NODE_OPTIONS: given === undefined || given === '' ? options : `${given} ${options}`,
    [SETTINGS_VARIABLE]: JSON.stringify(settings),
  };
}

/** `app.js …` alone is a program for Node. */
export function asCommand(words: readonly string[]): string[] {
  return /\.[cm]?js$/.test(words[0] ?? '') ? [process.execPath, ...words] : [...words];
}

/** What the program is called in lists: its script, or the command. */
export function programName(command: readonly string[]): string {
  const script = command.slice(1).find((word) => /\.[cm]?[jt]s$/.test(word));
  return basename(script ?? command[0] ?? 'program');
}
