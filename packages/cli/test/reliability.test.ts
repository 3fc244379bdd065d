import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  askHeron,
  freePort,
  readRecording,
  ROOT,
  runHeron,
  scratch,
  serveHeron,
  startHeron,
  until,
  type ServedHeron,
} from '../../../test/run-heron.ts';

/** Two servers would share the port and the folder: one serves all tests but those that need one of their own. */
let server: ServedHeron;
const data = scratch();
const running: ChildProcess[] = [];

beforeAll(async () => {
  server = await serveHeron({ data });
});
afterAll(async () => {
  for (const child of running) child.kill('SIGKILL');
  await server.stop();
});

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

const environment = (): NodeJS.ProcessEnv => ({ BRISK_HERON_DATA: data, BRISK_HERON_SERVER: server.address });
const record = (id: string, ...args: string[]) => startHeron(['record', '--id', id, ...args], environment());
const stored = (id: string): string => readFileSync(join(data, 'streams', `${id}.ndjson`), 'utf8');
const kinds = (text: string): string[] =>
  text
    .trim()
    .split('\n')
    .map((line) => (JSON.parse(line) as { k: string }).k);
const outgoing = (): string[] => readdirSync(join(data, 'outgoing'));

test('lines of any length arrive, and the spool is removed only then', async () => {
  const program = programOf(`
    const { appendFileSync, readFileSync } = require('node:fs');
    const { out } = JSON.parse(process.env.BRISK_HERON_RECORD);
    for (const megabytes of [1.5, 3, 9]) appendFileSync(out, JSON.stringify({ k: 'note', h: String(process.pid) + '.0', t: 1, code: 'long', message: 'x'.repeat(megabytes * 2 ** 20) }) + '\\n');
    setTimeout(() => {}, 1500);`);
  expect(await record('long', '--', 'node', program).end).toMatchObject({ code: 0 });
  const lines = stored('long').trim().split('\n');
  expect(lines.map((line) => line.length).filter((length) => length > 2 ** 20).length).toBe(3);
  expect(lines[lines.length - 1]).toContain('"k":"bye"');
  expect(outgoing()).toEqual([]);
});

test.each([
  ['with the addon', []],
  ['through the inspector', ['--no-addon']],
])('twelve thousand functions make no line too long, %s', async (_, options) => {
  const out = join(scratch(), 'many.ndjson');
  const program = programOf(`
    const { writeFileSync } = require('node:fs');
    const file = __dirname + '/many.cjs';
    writeFileSync(file, Array.from({ length: 12_000 }, (_, n) => 'exports.sluice_' + n + ' = function sluice_' + n + '(kept) { kept.push(new Array(150).fill(' + n + ')); };').join('\\n'));
    const [kept, made] = [[], Object.values(require(file))];
    for (let round = 0; round < 3; round++) for (const one of made) one(kept);
    setTimeout(() => {}, 1500);`);
  expect(
    (
      await runHeron([
        'record',
        '--out',
        out,
        '--interval',
        '1024',
        '--births',
        '1000',
        ...options,
        '--',
        'node',
        program,
      ])
    ).code,
  ).toBe(0);
  const lines = readFileSync(out, 'utf8').split('\n');
  expect(Math.max(...lines.map((line) => line.length))).toBeLessThan(2 ** 20);
  const recording = readRecording(out);
  expect(recording.issues.byCode).toEqual({});
  expect(recording.tables.frames.length).toBeGreaterThan(5000);
});

test('two runs under one id do not meet, neither at once nor one after the other', async () => {
  const program = programOf('setTimeout(() => {}, 2500);');
  const first = record('same', '--', 'node', program);
  await until('the first', async () => (await server.ask('/api/streams/same')).ok);
  const ends = await Promise.all([first.end, record('same', '--', 'node', program).end]);
  expect(ends.map(({ code }) => code)).toEqual([0, 0]);
  expect(ends[1]!.stderr).toContain("the id same is another recording's: this one is same-2");
  await record('same', '--', 'node', program).end;
  for (const id of ['same', 'same-2', 'same-3']) {
    const text = kinds(stored(id));
    expect([id, text[0], text[text.length - 1], text.filter((kind) => kind === 'hello').length]).toEqual([
      id,
      'hello',
      'bye',
      1,
    ]);
  }
});

