import { gzipSync } from 'node:zlib';
import { execFile } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { askHeron, freePort, ROOT, runHeron, scratch, startHeron, until } from '../../../test/run-heron.ts';

const LOG = `[0.006s][info][gc] Using Serial
[0.263s][info][gc] GC(0) Pause Young (Allocation Failure) 6M->2M(64M) 2.500ms
[0.900s][info][gc] GC(1) Pause Full (System.gc()) 9M->3M(64M) 20.000ms
`;

function fileOf(bytes: string | Buffer, name = 'gc.log'): string {
  const file = join(scratch(), name);
  writeFileSync(file, bytes);
  return file;
}

describe('heron analyze', () => {
  test('prints one object that keeps its contract', async () => {
    const end = await runHeron(['analyze', fileOf(LOG), '--json']);
    expect([end.code, end.stderr]).toEqual([0, '']);
    const report = JSON.parse(end.stdout) as Record<string, unknown>;
    expect(report).toMatchObject({
      schema: 'brisk-heron/analysis@1',
      durationMs: 900,
      source: { format: 'jvm-unified', collector: 'Serial', bytes: LOG.length, lines: 3, issues: { count: 0 } },
      pauses: { count: 2, totalMs: 22.5, maxMs: 20, p50Ms: 2.5, byName: { 'Pause Full (System.gc())': { count: 1 } } },
      collections: { count: 2, young: 1, mixed: 0, whole: 1, concurrentCycles: 0, storms: 0 },
      heap: { peakUsedBytes: 9 * 1048576, lastUsedAfterBytes: 3 * 1048576, limitBytes: null },
      allocation: { totalBytes: 13 * 1048576, lowerBound: false },
      promotion: null,
      verdict: { kind: 'unclear' },
      sites: [],
    });
  });

  test('reads compressed files, parts in any order, and cut-off ones as far as they go', async () => {
    const [head, young, full] = LOG.split('\n').map((line) => `${line}\n`) as [string, string, string];
    const parts = [fileOf(full, 'gc.log'), fileOf(head + young, 'gc.log.0')];
    const plain = JSON.parse((await runHeron(['analyze', fileOf(LOG), '--json'])).stdout) as { pauses: object };
    expect(JSON.parse((await runHeron(['analyze', ...parts, '--json'])).stdout)).toMatchObject({
      pauses: plain.pauses,
    });
    expect(JSON.parse((await runHeron(['analyze', fileOf(gzipSync(LOG)), '--json'])).stdout)).toMatchObject({
      pauses: plain.pauses,
    });
    const long = gzipSync(
      LOG +
        Array.from(
          { length: 4000 },
          (_, n) =>
            `[${n + 1}.${n % 7}s][info][gc] GC(${n + 2}) Pause Young (Allocation Failure) ${n % 60}M->2M(64M) ${n % 13}.${n % 9}ms\n`,
        ).join(''),
    );
    const cut = await runHeron(['analyze', fileOf(long.subarray(0, long.length >> 1)), '--json']);
    expect(cut.code).toBe(0);
    expect(cut.stderr).toMatch(/cut off or damaged/);
    const report = JSON.parse(cut.stdout) as {
      pauses: { count: number };
      source: { issues: { byCode: Record<string, number> } };
    };
    expect(report.pauses.count).toBeGreaterThan(500);
    expect(report.source.issues.byCode['cut-gzip']).toBe(1);
  });

  test.each([
    ['', 'empty'],
    ['no collection in here\n', 'expected a recording'],
  ])('refuses %j with 2 and says what was expected', async (text, message) => {
    const end = await runHeron(['analyze', fileOf(text), '--json']);
    expect([end.code, end.stdout]).toEqual([2, '']);
    expect(end.stderr).toContain(message);
  });

  test('a missing file is unusable input', async () => {
    expect(await runHeron(['analyze', '/nowhere/gc.log'])).toMatchObject({ code: 2, stdout: '' });
  });

  test('text for people names the verdict first', async () => {
    expect((await runHeron(['analyze', fileOf(LOG)])).stdout).toMatch(
      /^Unclear yet: it needs 2 more whole-heap collections/,
    );
  });
});

