import { mkdir, rm, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { dataDirectory, serverAddress } from '../places.ts';
import type { ChildEnd } from './child.ts';
import { Forwarder } from './forwarder.ts';
import { addLeftoverLogs, removeLogs } from './jvm-log-files.ts';
import { findServer, startServer } from './server-at-hand.ts';

const DRAIN_MS = 15_000;

/** Where a recording goes while it is made. */
export interface Destination {
  /** File that recorders append lines to. */
  readonly spool: string;
  /** File that commands are passed on in; '' for none. */
  readonly control: string;
}

export interface OutgoingOptions {
  readonly server?: string;
  readonly id?: string;
  /** What is recorded, for the line that says where to look. */
  readonly what: string;
  readonly root: string;
}

/** Says something to the user, beside the program's own output. */
export function say(text: string): void {
  process.stderr.write(`heron: ${text}\n`);
}

/**
 * Records to the server: makes a spool, sends it on while `make` fills it, and removes it once the server has everything.
 * The server is started when none answers, and then goes on serving until it is interrupted.
 */
export async function sendWhile(options: OutgoingOptions, make: (to: Destination) => Promise<ChildEnd>): Promise<ChildEnd> {
  const address = options.server ?? serverAddress();
  const started = (await findServer(address)) ? null : await startServer(address, options.root);
  const streamId = options.id ?? `${new Date().toISOString().replace(/[:.]/g, '-')}-${process.pid}`;
  const directory = join(dataDirectory(), 'outgoing');
  await mkdir(directory, { recursive: true });
  const to = { spool: join(directory, `${streamId}.ndjson`), control: join(directory, `${streamId}.control`) };
  await writeFile(to.spool, '');
  await writeFile(to.control, '');
  say(`recording ${options.what}; look at ${address}/recording/live-${streamId}/growth`);
  const forwarder = forwarderOf(to, address, streamId);
  const forwarding = forwarder.run();
  const end = await make(to);
  forwarder.stop();
  await forwarding;
  await addLeftoverLogs(to.spool);
  await finish(forwarder, { address, streamId, ...to }, end);
  if (started !== null) await keepServing(started, address);
  return end;
}

/** Sends on a file that a recorder, started by other means, appends to; until `stopped`. The file stays. */
export async function sendFile(file: string, options: OutgoingOptions, stopped: Promise<unknown>): Promise<void> {
  const address = options.server ?? serverAddress();
  const started = (await findServer(address)) ? null : await startServer(address, options.root);
  const streamId = options.id ?? `${new Date().toISOString().replace(/[:.]/g, '-')}-${process.pid}`;
  say(`sending ${options.what}; look at ${address}/recording/live-${streamId}/growth; Ctrl-C ends it`);
  const forwarder = forwarderOf({ spool: file, control: `${file}.control` }, address, streamId);
  const forwarding = forwarder.run();
  await stopped;
  forwarder.stop();
  await forwarding;
  if (!(await forwarder.drain(DRAIN_MS))) say(`the server did not take everything; the recording is in ${file}`);
  await tellEnd(address, streamId, { exitCode: null, signal: null });
  await started?.close();
}

function forwarderOf(to: Destination, address: string, streamId: string): Forwarder {
  return new Forwarder({
    spool: to.spool, control: to.control, server: address, streamId,
    onTrouble: (why) => say(`the server cannot be reached (${why}); recording goes on in ${to.spool}`),
  });
}

interface Sent extends Destination {
  readonly address: string;
  readonly streamId: string;
}

async function finish(forwarder: Forwarder, { address, streamId, spool, control }: Sent, end: ChildEnd): Promise<void> {
  await removeLogs(spool);
  if (!(await forwarder.drain(DRAIN_MS))) {
    say(`the server did not take everything; the whole recording is in ${spool}: drop that file on the page`);
    return;
  }
  await tellEnd(address, streamId, end);
  await truncate(spool, 0);
  await Promise.all([rm(spool), rm(control)]);
}

async function tellEnd(address: string, streamId: string, end: ChildEnd): Promise<void> {
  await fetch(`${address}/api/streams/${streamId}/end`, {
    method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(end),
  }).catch(() => undefined);
}

async function keepServing(started: { close(): Promise<void> }, address: string): Promise<void> {
  say(`the recording is over and stays at ${address} until you press Ctrl-C`);
  await interrupted();
  await started.close();
}

/** Settles at the first interrupt or termination signal. */
export function interrupted(): Promise<void> {
  return new Promise((resolve) => ['SIGINT', 'SIGTERM'].forEach((signal) => process.once(signal, () => resolve())));
}
