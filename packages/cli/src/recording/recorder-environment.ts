import { createRequire } from 'node:module';
import { basename } from 'node:path';
import { type RecorderSettings, SETTINGS_VARIABLE } from '@brisk-heron/recorder-node';

/** Environment in which every Node process that the program starts is recorded. */
export function recorderEnvironment(environment: NodeJS.ProcessEnv, settings: RecorderSettings): NodeJS.ProcessEnv {
  const register = createRequire(import.meta.url).resolve('@brisk-heron/recorder-node/register');
  // Node reads backslashes and quotes in its options as a shell would.
  const options = `--require ${/[\s"\\]/.test(register) ? JSON.stringify(register) : register}`;
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

/** True for a command that starts Node itself. */
export function isNode(command: readonly string[]): boolean {
  return /^node(?:js)?$/.test(basename(command[0] ?? ''));
}

/** What the program is called in lists: its script, or the command. */
export function programName(command: readonly string[]): string {
  if (isNode(command) && command.includes('--test')) return 'node --test';
  if (/^java(?:\.exe)?$/.test(basename(command[0] ?? ''))) return javaName(command.slice(1)) ?? 'java';
  const script = command.slice(1).find((word) => /\.[cm]?[jt]s$/.test(word));
  return basename(script ?? command[0] ?? 'program');
}

/** Options of a JVM that take the next word. */
const WITH_VALUE = new Set([
  '-cp',
  '-classpath',
  '--class-path',
  '-p',
  '--module-path',
  '--add-modules',
  '--add-exports',
  '--add-opens',
  '--add-reads',
  '--upgrade-module-path',
]);
/** Class names that say nothing without their package. */
const PLAIN_CLASS = /^(?:Main|App|Application|Bootstrap|Launcher|Start|Starter|Server|Runner)$/;

/**
 * What a JVM runs: its jar, its source file, or its main class, with the package where the class alone says nothing;
 * null for none.
 */
export function javaName(words: readonly string[]): string | null {
  for (let at = 0; at < words.length; at++) {
    const word = words[at]!;
    if (word === '-jar') return words[at + 1] === undefined ? null : basename(words[at + 1]!);
    if (word === '-m' || word === '--module') return words[at + 1] ?? null;
    if (WITH_VALUE.has(word)) at++;
    else if (!word.startsWith('-') && !word.startsWith('@')) return className(word);
  }
  return null;
}

function className(word: string): string {
  if (word.endsWith('.java')) return basename(word);
  const name = word.split('.').pop()!;
  return PLAIN_CLASS.test(name) ? word : name;
}
