import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { basename } from 'node:path';
import type { RecorderSettings } from '@brisk-heron/recorder-node';
import { findInspector, InspectorClient, waitForInspector } from './inspector-client.ts';
import { executableOf } from './jvm-attach.ts';

const OPENS_WITHIN_MS = 5000;
/** The runtime opens its inspector at this signal; it would end a program that does not know it. */
const OPENING_SIGNAL = 'SIGUSR1';
const OPENING_SIGNAL_BIT = 1n << 9n;

/** True for a process that runs Node, as far as this user may see. */
export function isNodeProcess(pid: number): boolean {
  const executable = executableOf(pid);
  return executable !== null && /^node(?:js)?(?:-?\d+)?$/.test(basename(executable).replace(/ \(deleted\)$/, ''));
}

/**
 * Loads the recorder into a Node program through its inspector: the one that it has open, or one that it is asked to
 * open, which is closed again. It
 * ends by the command `stop` in its control file.
 * @throws with a message for people where that cannot be.
 */
export async function attachNode(pid: number, settings: RecorderSettings): Promise<void> {
  await withInspector(pid, async (client) => {
    const why = await client.evaluate(`require(${MODULE}).attach(${JSON.stringify(JSON.stringify(settings))})`);
    if (why !== '') throw new Error(`process ${pid} is not recorded: ${String(why)}`);
  });
}

const MODULE = JSON.stringify(createRequire(import.meta.url).resolve('@brisk-heron/recorder-node/attach'));

/**
 * Speaks to a Node program through its inspector, which is closed again where it was not open before.
 * @throws with a message for people where that cannot be.
 */
export async function withInspector<T>(pid: number, work: (client: InspectorClient) => Promise<T>): Promise<T> {
  const open = await findInspector(pid);
  const client = await InspectorClient.open(open ?? (await openInspector(pid)));
  try {
    return await work(client);
  } finally {
    // Once nobody speaks to it any more.
    if (open === null) await client.evaluate(`require(${MODULE}).closeInspector()`).catch(() => undefined);
    client.close();
  }
}

async function openInspector(pid: number): Promise<string> {
  if (!catchesSignal(pid))
    throw new Error(
      `process ${pid} would be ended by the signal that opens a Node program's inspector, and is left alone: start it with "heron record", or with --inspect=127.0.0.1:0`,
    );
  process.kill(pid, OPENING_SIGNAL);
  const address = await waitForInspector(pid, OPENS_WITHIN_MS);
  if (address === null) {
    throw new Error(
      `process ${pid} did not open its inspector within ${OPENS_WITHIN_MS / 1000} s: is port 9229 taken, does the program compute without a break, or does it listen to ${OPENING_SIGNAL} itself? Start it with "heron record", or with --inspect=127.0.0.1:0`,
    );
  }
  return address;
}

function catchesSignal(pid: number): boolean {
  try {
    const caught = /^SigCgt:\s*([0-9a-f]+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
    return caught !== undefined && (BigInt(`0x${caught}`) & OPENING_SIGNAL_BIT) !== 0n;
  } catch {
    return false;
  }
}