test('a mark that is answered just before the end is in the recording, and side files go', async () => {
  const program = programOf(`
    const { token, address } = JSON.parse(process.argv[2]);
    setTimeout(async () => {
      await fetch(address + '/api/streams/marked/marks', { method: 'POST', body: 'the last word', headers: { 'content-type': 'text/plain', authorization: 'Bearer ' + token } });
      process.kill(process.pid, 'SIGKILL');
    }, 2500);`);
  const end = await record(
    'marked',
    '--',
    'node',
    program,
    JSON.stringify({ token: server.token, address: server.address }),
  ).end;
  expect(end.signal ?? end.code).not.toBe(0);
  expect(
    stored('marked')
      .split('\n')
      .filter((line) => line.startsWith('{"k":"mark"') && line.includes('the last word')).length,
  ).toBe(1);
  expect(outgoing()).toEqual([]);
});

test('what a killed command line left is sent by the next, and its program is followed to its end', async () => {
  const program = programOf(
    'let n = 0; const timer = setInterval(() => { if (++n === 300) clearInterval(timer); }, 50);',
  );
  const own = scratch();
  const port = await freePort();
  const address = `http://127.0.0.1:${port}`;
  const environmentOfOwn = { BRISK_HERON_DATA: own, BRISK_HERON_SERVER: address };
  const first = startHeron(['serve', '--port', String(port)], environmentOfOwn);
  running.push(first.child);
  await until('the server', () => fetch(`${address}/api/health`).then(({ ok }) => ok));
  const left = startHeron(['record', '--id', 'left', '--', 'node', program], environmentOfOwn);
  await until('lines', async () => (await askHeron(address, own, '/api/streams/left')).ok);
  // Both at once: nobody is there to send or to take.
  const gone = Promise.all([once(left.child, 'exit'), once(first.child, 'exit')]);
  left.child.kill('SIGKILL');
  first.child.kill('SIGKILL');
  await gone;
  const second = startHeron(['serve', '--port', String(port)], environmentOfOwn);
  running.push(second.child);
  await until(
    'the whole recording',
    async () => readdirSync(join(own, 'outgoing')).length === 0 && existsSync(join(own, 'streams', 'left.ndjson')),
  );
  const text = kinds(readFileSync(join(own, 'streams', 'left.ndjson'), 'utf8'));
  expect([text[0], text[text.length - 1], text.filter((kind) => kind === 'hello').length]).toEqual(['hello', 'bye', 1]);
  second.child.kill('SIGTERM');
  expect((await second.end).stderr).toMatch(
    /the program of left still runs[\s\S]*a recording that was left behind has been sent: left/,
  );
});

test('a spool that is removed while it is recorded into arrives all the same, and that is said', async () => {
  const program = programOf(
    'let n = 0; const timer = setInterval(() => { if (++n === 60) clearInterval(timer); }, 50);',
  );
  const recorded = record('removed', '--', 'node', program);
  await until('lines', async () => (await server.ask('/api/streams/removed')).ok);
  spawnSync('rm', [join(data, 'outgoing', 'removed.ndjson')]);
  const end = await recorded.end;
  expect([end.code, end.stderr]).toEqual([
    0,
    expect.stringContaining('was removed while it is recorded into') as string,
  ]);
  const text = kinds(stored('removed'));
  expect(text[text.length - 1]).toBe('bye');
});

test('what a program started and left behind is recorded to its own end', async () => {
  const child = programOf(
    'let n = 0; const timer = setInterval(() => { if (++n === 100) clearInterval(timer); }, 50);',
  );
  const program = programOf(`
    require('node:child_process').spawn(process.execPath, [${JSON.stringify(child)}], { detached: true, stdio: 'ignore' }).unref();
    setTimeout(() => {}, 1500);`);
  const end = await record('parent', '--', 'node', program).end;
  expect([end.code, end.stderr]).toEqual([0, expect.stringContaining('processes that it started still run') as string]);
  await until(
    'the end of both',
    async () => outgoing().length === 0 && kinds(stored('parent')).filter((kind) => kind === 'bye').length === 2,
  );
  expect(kinds(stored('parent')).filter((kind) => kind === 'hello').length).toBe(2);
});

