import { mkdir, rm, truncate, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { Command } from 'commander';
import { DEFAULT_BIRTHS_MS, DEFAULT_INTERVAL_BYTES, DEFAULT_POLL_MS, type RecorderSettings } from '@brisk-heron/recorder-node';
import { dataDirectory, serverAddress } from '../places.ts';
import { endLike, runChild, type ChildEnd } from '../recording/child.ts';
import { Forwarder } from '../recording/forwarder.ts';
import { asCommand, programName, recorderEnvironment } from '../recording/recorder-environment.ts';
import { findServer, startServer } from '../recording/server-at-hand.ts';

interface RecordOptions {
  readonly out?: string;
  readonly server?: string;
  readonly interval: string;
  readonly births: string;
  readonly poll: string;
  readonly exact?: boolean;
  readonly source: boolean;
  readonly name?: string;
  readonly id?: string;
}

const DRAIN_MS = 15_000;

/** `heron record -- node app.js`: runs a program under recording. */
export function recordCommand(root: string): Command {
  return new Command('record')
    .description('run a Node program under recording, with nothing changed in it')
    .argument('<command...>', 'the program and its arguments, after --')
    .option('--out <file>', 'record to a file, with no server and no page')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--interval <bytes>', 'mean bytes between two samples', String(DEFAULT_INTERVAL_BYTES))
    .option('--births <ms>', 'length of the phase that sees every birth', String(DEFAULT_BIRTHS_MS))
    .option('--poll <ms>', 'least time between two looks at the survivors', String(DEFAULT_POLL_MS))
    .option('--exact', 'switch off the optimisations that book allocations under the caller; slows churn')
    .option('--no-source', 'keep excerpts of the source out of the recording')
    .option('--name <name>', 'name of the program in lists')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .passThroughOptions()
    .action((words: string[], options: RecordOptions) => record(asCommand(words), options, root));
}

async function record(command: readonly string[], options: RecordOptions, root: string): Promise<void> {
  const end = options.out === undefined ? await recordToServer(command, options, root) : await recordToFile(command, options, options.out);
  endLike(end);
}

async function recordToFile(command: readonly string[], options: RecordOptions, out: string): Promise<ChildEnd> {
  const file = resolve(out);
  await writeFile(file, '');
  return runChild(command, recorderEnvironment(process.env, settingsFor(command, options, file, '')));
}

async function recordToServer(command: readonly string[], options: RecordOptions, root: string): Promise<ChildEnd> {
  const address = options.server ?? serverAddress();
  const started = (await findServer(address)) ? null : await startServer(address, root);
  const streamId = options.id ?? `${new Date().toISOString().replace(/[:.]/g, '-')}-${process.pid}`;
  const directory = join(dataDirectory(), 'outgoing');
  await mkdir(directory, { recursive: true });
  const spool = join(directory, `${streamId}.ndjson`);
  const control = join(directory, `${streamId}.control`);
  await writeFile(spool, '');
  await writeFile(control, '');
  const say = (text: string): void => void process.stderr.write(`heron: ${text}\n`);
  say(`recording ${programName(command)}; look at ${address}/recording/live-${streamId}/growth`);
  const forwarder = new Forwarder({ spool, control, server: address, streamId, onTrouble: (why) => say(`the server cannot be reached (${why}); recording goes on in ${spool}`) });
  const forwarding = forwarder.run();
  const end = await runChild(command, recorderEnvironment(process.env, settingsFor(command, options, spool, control)));
  forwarder.stop();
  await forwarding;
  await finish(forwarder, { address, streamId, spool, control, say }, end);
  if (started !== null) await keepServing(started, address, say);
  return end;
}

interface Outgoing {
  readonly address: string;
  readonly streamId: string;
  readonly spool: string;
  readonly control: string;
  readonly say: (text: string) => void;
}

async function finish(forwarder: Forwarder, outgoing: Outgoing, end: ChildEnd): Promise<void> {
  const { address, streamId, spool, control, say } = outgoing;
  if (!(await forwarder.drain(DRAIN_MS))) {
    say(`the server did not take everything; the whole recording is in ${spool}: drop that file on the page`);
    return;
  }
  await fetch(`${address}/api/streams/${streamId}/end`, {
    method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(end),
  }).catch(() => undefined);
  await truncate(spool, 0);
  await Promise.all([rm(spool), rm(control)]);
}

async function keepServing(started: { close(): Promise<void> }, address: string, say: (text: string) => void): Promise<void> {
  say(`the program has ended; its recording stays at ${address} until you press Ctrl-C`);
  await new Promise<void>((resolve) => ['SIGINT', 'SIGTERM'].forEach((signal) => process.once(signal, () => resolve())));
  await started.close();
}

function settingsFor(command: readonly string[], options: RecordOptions, out: string, control: string): RecorderSettings {
  return {
    out, control,
    intervalBytes: Number(options.interval),
    birthsMs: Number(options.births),
    pollMs: Number(options.poll),
    exact: options.exact === true,
    source: options.source,
    program: options.name ?? programName(command),
  };
}
