/**
 * Sends a spool on until its writer is gone, and tells when the server has all of it: `node sender.mjs SPOOL PORT TOKEN
 * WRITER`.
 */
import { existsSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { Forwarder } from '../../packages/cli/dist/recording/forwarder.js';

const [spool, port, token, writer] = process.argv.slice(2);
const forwarder = new Forwarder({
  spool,
  control: `${spool}.control`,
  server: { address: `http://127.0.0.1:${port}`, token },
  streamId: 'run',
  onTrouble: () => undefined,
});
const forwarding = forwarder.run();
while (existsSync(`/proc/${writer}`)) await wait(20);
forwarder.stop();
await forwarding;
process.stdout.write(`${JSON.stringify(await forwarder.drain(60_000))}\n`);
process.exit(0);
