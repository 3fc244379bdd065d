import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FastifyInstance, InjectOptions } from 'fastify';
import { buildApp } from '../src/app.ts';
import { scratch, until } from '../../../test/run-heron.ts';

const HELLO =
  '{"k":"hello","schema":"brisk-heron/stream@1","h":"1.0","epochMs":1800000000000,"program":"tidewatch","runtime":"Node.js v20"}\n';
const MARK = '{"k":"mark","h":"1.0","t":5,"label":"reconnect","by":"program"}\n';
const TOKEN = 'a'.repeat(43);
const open: FastifyInstance[] = [];

/** Asks as a program does that knows the token. */
function ask(app: FastifyInstance, what: InjectOptions | string) {
  const options = typeof what === 'string' ? { url: what } : what;
  return app.inject({ ...options, headers: { authorization: `Bearer ${TOKEN}`, ...options.headers } });
}

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

const headers = { 'content-type': 'application/x-ndjson' };
const post = (app: FastifyInstance, payload: string, offset = 0, id = 'run-1') =>
  ask(app, { method: 'POST', url: `/api/streams/${id}/lines?offset=${offset}`, headers, payload });

test('lines are acknowledged by bytes, stored as they came, and listed', async () => {
  const directory = scratch();
  const app = await serve(directory);
  expect((await post(app, HELLO)).json()).toMatchObject({ bytes: HELLO.length, lines: 1, badLines: 0, commands: [] });
  expect((await post(app, MARK, HELLO.length)).json()).toMatchObject({ bytes: HELLO.length + MARK.length });
  expect(readFileSync(join(directory, 'run-1.ndjson'), 'utf8')).toBe(HELLO + MARK);
  expect((await ask(app, '/api/streams')).json()).toMatchObject({
    streams: [{ id: 'run-1', program: 'tidewatch', connected: true, ended: null, bytes: HELLO.length + MARK.length }],
  });
});

test('a batch sent twice is stored once, and a gap is refused with the right offset', async () => {
  const app = await serve();
  await post(app, HELLO);
  expect(await post(app, HELLO)).toMatchObject({ statusCode: 409 });
  expect((await post(app, MARK, 9999)).json()).toMatchObject({ code: 'wrong-offset', bytes: HELLO.length });
});

test('two first batches at once do not hurt each other', async () => {
  const directory = scratch();
  const app = await serve(directory);
  const answers = await Promise.all([post(app, HELLO), post(app, HELLO), post(app, HELLO)]);
  expect(answers.map((answer) => answer.statusCode).sort()).toEqual([200, 409, 409]);
  expect(readFileSync(join(directory, 'run-1.ndjson'), 'utf8')).toBe(HELLO);
});

test('half a line waits for its end', async () => {
  const app = await serve();
  expect((await post(app, HELLO + MARK.slice(0, 20))).json()).toMatchObject({ bytes: HELLO.length });
  expect((await post(app, MARK, HELLO.length)).json()).toMatchObject({ bytes: HELLO.length + MARK.length });
});

test('a stream begins with a hello, and bad lines are counted with their reason', async () => {
  const app = await serve();
  expect(await post(app, MARK)).toMatchObject({ statusCode: 400 });
  expect((await post(app, `${HELLO}{"k":"size","h":"1.0"}\nnonsense\n`)).json()).toMatchObject({
    lines: 3,
    badLines: 2,
    firstProblem: expect.stringContaining('line 2 of the batch') as string,
  });
});

test('what was acknowledged is there after a restart, and the stream goes on', async () => {
  const directory = scratch();
  const first = await serve(directory);
  await post(first, HELLO);
  await first.close();
  open.splice(0);
  const second = await serve(directory);
  expect((await ask(second, '/api/streams/run-1')).json()).toMatchObject({ bytes: HELLO.length, connected: false });
  expect((await post(second, MARK, HELLO.length)).statusCode).toBe(200);
  expect((await ask(second, '/api/streams/run-1')).json()).toMatchObject({ connected: true });
});

