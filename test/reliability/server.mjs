/** A server on a port over a folder: `node server.mjs PORT FOLDER TOKEN`. */
import { buildApp } from '@brisk-heron/server';

const [port, folder, token] = process.argv.slice(2);
const app = await buildApp({
  dataDirectory: folder,
  token,
  webDirectory: null,
  samplesDirectory: null,
  logLevel: 'silent',
});
await app.listen({ host: '127.0.0.1', port: Number(port) });
