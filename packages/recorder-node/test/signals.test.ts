import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, runHeron, scratch, until } from '../../../test/run-heron.ts';

const REGISTER = join(ROOT, 'packages/recorder-node/dist/register.js');
const running: ChildProcess[] = [];
afterAll(() => {
  for (const child of running) child.kill('SIGKILL');
});

/** Programs by what they do about signals; each says when it is up. */
const PROGRAMS: readonly (readonly [string, string])[] = [
  ['listens to nothing', 'setInterval(() => {}, 1000);'],
  ['computes without a break', 'setTimeout(() => { for (;;) Math.random(); }, 100);'],
  [
    'ends by itself after a listener',
    "process.on(signal, () => { console.log('own'); process.exit(7); }); setInterval(() => {}, 1000);",
  ],
  [
    'does not end',
    "process.on(signal, () => { console.log('stays'); setTimeout(() => process.exit(3), 400); }); setInterval(() => {}, 1000);",
  ],
  [
    'let go of its listener',
    'const own = () => {}; process.on(signal, own); process.off(signal, own); setInterval(() => {}, 1000);',
  ],
  // As a helper does that many packages bring along: it ends the program where nobody else listens.
  [
    'has a helper that yields to others',
    "const helper = () => { if (process.listeners(signal).length === 1) { process.off(signal, helper); console.log('tidied'); process.kill(process.pid, signal); } }; process.on(signal, helper); setInterval(() => {}, 1000);",
  ],
  [
    'listens once',
    "process.once(signal, () => { console.log('once'); setTimeout(() => process.exit(0), 400); }); setInterval(() => {}, 1000);",
  ],
];

interface End {
  readonly code: number | null;
  readonly signal: NodeJS.Signals | null;
  readonly said: string;
}

async function endOf(text: string, signal: NodeJS.Signals, out: string | null): Promise<End> {
  const folder = scratch();
  const file = join(folder, 'program.cjs');
  writeFileSync(
    file,
    `const signal = '${signal}';\nconsole.log(['SIGINT', 'SIGTERM', 'SIGHUP', 'exit'].map((name) => process.listenerCount(name)).join());\n${text}\nconsole.log('up');\n`,
  );
  const recorded =
    out === null ? {} : { NODE_OPTIONS: `--require ${REGISTER}`, BRISK_HERON_RECORD: JSON.stringify({ out }) };
  const child = spawn(process.execPath, [file], {
    env: { ...process.env, NODE_OPTIONS: '', ...recorded },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  running.push(child);
  let said = '';
  child.stdout.on('data', (data: Buffer) => {
    said += data.toString();
  });
  const end = new Promise<End>((resolve) => child.once('close', (code, how) => resolve({ code, signal: how, said })));
  await until('the program', async () => said.includes('up'));
  if (out !== null) await until('the recording', async () => existsSync(out) && statSync(out).size > 0);
  await new Promise((resolve) => setTimeout(resolve, 400));
  child.kill(signal);
  return end;
}

describe.each(['SIGTERM', 'SIGINT', 'SIGHUP'] as const)('at %s', (signal) => {
  test.each(PROGRAMS)('a program that %s ends recorded as it ends plain', async (_, text) => {
    const out = join(scratch(), 'out.ndjson');
    const [plain, recorded] = await Promise.all([endOf(text, signal, null), endOf(text, signal, out)]);
    expect(recorded).toEqual(plain);
    expect(readFileSync(out, 'utf8').endsWith('\n')).toBe(true);
  });
});

test('what is known when a signal ends the program is written, with the end', async () => {
  for (const text of [PROGRAMS[0]![1], PROGRAMS[1]![1]]) {
    const out = join(scratch(), 'out.ndjson');
    await endOf(text, 'SIGTERM', out);
    const lines = readFileSync(out, 'utf8').trim().split('\n');
    expect(lines[lines.length - 1]).toMatch(/^\{"k":"bye",.*"reason":"SIGTERM"\}$/);
  }
});

describe('a disk that is full', () => {
  const disk = join(scratch(), 'disk');
  mkdirSync(disk);
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=96k', 'tmpfs', disk]).status === 0;
  if (!mounted) process.stderr.write('no small disk can be made here: its test is skipped\n');
  afterAll(() => {
    if (mounted) spawnSync('umount', [disk]);
  });

  (mounted ? test : test.skip).each([
    ['the addon', []],
    ['the inspector', ['--no-addon']],
  ])('takes whole lines, each once, and what is missing is told at the end, with %s', async (_, options) => {
    const out = join(disk, 'out.ndjson');
    spawnSync('rm', ['-f', out]);
    const file = join(scratch(), 'program.cjs');
    writeFileSync(
      file,
      `
      const { channel } = require('node:diagnostics_channel');
      let n = 0;
      const timer = setInterval(() => {
        for (let k = 0; k < 200; k++) channel('brisk-heron:mark').publish('mark ' + n++ + ' ' + 'x'.repeat(60));
        if (n >= 4000) clearInterval(timer);
      }, 100);`,
    );
    const end = await runHeron(['record', '--out', out, ...options, '--', 'node', file]);
    expect([end.code, end.stderr]).toEqual([
      0,
      expect.stringMatching(/the end of the recording is missing: the disk did not take its last \d+ lines/) as string,
    ]);
    const lines = readFileSync(out, 'utf8').split('\n');
    const marks = lines
      .slice(0, -1)
      .map((line) => JSON.parse(line) as { k: string; label: string })
      .filter(({ k }) => k === 'mark')
      .map(({ label }) => Number(label.split(' ')[1]));
    expect(marks.length).toBeGreaterThan(100);
    expect(marks).toEqual(Array.from({ length: marks.length }, (__, at) => at));
  });
});
