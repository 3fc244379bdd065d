import { resolve } from 'node:path';
import { Command } from 'commander';
import { DEFAULT_PORT } from '../places.ts';
import { startServer } from '../recording/server-at-hand.ts';

/** `heron serve`: the server with the page. */
export function serveCommand(root: string): Command {
  return new Command('serve')
    .description('serve the page and take recordings, on this machine only')
    .option('--port <port>', 'port on 127.0.0.1', String(DEFAULT_PORT))
    .option('--samples <directory>', 'finished recordings to offer on the first page')
    .action(async (options: { port: string; samples?: string }) => {
      const address = `http://127.0.0.1:${options.port}`;
      const server = await startServer(address, root, options.samples === undefined ? {} : { samples: resolve(options.samples) });
      process.stdout.write(`${address}\n`);
      await new Promise<void>((done) => ['SIGINT', 'SIGTERM'].forEach((signal) => process.once(signal, () => done())));
      await server.close();
    });
}
