/**
 * Kills the program, the sender and the server at random instants, and looks whether what the server has at the end is
 * what was written: byte for byte, nothing missing, nothing doubled. `node kill-rounds.mjs [ROUNDS] [SEED]`.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { chance } from './chance.mjs';

const TOKEN = 'k'.repeat(43);
const here = import.meta.dirname;

/** Runs so many rounds; answers what went wrong, none for a good end. */
export async function killRounds(rounds, seed, tell = () => undefined) {
  const problems = [];
  for (let round = 0; round < rounds; round++) {
    const problem = await killRound(seed + round);
    tell(round, problem);
    if (problem !== '') problems.push(`seed ${seed + round}: ${problem}`);
  }
  return problems;
}

async function killRound(seed) {
  const next = chance(seed);
  const folder = mkdtempSync(join(tmpdir(), 'heron-kills-'));
  const [spool, streams] = [join(folder, 'run.ndjson'), join(folder, 'streams')];
  writeFileSync(spool, '');
  const port = await freePort();
  const children = new Set();
  const start = (name, ...args) => {
    const child = spawn(process.execPath, [join(here, name), ...args.map(String)], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    children.add(child);
    child.once('exit', () => children.delete(child));
    return child;
  };
  const writer = start('writer.mjs', spool, seed);
  const serve = () => start('server.mjs', port, streams, TOKEN);
  const send = () => start('sender.mjs', spool, port, TOKEN, writer.pid);
  const ends = (child) =>
    child.exitCode !== null || child.signalCode !== null
      ? Promise.resolve()
      : new Promise((done) => child.once('exit', done));
  const kill = async (child) => {
    child.kill('SIGKILL');
    await ends(child);
  };
  try {
    let server = serve();
    let sender = send();
    const acknowledged = { bytes: 0 };
    for (let kills = 1 + Math.floor(next() * 3); kills > 0; kills--) {
      await wait(150 + next() * 500);
      acknowledged.bytes = Math.max(acknowledged.bytes, await bytesAt(port));
      const who = next();
      if (who < 0.5) {
        await kill(server);
        await wait(next() * 200);
        server = serve();
      } else {
        await kill(sender);
        sender = send();
      }
    }
    await kill(writer);
    let said = '';
    sender.stdout.on('data', (data) => {
      said += data;
    });
    await Promise.race([ends(sender), wait(90_000)]);
    const drained = JSON.parse(said || '{"whole":false,"why":"nothing was said"}');
    if (!drained.whole) return `the sender did not send all: ${drained.why}`;
    const written = readFileSync(spool);
    const stored = existsSync(join(streams, 'run.ndjson'))
      ? readFileSync(join(streams, 'run.ndjson'))
      : Buffer.alloc(0);
    if (!written.equals(stored))
      return `${written.length} bytes were written and ${stored.length} are stored; they part at byte ${firstDifference(written, stored)}`;
    return stored.length < acknowledged.bytes
      ? `${acknowledged.bytes} bytes were acknowledged and ${stored.length} are stored`
      : '';
  } finally {
    for (const child of children) child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  }
}

async function bytesAt(port) {
  try {
    const response = await fetch(`http://127.0.0.1:${port}/api/streams/run`, {
      headers: { authorization: `Bearer ${TOKEN}` },
      signal: AbortSignal.timeout(2000),
    });
    return (await response.json()).bytes ?? 0;
  } catch {
    return 0;
  }
}

function firstDifference(a, b) {
  let at = 0;
  while (at < a.length && at < b.length && a[at] === b[at]) at++;
  return at;
}

function freePort() {
  return new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => done(port));
    });
  });
}

if (process.argv[1] === import.meta.filename) {
  const [rounds = '200', seed = '1'] = process.argv.slice(2);
  const problems = await killRounds(Number(rounds), Number(seed), (round, problem) =>
    process.stdout.write(problem === '' ? '.' : `\n${round}: ${problem}\n`),
  );
  process.stdout.write(`\n${Number(rounds) - problems.length} rounds of ${rounds} were good\n`);
  process.exitCode = problems.length === 0 ? 0 : 1;
}
