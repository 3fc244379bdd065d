import { appendFile } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import { fileBeginning, runIdentityOf } from '@brisk-heron/server';
import { z } from 'zod';
import type { ChildEnd } from './child.ts';
import { type Drained, Forwarder } from './forwarder.ts';
import { addInventories, removeUnfinished, watchInventories } from './inventory-files.ts';
import { addLeftoverLogs, removeLogs } from './jvm-log-files.ts';
import { addLeftMarks } from './left-marks.ts';
import {
  askServer,
  findServer,
  ownAccess,
  pageAddress,
  serverAccess,
  type ServerAccess,
  startServer,
} from './server-access.ts';
import {
  type Destination,
  isOpenElsewhere,
  makeSpool,
  newStreamId,
  removeSpool,
  type Spool,
  takeLeftSpools,
} from './spool.ts';

const DRAIN_MS = 15_000;
/** Runs that may have been recorded under one id. */
const MOST_RUNS = 1000;
const codeSchema = z.object({ code: z.string().optional() });
const LOOK_MS = 1000;
const LEFT_LOOK_MS = 3000;

/** What is recorded under which name, and where it is sent. */
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
 * Records to the server: makes a spool, sends it on while `make` fills it, and removes it once the server has
 * everything. The server is started when none answers, and then goes on serving until it is interrupted.
 */
export async function sendWhile(
  options: OutgoingOptions,
  make: (to: Destination) => Promise<ChildEnd>,
): Promise<ChildEnd> {
  const { access, started } = await serverAtHand(options);
  const spool = await makeSpool(options.id ?? newStreamId(), (id) => isTaken(access, id));
  if (options.id !== undefined && spool.id !== options.id)
    say(`the id ${options.id} is another recording's: this one is ${spool.id}`);
  const leftSent = sendLeftSpools(access);
  say(`recording ${options.what}; look at ${pageAddress(access, `/recording/live-${spool.id}/growth`)}`);
  const forwarder = forwarderOf(spool, access);
  const forwarding = forwarder.run();
  const inventories = watchInventories(spool.spool, say);
  const end = await make(spool).catch(async (error: unknown) => {
    // The program was never there.
    await inventories.stop();
    forwarder.stop();
    await forwarding;
    await forwarder.close();
    removeSpool(spool);
    await started?.close();
    throw error;
  });
  await inventories.stop();
  forwarder.stop();
  await forwarding;
  await finish(forwarder, spool, access, end);
  await leftSent;
  if (started !== null) await keepServing(started, access);
  return end;
}

/** Sends on a file that a recorder, started by other means, appends to; until `stopped`. The file stays. */
export async function sendFile(file: string, options: OutgoingOptions, stopped: Promise<unknown>): Promise<void> {
  const { access, started } = await serverAtHand(options);
  const id = options.id ?? newStreamId();
  say(`sending ${options.what}; look at ${pageAddress(access, `/recording/live-${id}/growth`)}; Ctrl-C ends it`);
  const forwarder = forwarderOf({ id, spool: file, control: `${file}.control` }, access);
  const forwarding = forwarder.run();
  const inventories = watchInventories(file, say);
  await stopped;
  await inventories.stop();
  forwarder.stop();
  await forwarding;
  const drained = await forwarder.drain(DRAIN_MS, false);
  await forwarder.close();
  if (!drained.whole) {
    say(`the server did not take everything (${drained.why}); the recording is in ${file}`);
    process.exitCode = 1;
  }
  await tellEnd(access, id, { exitCode: null, signal: null });
  await started?.close();
}

/** A log on its way. */
export interface OutgoingLog extends OutgoingOptions {
  /** What it is called in lists. */
  readonly name: string;
}

/**
 * Sends a log on as `read` hands over its pieces, until that is done. What was read and not sent yet is kept as with a
 * recording.
 */
