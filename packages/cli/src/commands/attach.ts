import { appendFile, readFile, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { Command } from 'commander';
import type { ChildEnd } from '../recording/child.ts';
import { ensureAgent } from '../recording/jvm-agent.ts';
import { attachAgent, closeLog, executableOf, isRunning } from '../recording/jvm-attach.ts';
import { addLeftoverLogs, jvmLogFile, removeLogs } from '../recording/jvm-log-files.ts';
import { addJvmOptions, jvmSettingsOf, type JvmCommandOptions } from '../recording/jvm-options.ts';
import { interrupted, say, sendWhile, type Destination } from '../recording/outgoing.ts';

interface AttachOptions extends JvmCommandOptions {
  readonly out?: string;
  readonly server?: string;
  readonly id?: string;
  readonly seconds?: string;
}

const LOOK_MS = 200;
const GOODBYE_MS = 10_000;

/** `heron attach PID`: records a JVM that runs already, until Ctrl-C or its end. */
export function attachCommand(root: string): Command {
  const command = new Command('attach')
    .description('record a JVM that runs already; Ctrl-C ends the recording and leaves the program running')
    .argument('<pid>', 'its process id (see "jcmd -l")')
    .option('--out <file>', 'record to a file, with no server and no page')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .option('--seconds <n>', 'end the recording by itself after so long');
  return addJvmOptions(command).action((pid: string, options: AttachOptions) => attach(pid, options, root));
}

async function attach(pidText: string, options: AttachOptions, root: string): Promise<void> {
  const pid = Number(pidText);
  if (!Number.isInteger(pid) || pid <= 0) throw new Error(`expected the process id of a JVM, found "${pidText}"`);
  if (!isRunning(pid)) throw new Error(`expected a running process, found none with id ${pid}`);
  const library = ensureAgent(root, executableOf(pid));
  const make = (to: Destination): Promise<ChildEnd> => follow(pid, library, options, to);
  if (options.out === undefined) await sendWhile({ ...options, what: `process ${pid}`, root }, make);
  else await attachToFile(resolve(options.out), make);
}

async function attachToFile(spool: string, make: (to: Destination) => Promise<ChildEnd>): Promise<void> {
  const control = `${spool}.control`;
  await Promise.all([writeFile(spool, ''), writeFile(control, '')]);
  await make({ spool, control });
  await addLeftoverLogs(spool);
  await removeLogs(spool);
}

async function follow(pid: number, library: string, options: AttachOptions, to: Destination): Promise<ChildEnd> {
  const log = jvmLogFile(to.spool).replace('%p', String(pid));
  attachAgent(pid, library, { out: to.spool, control: to.control, log, ...jvmSettingsOf(options) });
  say(`process ${pid} is being recorded; Ctrl-C ends the recording, not the program`);
  const stop = { asked: false };
  void Promise.race([interrupted(), ...(options.seconds === undefined ? [] : [wait(Number(options.seconds) * 1000)])]).then(() => { stop.asked = true; });
  while (!stop.asked && isRunning(pid)) await wait(LOOK_MS);
  if (isRunning(pid)) {
    await appendFile(to.control, '{"do":"stop"}\n');
    await goodbye(to.spool, pid);
    closeLog(pid, log);
  }
  return { exitCode: 0, signal: null };
}

// The agent's last line says goodbye; without it what is there counts.
async function goodbye(spool: string, pid: number): Promise<void> {
  for (const until = Date.now() + GOODBYE_MS; Date.now() < until && isRunning(pid); await wait(LOOK_MS)) {
    const text = await readFile(spool, 'utf8');
    if (text.slice(-4096).includes(`{"k":"bye","h":"${pid}"`)) return;
  }
}
