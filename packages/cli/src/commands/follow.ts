import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { Command } from 'commander';
import { interrupted, sendFile } from '../recording/outgoing.ts';

/** `heron follow FILE`: sends on what a recorder, started by other means, appends to a file. */
export function followCommand(root: string): Command {
  return new Command('follow')
    .description('send a growing recording to the server: of a JVM started with -agentpath by hand, say')
    .argument('<file>', 'what the recorder writes (its option out=)')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .action(async (file: string, options: { server?: string; id?: string }) => {
      if (!existsSync(file)) throw new Error(`expected a file that a recorder writes, found none at ${file}`);
      await sendFile(resolve(file), { ...options, what: file, root }, interrupted());
    });
}