export async function sendLog(
  options: OutgoingLog,
  read: (take: (bytes: Buffer) => Promise<void>) => Promise<void>,
): Promise<void> {
  const { access, started } = await serverAtHand(options);
  const wanted =
    options.id ??
    `${options.name
      .replace(/[^A-Za-z0-9._-]+/g, '-')
      .replace(/^[^A-Za-z0-9]+/, '')
      .slice(0, 60)}-${newStreamId()}`.replace(/^-/, '');
  const spool = await makeSpool(wanted, (id) => isTaken(access, id));
  if (options.id !== undefined && spool.id !== options.id)
    say(`the id ${options.id} is another recording's: this one is ${spool.id}`);
  say(
    `following ${options.what}; look at ${pageAddress(access, `/recording/live-${spool.id}/growth`)}; Ctrl-C ends it`,
  );
  const forwarder = forwarderOf(spool, access, options.name);
  const forwarding = forwarder.run();
  await read((bytes) => appendFile(spool.spool, bytes));
  forwarder.stop();
  await forwarding;
  await finish(
    forwarder,
    spool,
    access,
    { exitCode: null, signal: null },
    'nothing came of the log: is it the file that the program writes?',
  );
  await started?.close();
}

/** The server that is asked for; started where none answers. */
async function serverAtHand({
  server,
  root,
}: {
  readonly server?: string;
  readonly root: string;
}): Promise<{ readonly access: ServerAccess; readonly started: { close(): Promise<void> } | null }> {
  const access = serverAccess(server);
  if (await findServer(access)) return { access, started: null };
  const started = await startServer(access.address, root);
  return { access: ownAccess(access.address), started };
}

/**
 * Sends what command lines that are gone have left behind, each under its own id, and says so. Where the recorded
 * program still runs, it is sent on until that ends. What cannot be sent is said once and noted in `givenUp`, and
 * stays.
 */
async function sendLeftSpools(access: ServerAccess, givenUp = new Set<string>()): Promise<void> {
  await Promise.all(
    takeLeftSpools(givenUp).map(async (spool) => {
      const why = await sendLeft(spool, access).catch((error: unknown) =>
        error instanceof Error ? error.message : String(error),
      );
      if (why === '') return;
      spool.claim.release();
      givenUp.add(spool.spool);
      say(`a recording that was left behind cannot be sent (${why}); it is in ${spool.spool}`);
    }),
  );
}

/** Looks for what is left behind for as long as a server is served. */
export function watchLeftSpools(access: ServerAccess): { stop(): void } {
  const givenUp = new Set<string>();
  const look = (): void => void sendLeftSpools(access, givenUp);
  look();
  const timer = setInterval(look, LEFT_LOOK_MS);
  return { stop: () => clearInterval(timer) };
}

// Answers why it cannot be sent, '' when it was.
async function sendLeft(spool: Spool, access: ServerAccess): Promise<string> {
  const isLog = !/^(?:\{"k":|$)/.test((await fileBeginning(spool.spool, 64)).toString('latin1'));
  const id = await idOfRun(spool, access);
  const forwarder = forwarderOf({ ...spool, id }, access, isLog ? id : '');
  if (isOpenElsewhere(spool.spool)) {
    say(`the program of ${id} still runs, though what recorded it is gone: its recording is sent on`);
    const forwarding = forwarder.run();
    const inventories = watchInventories(spool.spool, say);
    while (isOpenElsewhere(spool.spool)) await wait(LOOK_MS, undefined, { ref: false });
    await inventories.stop();
    forwarder.stop();
    await forwarding;
  }
  const drained = await drainAll(forwarder, spool);
  if (!drained.whole) return drained.why;
  if (drained.bytes > 0) {
    await tellEnd(access, id, { exitCode: null, signal: null });
    say(`a recording that was left behind has been sent: ${id}`);
  }
  await removeLogs(spool.spool);
  removeSpool(spool);
  return '';
}

// Its own id, or with a number where the server has another run under it.
async function idOfRun({ spool, id }: Spool, access: ServerAccess): Promise<string> {
  const run = await runIdentityOf(spool);
  for (let n = 1; n < MOST_RUNS; n++) {
    const each = n === 1 ? id : `${id}-${n}`;
    const answer = await askServer(access, `/api/streams/${each}/lines?offset=0&run=${run}`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-ndjson' },
      body: '',
    });
    const { code } = codeSchema.parse(await answer.json());
    if (code !== 'other-run') return each;
  }
  return id;
}

