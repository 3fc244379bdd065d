import { existsSync, readdirSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { groupParts, STREAM_SCHEMA } from '@brisk-heron/core';
import { fileBeginning } from '@brisk-heron/server';
import type { Command } from 'commander';
import { partOf } from '../input/read-files.ts';
import { tailLog } from '../recording/log-tail.ts';
import { interrupted, sendFile, sendLog } from '../recording/outgoing.ts';

interface FollowOptions {
  readonly server?: string;
  readonly id?: string;
  readonly name?: string;
}

/** `heron follow FILE`: sends on a GC log, or what a recorder started by other means writes, as it grows. */
export function followCommand(command: Command, root: string): void {
  command
    .argument('<file>', 'a GC log, or what a recorder writes (its option out=); - for a log from the standard input')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .option('--name <name>', 'what a log is called in lists, else its file name')
    .action((file: string, options: FollowOptions) => follow(file, options, root));
}

async function follow(file: string, options: FollowOptions, root: string): Promise<void> {
  const stop = { asked: false };
  if (file === '-') {
    await sendLog({ ...options, what: 'the standard input', name: options.name ?? 'log', root }, async (take) => {
      void interrupted().then(() => process.stdin.destroy());
      for await (const bytes of process.stdin) await take(bytes as Buffer);
    });
    return;
  }
  if (!existsSync(file)) throw new Error(`expected a GC log or a file that a recorder writes, found none at ${file}`);
  const path = resolve(file);
  if (await isStream(path)) return sendFile(path, { ...options, what: file, root }, interrupted());
  void interrupted().then(() => {
    stop.asked = true;
  });
  await sendLog({ ...options, what: file, name: options.name ?? basename(file), root }, async (take) => {
    for (const part of await rotatedBefore(path)) await take(await readFile(part));
    await tailLog(path, take, () => stop.asked);
  });
}

// A recorder may have begun its file a moment ago.
async function isStream(file: string): Promise<boolean> {
  for (let tries = 0; tries < 3; tries++, await wait(500)) {
    const beginning = (await fileBeginning(file, 4096)).toString('latin1');
    if (beginning !== '') return beginning.includes(STREAM_SCHEMA);
  }
  return false;
}

// Parts of the same run that were rotated away before, as gc.log.0 beside gc.log, in their order.
async function rotatedBefore(file: string): Promise<string[]> {
  const name = basename(file);
  const parts = readdirSync(dirname(file)).filter(
    (other) => other.startsWith(`${name}.`) && /^\d+$/.test(other.slice(name.length + 1)),
  );
  const files = [...parts.map((part) => join(dirname(file), part)), file];
  if (files.length === 1) return [];
  const group = groupParts(await Promise.all(files.map(partOf))).find(({ files: places }) =>
    places.includes(files.length - 1),
  );
  return (group?.files ?? []).filter((place) => place !== files.length - 1).map((place) => files[place]!);
}
