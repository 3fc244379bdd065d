import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { Command } from 'commander';
import { DEFAULT_PORT } from '../places.ts';
import { interrupted, say, watchLeftSpools } from '../recording/outgoing.ts';
import { ownAccess, pageAddress, startServer } from '../recording/server-access.ts';

const LOOPBACK = /^(?:127\.\d+\.\d+\.\d+|localhost|::1)$/;

/** `heron serve`: the server with the page. */
export function serveCommand(command: Command, root: string): void {
  command
    .option('--port <port>', 'port', String(DEFAULT_PORT))
    .option(
      '--host <host>',
      'name or number of this machine to listen at, for others to reach; whoever has the token sees everything',
    )
    .option('--samples <directory>', 'finished recordings to offer on the first page')
    .action((options: ServeCommandOptions) => serve(options, root));
}

interface ServeCommandOptions {
  readonly port: string;
  readonly host?: string;
  readonly samples?: string;
}

// Those that came with the package, where nobody named others.
function samplesOf(given: string | undefined, root: string): { readonly samples?: string } {
  if (given !== undefined) return { samples: resolve(given) };
  const carried = join(root, 'samples');
  return existsSync(carried) ? { samples: carried } : {};
}

async function serve({ port, host, samples }: ServeCommandOptions, root: string): Promise<void> {
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535)
    throw new Error(`expected --port with a number up to 65535, found "${port}"`);
  const access = ownAccess(
    `http://${host === undefined ? '127.0.0.1' : host.includes(':') ? `[${host}]` : host}:${port}`,
  );
  const server = await startServer(access.address, root, {
    ...samplesOf(samples, root),
    ...(host === undefined ? {} : { host }),
  });
  if (host !== undefined && !LOOPBACK.test(host))
    say(
      `whoever reaches ${access.address} and has the token sees every recording, sends new ones, and may set marks; what travels is not encrypted`,
    );
  process.stdout.write(`${pageAddress(access)}\n`);
  const watch = watchLeftSpools(access);
  await interrupted();
  watch.stop();
  await server.close();
}
