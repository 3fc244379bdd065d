import { appendFile, readFile, rm, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import {
  DEFAULT_BIRTHS_MS,
  DEFAULT_FLOOR_EVERY_MS,
  DEFAULT_FLOOR_SHARE_RATIO,
  DEFAULT_INTERVAL_BYTES,
  type RecorderSettings,
} from '@brisk-heron/recorder-node';
import type { Command } from 'commander';
import type { ChildEnd } from '../recording/child.ts';
import { ensureAgent, JvmTrouble } from '../recording/jvm-agent.ts';
import { attachAgent, closeLog, executableOf, isJvm, isRunning } from '../recording/jvm-attach.ts';
import { addInventories, removeUnfinished } from '../recording/inventory-files.ts';
import { inventoryTimes } from '../recording/inventory-times.ts';
import { addLeftoverLogs, jvmLogFile, removeLogs } from '../recording/jvm-log-files.ts';
import { addJvmOptions, type JvmCommandOptions, jvmSettingsOf } from '../recording/jvm-options.ts';
import { ensureAddon } from '../recording/node-addon.ts';
import { attachNode, isNodeProcess } from '../recording/node-attach.ts';
import { completed, interrupted, say, sendWhile } from '../recording/outgoing.ts';
import { type Destination, takeFile } from '../recording/spool.ts';

interface AttachOptions extends JvmCommandOptions {
  readonly out?: string;
  readonly server?: string;
  readonly id?: string;
  readonly seconds?: string;
}

const LOOK_MS = 200;
const GOODBYE_MS = 10_000;

/** `heron attach PID`: records a Node program or a JVM that runs already, until Ctrl-C or its end. */
export function attachCommand(command: Command, root: string): void {
  command
    .argument('<pid>', 'its process id')
    .option('--out <file>', 'record to a file, with no server and no page')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .option('--seconds <n>', 'end the recording by itself after so long');
  addJvmOptions(command).action((pid: string, options: AttachOptions) => attach(pid, options, root));
}

async function attach(pidText: string, options: AttachOptions, root: string): Promise<void> {
  const pid = Number(pidText);
  if (!Number.isInteger(pid) || pid <= 0)
    throw new Error(`expected the process id of a Node program or a JVM, found "${pidText}"`);
  if (!isRunning(pid)) throw new Error(`expected a running process, found none with id ${pid}`);
  const load = isNodeProcess(pid) ? nodeLoader(pid, options, root) : jvmLoader(pid, options, root);
  const make = (to: Destination): Promise<ChildEnd> => follow(pid, load, options, to);
  if (options.out === undefined) await sendWhile({ ...options, what: `process ${pid}`, root }, make);
  else await attachToFile(resolve(options.out), make);
}

/** Loads a recorder into the program; answers what is left to do after its end. */
type Loader = (to: Destination) => Promise<() => void>;

function nodeLoader(pid: number, options: AttachOptions, root: string): Loader {
  const addon = ensureAddon(root, [executableOf(pid) ?? 'node']);
  if (addon.file === null)
    throw new Error(
      `a running Node program is recorded through the recorder's addon, which cannot be used (${addon.why}): docs/recording-node.md`,
    );
  return async (to) => {
    await attachNode(pid, attachedSettings(to, options));
    return () => undefined;
  };
}

function attachedSettings(
  to: Destination,
  { interval, name, collectAtMarks, birthsOff, inventoryAt }: AttachOptions,
): RecorderSettings {
  const inventories = inventoryTimes(inventoryAt);
  return {
    out: to.spool,
    control: to.control,
    intervalBytes: interval === undefined ? DEFAULT_INTERVAL_BYTES : Number(interval),
    mayWiden: interval === undefined,
    birthsMs: DEFAULT_BIRTHS_MS,
    floorEveryMs: DEFAULT_FLOOR_EVERY_MS,
    floorShareRatio: DEFAULT_FLOOR_SHARE_RATIO,
    birthsOff: birthsOff === true,
    collectAtMarks: collectAtMarks === true,
    inventoryMark: inventories.mark,
    inventoryPercent: inventories.percent,
    exact: false,
    source: true,
    outside: false,
    native: true,
    attached: true,
    name: name ?? '',
    program: '',
  };
}

function jvmLoader(pid: number, options: AttachOptions, root: string): Loader {
  if (!isJvm(pid))
    throw new JvmTrouble(
      `process ${pid} is not a JVM of this user, nor a Node program: "jcmd -l" and "pgrep -l node" list those that are`,
    );
  const library = ensureAgent(root, executableOf(pid));
  return async (to) => {
    const log = jvmLogFile(to.spool).replace('%p', String(pid));
    attachAgent(pid, library, { out: to.spool, control: to.control, log, ...jvmSettingsOf(options) });
    return () => closeLog(pid, log);
  };
}

async function attachToFile(spool: string, make: (to: Destination) => Promise<ChildEnd>): Promise<void> {
  const control = `${spool}.control`;
  const held = takeFile(spool);
  try {
    await Promise.all([writeFile(spool, ''), writeFile(control, '')]);
    await make({ spool, control });
    await completed(() => addLeftoverLogs(spool));
    await completed(() => addInventories(spool, say));
    removeUnfinished(spool);
    await removeLogs(spool);
  } finally {
    await rm(control, { force: true });
    held.release();
  }
}

async function follow(pid: number, load: Loader, options: AttachOptions, to: Destination): Promise<ChildEnd> {
  const unload = await load(to);
  say(`process ${pid} is being recorded; Ctrl-C ends the recording, not the program`);
  const stop = { asked: false };
  void Promise.race([
    interrupted(),
    ...(options.seconds === undefined ? [] : [wait(Number(options.seconds) * 1000)]),
  ]).then(() => {
    stop.asked = true;
  });
  while (!stop.asked && isRunning(pid)) await wait(LOOK_MS);
  if (isRunning(pid)) {
    await appendFile(to.control, '{"do":"stop"}\n');
    await goodbye(to.spool, pid);
    unload();
  }
  return { exitCode: 0, signal: null };
}

// The recorder's last line says goodbye; without it what is there counts.
async function goodbye(spool: string, pid: number): Promise<void> {
  for (const until = Date.now() + GOODBYE_MS; Date.now() < until && isRunning(pid); await wait(LOOK_MS)) {
    const text = await readFile(spool, 'utf8');
    if (text.slice(-4096).match(new RegExp(`\\{"k":"bye","h":"${pid}(?:\\.0)?"`)) !== null) return;
  }
}