function forwarderOf(spool: Omit<Spool, 'claim'>, server: ServerAccess, log = ''): Forwarder {
  return new Forwarder({ spool: spool.spool, control: spool.control, server, streamId: spool.id, log, onTrouble: say });
}

async function isTaken(access: ServerAccess, id: string): Promise<boolean> {
  const { status } = await askServer(access, `/api/streams/${encodeURIComponent(id)}`);
  if (status === 400)
    throw new Error(`expected an --id of 1 to 100 letters, digits, dots, dashes or underscores, found "${id}"`);
  return status === 200;
}

async function finish(
  forwarder: Forwarder,
  spool: Spool,
  access: ServerAccess,
  end: ChildEnd,
  silence = NOBODY_SPOKE,
): Promise<void> {
  const drained = await drainAll(forwarder, spool);
  if (!drained.whole) {
    spool.claim.release();
    say(
      `the server did not take everything (${drained.why}); the whole recording is in ${spool.spool}: it is sent when "heron serve" or "heron record" runs next, or drop that file on the page`,
    );
    return;
  }
  await tellEnd(access, spool.id, end);
  if (isOpenElsewhere(spool.spool)) {
    // Whoever serves takes it over: this command is over with its program.
    spool.claim.release();
    say(
      `processes that it started still run: what they do is recorded on, and sent by the server of ${access.address} while that runs`,
    );
    return;
  }
  await removeLogs(spool.spool);
  removeSpool(spool);
  if (drained.bytes === 0) say(silence);
}

// Everything of a program that has ended: what its log still holds, and marks that were left at the server until now.
async function drainAll(forwarder: Forwarder, spool: Spool): Promise<Drained> {
  await completed(() => addLeftoverLogs(spool.spool));
  await completed(() => addInventories(spool.spool, say));
  removeUnfinished(spool.spool);
  let drained = await forwarder.drain(DRAIN_MS);
  if ((await completed(() => addLeftMarks(spool))) > 0 && drained.whole) drained = await forwarder.drain(DRAIN_MS);
  await forwarder.close();
  return drained;
}

/**
 * What is added at the end to what a recorder wrote: where the disk does not take it, that is said, and the rest
 * counts. Answers 0 then.
 */
export async function completed(add: () => Promise<number>): Promise<number> {
  try {
    return await add();
  } catch (error) {
    say(`the end of the recording is not complete (${error instanceof Error ? error.message : String(error)})`);
    return 0;
  }
}

/** Said where a command has ended and no recorder was in it. */
export const NOBODY_SPOKE =
  'nothing was recorded: no Node or Java program that can be recorded ran in this command. Did it start one in a container, under another user, with an environment of its own, or as a service? Record that program itself (heron record -- node … or java …), or one that runs already with "heron attach PID"';

async function tellEnd(access: ServerAccess, streamId: string, end: ChildEnd): Promise<void> {
  await askServer(access, `/api/streams/${streamId}/end`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(end),
  }).catch(() => undefined);
}

async function keepServing(started: { close(): Promise<void> }, access: ServerAccess): Promise<void> {
  say(`the recording is over and stays at ${pageAddress(access)} until you press Ctrl-C`);
  const watch = watchLeftSpools(access);
  await interrupted();
  watch.stop();
  await started.close();
}

/** Settles at the first interrupt or termination signal. */
export function interrupted(): Promise<void> {
  return new Promise((resolve) => ['SIGINT', 'SIGTERM'].forEach((signal) => process.once(signal, () => resolve())));
}
