/** `npm run demo`: the server with demo data and the live demo program under recording, at one printed address. */
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { build, install, installCompiler, root } from './bootstrap.mjs';

const DEFAULT_PORT = 4517;
/** A machine that is busy or slow may take long to start a server; one that takes longer is not getting anywhere. */
const HEALTHY_WITHIN_MS = 120_000;
const children = [];
let ending = false;

try {
  install({ loud: true });
  installCompiler();
  build({ loud: true, page: true });
} catch (error) {
  process.stderr.write(`setting up failed: ${error.message}\n`);
  process.exit(1);
}

const wanted = Number(process.env.BRISK_HERON_PORT ?? DEFAULT_PORT);
const port = (await isFree(wanted)) ? wanted : await freePort();
const address = `http://127.0.0.1:${port}`;
const env = { ...process.env, BRISK_HERON_DATA: process.env.BRISK_HERON_DATA ?? join(root, '.heron', 'demo') };
const id = `tidewatch-${new Date().toISOString().replace(/[:.]/g, '-')}`;

for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, end);
// npm passes no signal on to a script it is ended under: when the parent changes, the demo is over.
const parent = process.ppid;
setInterval(() => {
  if (process.ppid !== parent) end();
}, 500);

start(['serve', '--port', String(port), '--samples', join(root, 'examples', 'recordings')], 'ignore');
if (await isHealthy()) recordDemo();
else if (!ending) {
  process.stderr.write(`the server did not answer at ${address} within ${HEALTHY_WITHIN_MS / 1000} s\n`);
  end(1);
}

function recordDemo() {
  start(
    [
      'record',
      '--server',
      address,
      '--id',
      id,
      '--name',
      'tidewatch',
      '--exact',
      '--',
      process.execPath,
      '--max-old-space-size=256',
      join(root, 'examples', 'tidewatch', 'src', 'tidewatch.js'),
      ...process.argv.slice(2),
    ],
    'inherit',
  );
  const token = readFileSync(join(env.BRISK_HERON_DATA, 'token'), 'utf8').trim();
  process.stdout.write(`\nThe demo is at ${address}/recording/live-${id}/growth?token=${token}\n`);
  process.stdout.write('It shows the sample program live; its verdict comes after about a minute. Ctrl-C ends it.\n');
}

function start(args, stdout) {
  const child = spawn(process.execPath, [join(root, 'scripts', 'heron.mjs'), ...args], {
    env,
    stdio: ['ignore', stdout, 'inherit'],
  });
  children.push(child);
  child.once('exit', () => {
    if (!ending) end(1);
  });
}

function end(code) {
  if (ending) return;
  ending = true;
  for (const child of children) child.kill('SIGTERM');
  setTimeout(() => {
    for (const child of children) child.kill('SIGKILL');
  }, 8000).unref();
  Promise.all(
    children.map(
      (child) =>
        child.exitCode !== null || child.signalCode !== null || new Promise((done) => child.once('exit', done)),
    ),
  ).then(() => process.exit(typeof code === 'number' ? code : 0));
}

async function isHealthy() {
  for (const until = Date.now() + HEALTHY_WITHIN_MS; Date.now() < until && !ending;) {
    if (
      await fetch(`${address}/api/health`).then(
        (response) => response.ok,
        () => false,
      )
    )
      return true;
    await new Promise((done) => setTimeout(done, 100));
  }
  return false;
}

function isFree(candidate) {
  return new Promise((done) => {
    const server = createServer()
      .once('error', () => done(false))
      .once('listening', () => server.close(() => done(true)));
    server.listen(candidate, '127.0.0.1');
  });
}

function freePort() {
  return new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port: chosen } = server.address();
      server.close(() => done(chosen));
    });
  });
}
