import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { connect, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { FastifyInstance, InjectOptions } from 'fastify';
import { buildApp } from '../src/app.ts';
import { claim, ownerOf } from '../src/storage/claim.ts';
import { accessToken } from '../src/storage/private-folder.ts';
import { runIdentity } from '../src/storage/run-identity.ts';
import { scratch } from '../../../test/run-heron.ts';

const TOKEN = 'b'.repeat(43);
const HELLO =
  '{"k":"hello","schema":"brisk-heron/stream@1","h":"1.0","epochMs":1800000000000,"program":"tidewatch","runtime":"Node.js v20"}\n';
const OTHER = HELLO.replace('1800000000000', '1800000000999');
const MARK = '{"k":"mark","h":"1.0","t":5,"label":"reconnect","by":"program"}\n';
const open: FastifyInstance[] = [];

async function serve(dataDirectory = scratch()): Promise<FastifyInstance> {
  const app = await buildApp({
    dataDirectory,
    token: TOKEN,
    webDirectory: null,
    samplesDirectory: null,
    logLevel: 'silent',
  });
  open.push(app);
  return app;
}

afterEach(async () => {
  for (const app of open.splice(0)) await app.close();
});

const known = { authorization: `Bearer ${TOKEN}` };
const ask = (app: FastifyInstance, options: InjectOptions) =>
  app.inject({ ...options, headers: { ...known, ...options.headers } });
const post = (app: FastifyInstance, payload: string | Buffer, query = 'offset=0', id = 'run') =>
  ask(app, {
    method: 'POST',
    url: `/api/streams/${id}/lines?${query}`,
    headers: { 'content-type': 'application/x-ndjson' },
    payload,
  });

describe('who does not know the token', () => {
  test.each([
    'GET /api/streams',
    'GET /api/streams/run',
    'GET /api/samples',
    'POST /api/streams/run/lines?offset=0',
    'POST /api/marks',
    'POST /api/streams/run/commands',
    'POST /api/streams/run/end',
  ])('gets nothing by %s', async (line) => {
    const app = await serve();
    await post(app, HELLO);
    const [method, url] = line.split(' ') as ['GET' | 'POST', string];
    for (const headers of [
      {},
      { authorization: 'Bearer ' },
      { authorization: `Bearer ${TOKEN.slice(1)}` },
      { cookie: 'brisk-heron-80=guess' },
      { 'x-brisk-heron-token': `${TOKEN}x` },
    ]) {
      const answer = await app.inject({
        method,
        url,
        headers: { ...headers, host: 'localhost', 'content-type': 'application/x-ndjson' },
        ...(method === 'POST' ? { payload: HELLO } : {}),
      });
      expect([answer.statusCode, answer.body.includes('tidewatch')]).toEqual([401, false]);
    }
  });

  test('is shown a door at the page, and the first visit with it leaves a cookie and no token in the address', async () => {
    const app = await serve();
    const door = await app.inject({ url: '/recording/x', headers: { host: '127.0.0.1:4517' } });
    expect([door.statusCode, door.headers['content-type']]).toEqual([401, 'text/html; charset=utf-8']);
    const entered = await app.inject({ url: `/recording/x?a=b&token=${TOKEN}`, headers: { host: '127.0.0.1:4517' } });
    expect([entered.statusCode, entered.headers.location]).toEqual([303, '/recording/x?a=b']);
    expect(entered.headers['set-cookie']).toMatch(
      /^brisk-heron-4517=b{43}; Path=\/; Max-Age=\d+; HttpOnly; SameSite=Strict$/,
    );
    expect(
      (
        await app.inject({
          url: '/api/streams',
          headers: { host: '127.0.0.1:4517', cookie: `other=1; brisk-heron-4517=${TOKEN}` },
        })
      ).statusCode,
    ).toBe(200);
    expect(
      (await app.inject({ url: `/.//elsewhere.example/?token=${TOKEN}`, headers: { host: '127.0.0.1:4517' } })).headers
        .location,
    ).not.toMatch(/^\/\//);
  });

  test('may see that a server is there, and nothing may put it in a frame or guess types', async () => {
    const app = await serve();
    const health = await app.inject({ url: '/api/health' });
    expect(health.json()).toEqual({ service: 'brisk-heron', version: 1 });
    expect(health.headers).toMatchObject({
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
      'content-security-policy': expect.stringContaining("frame-ancestors 'none'") as string,
    });
  });
});

test('a data folder and its files are for one user alone, and its token stays', async () => {
  const data = join(scratch(), 'made', 'here');
  const token = accessToken(data);
  expect([accessToken(data), token.length]).toEqual([token, 43]);
  const app = await serve(join(data, 'streams'));
  await post(app, HELLO);
  const mode = (path: string): string => (statSync(path).mode & 0o777).toString(8);
  expect([
    mode(data),
    mode(join(data, 'token')),
    mode(join(data, 'streams')),
    mode(join(data, 'streams', 'run.ndjson')),
    mode(join(data, 'streams', 'run.json')),
  ]).toEqual(['700', '600', '700', '600', '600']);
  writeFileSync(join(data, 'token'), 'short');
  expect(() => accessToken(data)).toThrow(/expected a token of 43 letters/);
  expect(() => accessToken('/proc/nope/at/all')).toThrow(/cannot keep recordings in \/proc\/nope.*BRISK_HERON_DATA/);
});

test('two servers do not share a folder, and one that was killed does not keep it', async () => {
  const directory = scratch();
  const app = await serve(directory);
  await expect(serve(directory)).rejects.toThrow(/another server \(process \d+\) keeps its recordings in/);
  await app.close();
  open.splice(0);
  writeFileSync(join(directory, 'server'), JSON.stringify({ pid: process.pid, started: 'another start' }));
  await serve(directory);
  expect(ownerOf(join(directory, 'server'))).toBe(process.pid);
  expect(claim(join(directory, 'server'))).toEqual({ heldBy: process.pid });
});

describe('one id, one run', () => {
  const run = (text: string): string => runIdentity(Buffer.from(text));

  test('lines of another run are refused, before and after a restart', async () => {
    const directory = scratch();
    const app = await serve(directory);
    await post(app, HELLO, `offset=0&run=${run(HELLO)}`);
    expect((await post(app, MARK, `offset=${HELLO.length}&run=${run(OTHER)}`)).json()).toMatchObject({
      ok: false,
      code: 'other-run',
    });
    await app.close();
    open.splice(0);
    const again = await serve(directory);
    expect((await post(again, MARK, `offset=${HELLO.length}&run=${run(OTHER)}`)).json()).toMatchObject({
      code: 'other-run',
    });
    expect((await post(again, MARK, `offset=${HELLO.length}&run=${run(HELLO)}`)).statusCode).toBe(200);
    expect(readFileSync(join(directory, 'run.ndjson'), 'utf8')).toBe(HELLO + MARK);
  });

  test('is told by the first line, however long', () => {
    expect(run(HELLO + MARK)).toBe(run(HELLO));
    expect(run(HELLO)).not.toBe(run(OTHER));
    expect([run('half a line'), run('x'.repeat(5000)) === run(`${'x'.repeat(9000)}\n`)]).toEqual(['', true]);
  });
});

describe('a disk that takes nothing', () => {
  test('at the first batch leaves no trace, and the stream begins when there is room', async () => {
    const directory = scratch();
    const app = await serve(directory);
    symlinkSync('/dev/full', join(directory, 'run.json.new'));
    const refused = await post(app, HELLO);
    expect([refused.statusCode, refused.json<{ message: string }>().message]).toEqual([
      507,
      expect.stringContaining('the disk of the server is full'),
    ]);
    expect((await ask(app, { url: '/api/streams' })).json()).toEqual({ streams: [] });
    expect(readdirSync(directory).filter((name) => name !== 'server')).toEqual([]);
    expect((await post(app, HELLO)).statusCode).toBe(200);
  });

  test('in the middle acknowledges nothing that a restart would not find', async () => {
    const directory = scratch();
    const app = await serve(directory);
    symlinkSync('/dev/full', join(directory, 'run.ndjson'));
    expect((await post(app, HELLO + MARK)).statusCode).toBe(507);
    expect((await post(app, HELLO)).json()).toMatchObject({ bytes: HELLO.length });
    expect(readFileSync(join(directory, 'run.ndjson'), 'utf8')).toBe(HELLO);
  });
});

describe('what a fault left in the folder is mended at the start', () => {
  test('a description that is missing or cut, half a line, and files of others', async () => {
    const directory = scratch();
    writeFileSync(join(directory, 'bare.ndjson'), HELLO + MARK + MARK.slice(0, 20));
    writeFileSync(join(directory, 'cut.ndjson'), HELLO);
    writeFileSync(join(directory, 'cut.json'), '{"id":"cut","na');
    writeFileSync(join(directory, 'left.json.new'), '{');
    writeFileSync(join(directory, 'alone.json'), '{}');
    writeFileSync(join(directory, 'photo.ndjson'), 'nothing of ours\n');
    const app = await serve(directory);
    const { streams } = (await ask(app, { url: '/api/streams' })).json<{
      streams: { id: string; bytes: number; program: string }[];
    }>();
    expect(streams.map(({ id, bytes, program }) => [id, bytes, program]).sort()).toEqual([
      ['bare', HELLO.length + MARK.length, 'tidewatch'],
      ['cut', HELLO.length, 'tidewatch'],
    ]);
    expect((await post(app, MARK, `offset=${HELLO.length + MARK.length}`, 'bare')).statusCode).toBe(200);
    expect([
      existsSync(join(directory, 'left.json.new')),
      readFileSync(join(directory, 'photo.ndjson'), 'utf8'),
    ]).toEqual([false, 'nothing of ours\n']);
  });

  test('a stream that was cut after it was acknowledged is sent again from there', async () => {
    const directory = scratch();
    const app = await serve(directory);
    await post(app, HELLO + MARK + MARK);
    await app.close();
    open.splice(0);
    truncateSync(join(directory, 'run.ndjson'), HELLO.length + MARK.length + 7);
    const again = await serve(directory);
    expect((await post(again, MARK, `offset=${HELLO.length + 2 * MARK.length}`)).json()).toMatchObject({
      code: 'wrong-offset',
      bytes: HELLO.length + MARK.length,
    });
  });
});

test('a batch of very many bad lines is kept, and others are answered meanwhile', async () => {
  const app = await serve();
  const batch = Buffer.concat([Buffer.from(HELLO), Buffer.alloc(7_000_000, 'x\n')]);
  let answered = 0;
  const sent = post(app, batch);
  let done = false;
  void sent.then(() => {
    done = true;
  });
  while (!done) {
    await ask(app, { url: '/api/streams' });
    answered++;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  expect((await sent).json()).toMatchObject({
    bytes: batch.length,
    lines: 3_500_001,
    badLines: 1000,
    uncheckedLines: 3_499_000,
  });
  expect(answered).toBeGreaterThan(5);
});

test('a line that no one can use is passed over, and what comes after it arrives', async () => {
  const app = await serve();
  await post(app, HELLO);
  const long = Buffer.alloc(4 * 1024 * 1024, 'x');
  expect((await post(app, long, `offset=${HELLO.length}`)).json()).toMatchObject({ bytes: HELLO.length + long.length });
  expect((await post(app, `x\n${MARK}`, `offset=${HELLO.length + long.length}`)).json()).toMatchObject({
    badLines: 1,
    lines: 2,
  });
});

test('a log is taken as it came when it is said to be one', async () => {
  const directory = scratch();
  const app = await serve(directory);
  expect((await post(app, '[0.1s][info][gc] GC(0) x\n')).statusCode).toBe(400);
  expect((await post(app, '[0.1s][info][gc] GC(0) x\n[0.2s][in', 'offset=0&log=gc.log')).json()).toMatchObject({
    bytes: 25,
  });
  expect((await ask(app, { url: '/api/streams/run' })).json()).toMatchObject({ program: 'gc.log', runtime: '' });
});

test('a stream that ended goes on when its run does', async () => {
  const app = await serve();
  await post(app, HELLO);
  await ask(app, { method: 'POST', url: '/api/streams/run/end', payload: { exitCode: 0, signal: null } });
  await post(app, MARK, `offset=${HELLO.length}`);
  expect((await ask(app, { url: '/api/streams/run' })).json()).toMatchObject({ ended: null, connected: true });
});

test('a sender that does not go on is cut off, and holds nothing up', async () => {
  const app = await serve();
  await app.listen({ host: '127.0.0.1', port: 0 });
  const { port } = app.server.address() as AddressInfo;
  const slow = connect(port, '127.0.0.1', () => {
    slow.write(
      `POST /api/streams/run/lines?offset=0 HTTP/1.1\r\nhost: 127.0.0.1:${port}\r\nauthorization: Bearer ${TOKEN}\r\ncontent-type: application/x-ndjson\r\ncontent-length: 1000\r\n\r\n{`,
    );
  });
  slow.on('error', () => undefined);
  expect(app.server.requestTimeout).toBeLessThanOrEqual(30_000);
  expect((await fetch(`http://127.0.0.1:${port}/api/streams`, { headers: known })).status).toBe(200);
  slow.destroy();
});

test('ten thousand recordings do not keep a server from starting', async () => {
  const directory = scratch();
  mkdirSync(directory, { recursive: true });
  for (let n = 0; n < 10_000; n++) {
    writeFileSync(join(directory, `run-${n}.ndjson`), HELLO);
    writeFileSync(
      join(directory, `run-${n}.json`),
      JSON.stringify({
        id: `run-${n}`,
        name: 'tidewatch',
        program: 'tidewatch',
        runtime: 'Node.js v20',
        startedEpochMs: n,
        ended: null,
      }),
    );
  }
  const fromMs = performance.now();
  const app = await serve(directory);
  process.stderr.write(`10,000 recordings: started in ${Math.round(performance.now() - fromMs)} ms\n`);
  expect((await ask(app, { url: '/api/streams' })).json<{ streams: unknown[] }>().streams.length).toBe(10_000);
});