describe('heron record to a server', () => {
  test('survives the server being killed, and nothing is lost', async () => {
    const port = await freePort();
    const address = `http://127.0.0.1:${port}`;
    const data = scratch();
    const environment = { BRISK_HERON_DATA: data };
    const state = () =>
      askHeron(address, data, '/api/streams/run').then(
        (response) => response.json() as Promise<{ bytes?: number; ended: unknown }>,
      );
    const first = startHeron(['serve', '--port', String(port)], environment);
    await until('the server', () => fetch(`${address}/api/health`).then((response) => response.ok));
    const program = fileOf(
      'let n = 0; const timer = setInterval(() => { if (++n === 90) clearInterval(timer); }, 100)',
      'program.cjs',
    );
    const recording = startHeron(['record', '--server', address, '--id', 'run', '--', 'node', program], environment);
    const before = await until('the first lines', async () => (await state()).bytes);
    first.child.kill('SIGKILL');
    await first.end;
    await new Promise((resolve) => setTimeout(resolve, 1500));
    const second = startHeron(['serve', '--port', String(port)], environment);
    const end = await recording.end;
    expect(end.code).toBe(0);
    expect(end.stderr).toMatch(/cannot be reached/);
    const after = await state();
    expect(after.ended).toEqual({ exitCode: 0, signal: null });
    expect(after.bytes!).toBeGreaterThan(before);
    second.child.kill('SIGTERM');
    expect((await second.end).code).toBe(0);
    const lines = readFileSync(join(data, 'streams', 'run.ndjson'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { k: string }).k);
    expect([lines[0], lines[lines.length - 1]]).toEqual(['hello', 'bye']);
    expect(lines.filter((kind) => kind === 'size').length).toBeGreaterThan(30);
    expect(readdirSync(join(data, 'outgoing'))).toEqual([]);
  });
});

describe('heron events', () => {
  const EXAMPLES = join(__dirname, '../../../examples');

  test('writes files that the worked example answers its question from', async () => {
    const directory = scratch();
    const [out, paths] = [join(directory, 'events.arrow'), join(directory, 'paths.arrow')];
    const end = await runHeron([
      'events',
      join(EXAMPLES, 'recordings/weirkeeper-with-its-faults.heron'),
      '--out',
      out,
      '--paths',
      paths,
    ]);
    expect([end.code, end.stdout, end.stderr]).toEqual([
      0,
      '',
      expect.stringMatching(/events\.arrow has 13,\d{3} events\n$/) as string,
    ]);
    const { stdout } = await promisify(execFile)(process.execPath, [
      join(EXAMPLES, 'questions/short-lived.mjs'),
      out,
      paths,
      '16',
      '1000',
    ]);
    expect(stdout).toMatch(
      /^ +\d+\.\d\d MiB\/s +\d+\/s {2}Weirkeeper\.report Weirkeeper\.java:160 · byte\[\]\n.*Weirkeeper\.report > /,
    );
  });

  test('takes GC logs too, and refuses what it cannot read', async () => {
    const directory = scratch();
    expect(
      (await runHeron(['events', join(EXAMPLES, 'logs/weirkeeper-serial.log'), '--out', join(directory, 'log.arrow')]))
        .code,
    ).toBe(0);
    expect(readFileSync(join(directory, 'log.arrow')).subarray(0, 6).toString()).toBe('ARROW1');
    const refused = await runHeron(['events', fileOf('nothing of the kind\n'), '--out', join(directory, 'no.arrow')]);
    expect([refused.code, existsSync(join(directory, 'no.arrow'))]).toEqual([2, false]);
  });
});

test('who reads only the beginning of what is printed breaks nothing', async () => {
  const heron = [process.execPath, join(ROOT, 'scripts/heron.mjs')].map((word) => `"${word}"`).join(' ');
  const sample = join(ROOT, 'examples/recordings/tidewatch-fixed.heron');
  const piped = `${heron} ask "${sample}" --measure ribbon --json | head -c 100 >/dev/null; echo "\${PIPESTATUS[0]}"`;
  const { stdout, stderr } = await promisify(execFile)('bash', ['-c', piped]);
  expect([stdout, stderr]).toEqual(['0\n', '']);
});

test('help lists every command, and tells what one of them takes', async () => {
  const all = await runHeron(['--help']);
  expect([all.code, all.stderr]).toEqual([0, '']);
  const files = readdirSync(join(ROOT, 'packages/cli/src/commands')).map((file) => file.replace('.ts', ''));
  const named = [...all.stdout.matchAll(/^ {2}(\w+) {2,}/gm)].map(([, name]) => name!);
  expect(named.sort()).toEqual([...files, 'help'].sort());
  const does = /^ {2}tell +(.*)$/m.exec(all.stdout)![1]!.split(':')[0]!;
  for (const words of [
    ['help', 'tell'],
    ['tell', '--help'],
  ]) {
    const { code, stdout } = await runHeron(words);
    expect(code).toBe(0);
    expect(stdout).toContain('Usage: heron tell [options] <wish> [value]');
    expect(stdout).toContain(does);
    expect(stdout).toContain('--insist');
  }
  const none = await runHeron(['wish']);
  expect([none.code, none.stderr]).toEqual([2, expect.stringContaining("unknown command 'wish'")]);
});