test('what is left of another run under an id that the server has is sent under one of its own', async () => {
  const hello = (at: number): string =>
    `{"k":"hello","schema":"brisk-heron/stream@1","h":"1.0","epochMs":${at},"program":"weirs","runtime":"r"}\n`;
  await server.ask('/api/streams/taken/lines?offset=0', {
    method: 'POST',
    headers: { 'content-type': 'application/x-ndjson' },
    body: hello(1_800_000_000_000),
  });
  writeFileSync(join(data, 'outgoing', 'taken.ndjson'), hello(1_800_000_000_001));
  await until('it', async () => outgoing().length === 0);
  expect([stored('taken'), stored('taken-2')]).toEqual([hello(1_800_000_000_000), hello(1_800_000_000_001)]);
});

describe('said at once, with the right exit code', () => {
  test('a command that there is not, and one that may not be run', async () => {
    expect(await record('nothing', '--', 'no-such-command').end).toMatchObject({
      code: 127,
      stderr: expect.stringContaining('cannot start "no-such-command": there is no such command') as string,
    });
    const file = join(scratch(), 'plain');
    writeFileSync(file, 'no program\n', { mode: 0o600 });
    expect(await runHeron(['record', '--out', join(scratch(), 'out.ndjson'), '--', file])).toMatchObject({
      code: 126,
      stderr: expect.stringContaining('it may not be run') as string,
    });
    expect(outgoing()).toEqual([]);
  });

  test('a command in which nothing can be recorded', async () => {
    const end = await record('silent', '--', 'sh', '-c', 'exit 4').end;
    expect([end.code, end.stderr]).toEqual([
      4,
      expect.stringContaining('nothing was recorded: no Node or Java program') as string,
    ]);
  });

  test('a file that is recorded into already, a data folder that cannot be, a folder that is gone, a bad port and id', async () => {
    const out = join(scratch(), 'out.ndjson');
    const first = startHeron(['record', '--out', out, '--', 'node', '-e', 'setTimeout(() => {}, 4000)']);
    await until('the first', async () => existsSync(out));
    expect(await runHeron(['record', '--out', out, '--', 'node', '-e', '0'])).toMatchObject({
      code: 1,
      stderr: expect.stringMatching(/is being recorded into by process \d+/) as string,
    });
    await first.end;
    expect(readRecording(out).ended).toBe(true);
    expect(readdirSync(join(out, '..'))).toEqual(['out.ndjson']);
    expect(
      await runHeron(['serve', '--port', String(await freePort())], { BRISK_HERON_DATA: '/proc/nope' }),
    ).toMatchObject({ code: 1, stderr: expect.stringContaining('cannot keep recordings in /proc/nope') as string });
    expect(await runHeron(['serve', '--port', '99999'])).toMatchObject({
      code: 1,
      stderr: expect.stringContaining('expected --port') as string,
    });
    expect(await runHeron(['serve', '--port', '4999'], { BRISK_HERON_DATA: data })).toMatchObject({
      code: 1,
      stderr: expect.stringContaining('another server') as string,
    });
    expect(await record('../up', '--', 'node', '-e', '0').end).toMatchObject({
      code: 1,
      stderr: expect.stringContaining('expected an --id') as string,
    });
    const gone = join(scratch(), 'gone');
    mkdirSync(gone);
    const end = spawnSync('sh', ['-c', `cd ${gone} && rmdir ${gone} && ${join(ROOT, 'heron')} record -- node x.js`], {
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    expect([end.status, end.stderr]).toEqual([
      2,
      expect.stringContaining('the folder you are in no longer exists') as string,
    ]);
  });

  test('a server of another data folder', async () => {
    expect(
      await runHeron(['record', '--', 'node', '-e', '0'], {
        BRISK_HERON_DATA: scratch(),
        BRISK_HERON_SERVER: server.address,
      }),
    ).toMatchObject({ code: 1, stderr: expect.stringContaining('does not know our token') as string });
    const end = await runHeron(
      [
        'record',
        '--id',
        'by-address',
        '--server',
        `${server.address}/?token=${server.token}`,
        '--',
        'node',
        '-e',
        'setTimeout(() => {}, 500)',
      ],
      { BRISK_HERON_DATA: scratch() },
    );
    expect([end.code, existsSync(join(data, 'streams', 'by-address.ndjson'))]).toEqual([0, true]);
  });
});

describe('a GC log is followed as it grows', () => {
  const line = (n: number): string =>
    `[${n}.000s][info][gc] GC(${n}) Pause Young (Allocation Failure) ${20 + n}M->${10 + n}M(64M) 5.000ms\n`;

  test('through its rotations, from the parts before it to the last line', async () => {
    const folder = scratch();
    const log = join(folder, 'gc.log');
    writeFileSync(`${log}.0`, line(0) + line(1));
    writeFileSync(log, line(2));
    const followed = startHeron(['follow', log, '--id', 'log'], environment());
    await until(
      'what is there',
      async () =>
        ((await (await server.ask('/api/streams/log')).json()) as { bytes: number }).bytes >= 3 * line(0).length,
    );
    writeFileSync(log, line(2) + line(3));
    await new Promise((resolve) => setTimeout(resolve, 800));
    spawnSync('mv', [log, `${log}.1`]);
    writeFileSync(log, line(4) + line(5).slice(0, 20));
    await until('the new file', async () => stored('log').includes('GC(4)'));
    followed.child.kill('SIGINT');
    expect((await followed.end).code).toBe(0);
    expect(stored('log')).toBe(`${[0, 1, 2, 3, 4].map(line).join('')}${line(5).slice(0, 20)}\n`);
    expect((await (await server.ask('/api/streams/log')).json()) as object).toMatchObject({
      program: 'gc.log',
      ended: { exitCode: null },
    });
  });

  test('out of a pipe, until that ends', async () => {
    const text = Array.from({ length: 50 }, (_, n) => line(n)).join('');
    const end = spawnSync(join(ROOT, 'heron'), ['follow', '-', '--id', 'piped', '--name', 'weirs'], {
      input: text,
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '', ...environment() },
    });
    expect([end.status, stored('piped')]).toEqual([0, text]);
  });
});

describe('a Node program that runs already', () => {
  const start = async (text: string): Promise<ChildProcess> => {
    const child = spawn(process.execPath, [programOf(text)], { stdio: ['ignore', 'pipe', 'ignore'] });
    running.push(child);
    await new Promise((resolve) => child.stdout!.once('data', resolve));
    return child;
  };
  const facts = (pid: number): unknown[] => [
    /SigCgt:.*/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![0],
    readdirSync(`/proc/${pid}/task`).length,
    readdirSync(`/proc/${pid}/fd`).length,
  ];

  test('is recorded, twice, and left as it was', async () => {
    const child = await start(`
      const kept = [];
      function serve() { for (let n = 0; n < 300; n++) kept.push({ tide: new Array(40).fill(n) }); }
      setInterval(serve, 20);
      console.log('up');`);
    await new Promise((resolve) => setTimeout(resolve, 500));
    const before = facts(child.pid!);
    for (const round of [1, 2]) {
      const out = join(scratch(), `attached-${round}.ndjson`);
      expect(await runHeron(['attach', String(child.pid), '--out', out, '--seconds', '5'])).toMatchObject({ code: 0 });
      const recording = readRecording(out);
      expect([recording.ended, recording.issues.byCode]).toEqual([true, {}]);
      expect(readFileSync(out, 'utf8')).toContain('"attached":true');
      expect(recording.tables.objects.length).toBeGreaterThan(20);
      expect(readdirSync(join(out, '..')).length).toBe(1);
    }
    await until('the program as it was', async () => JSON.stringify(facts(child.pid!)) === JSON.stringify(before));
    child.kill('SIGTERM');
    expect(await new Promise((resolve) => child.once('close', (_, signal) => resolve(signal)))).toBe('SIGTERM');
  });

  test('that would be ended by the signal is left alone, and what is no program of ours is named', async () => {
    const sleeper = spawn('sleep', ['60']);
    running.push(sleeper);
    expect(await runHeron(['attach', String(sleeper.pid)], environment())).toMatchObject({
      code: 1,
      stderr: expect.stringContaining('is not a JVM of this user, nor a Node program') as string,
    });
    expect(sleeper.exitCode).toBeNull();
    expect(await runHeron(['attach', '999999999'], environment())).toMatchObject({
      code: 1,
      stderr: expect.stringContaining('found none with id') as string,
    });
    expect(outgoing()).toEqual([]);
  });
});