test('commands wait for the recorder, and only while it is connected', async () => {
  const app = await serve();
  await post(app, HELLO);
  const command = (payload: object, id = 'run-1') =>
    ask(app, { method: 'POST', url: `/api/streams/${id}/commands`, payload });
  expect((await command({ do: 'mark', label: 'import done' })).statusCode).toBe(200);
  expect((await command({ do: 'explode' })).statusCode).toBe(400);
  expect((await command({ do: 'births' }, 'nobody')).statusCode).toBe(409);
  expect((await post(app, '', HELLO.length)).json()).toMatchObject({
    commands: [{ do: 'mark', label: 'import done', epochMs: expect.any(Number) as number }],
  });
  expect((await post(app, '', HELLO.length)).json()).toMatchObject({ commands: [] });
  await ask(app, { method: 'POST', url: '/api/streams/run-1/end', payload: { exitCode: 0, signal: null } });
  expect((await command({ do: 'births' })).statusCode).toBe(409);
});

test('a line of HTTP marks one program, or all that are connected', async () => {
  const app = await serve();
  await post(app, HELLO);
  await post(app, HELLO, 0, 'run-2');
  const mark = (url: string, payload: string, type = 'application/x-www-form-urlencoded') =>
    ask(app, { method: 'POST', url, payload, headers: { 'content-type': type } });
  const from = Date.now();
  expect((await mark('/api/streams/run-1/marks', 'import done\n', 'text/plain')).json()).toEqual({ marked: ['run-1'] });
  expect((await mark('/api/marks', 'tide turns')).json()).toEqual({ marked: ['run-1', 'run-2'] });
  const { commands } = (await post(app, '', HELLO.length)).json<{ commands: { label: string; epochMs: number }[] }>();
  expect(commands.map(({ label }) => label)).toEqual(['import done', 'tide turns']);
  expect(commands.every(({ epochMs }) => epochMs >= from && epochMs <= Date.now())).toBe(true);
  expect((await mark('/api/marks', '  ')).json()).toEqual({
    message: expect.stringContaining('expected a label') as string,
  });
  expect((await mark('/api/marks', 'x'.repeat(201))).statusCode).toBe(400);
  expect((await mark('/api/streams/nobody/marks', 'import done')).statusCode).toBe(409);
});

test.each(['../etc', 'a/b', '', '.hidden', 'x'.repeat(101)])('the id %j is no file name', async (id) => {
  const app = await serve();
  expect((await post(app, HELLO, 0, encodeURIComponent(id))).statusCode).toBeGreaterThanOrEqual(400);
});

test('pages of other sites and other hosts are refused', async () => {
  const app = await serve();
  expect((await ask(app, { url: '/api/streams', headers: { origin: 'http://elsewhere.example' } })).statusCode).toBe(
    403,
  );
  expect((await ask(app, { url: '/api/streams', headers: { host: 'elsewhere.example' } })).statusCode).toBe(403);
  expect(
    (await ask(app, { url: '/api/streams', headers: { host: '127.0.0.1:4517', origin: 'http://127.0.0.1:4517' } }))
      .statusCode,
  ).toBe(200);
});

test('the live relay sends what is there, then what comes, then the end', async () => {
  const app = await serve();
  await post(app, HELLO);
  await app.listen({ host: '127.0.0.1', port: 0 });
  const { port } = app.server.address() as AddressInfo;
  const { WebSocket } = await import('ws');
  const socket = new WebSocket(`ws://127.0.0.1:${port}/api/streams/run-1/live?offset=3`, {
    headers: { authorization: `Bearer ${TOKEN}` },
  });
  let text = '';
  let state: unknown = null;
  socket.on('message', (data: Buffer, isBinary: boolean) => {
    if (isBinary) text += data.toString();
    else state = JSON.parse(data.toString());
  });
  const closed = new Promise<number>((resolve) => socket.on('close', resolve));
  await until('the first lines', async () => text === HELLO.slice(3));
  await post(app, MARK, HELLO.length);
  await until('the mark', async () => text === HELLO.slice(3) + MARK);
  await ask(app, { method: 'POST', url: '/api/streams/run-1/end', payload: { exitCode: 0, signal: null } });
  expect(await closed).toBe(1000);
  expect(state).toMatchObject({ bytes: HELLO.length + MARK.length, ended: { exitCode: 0 } });
});
