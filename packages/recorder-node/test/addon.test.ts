import { spawnSync } from 'node:child_process';
import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { ROOT, readRecording, runHeron, scratch } from '../../../test/run-heron.ts';

/** Counts what `keep` and `churn` allocate, in functions that nothing is inlined into, and prints both. */
const COUNTS = `
  const { channel } = require('node:diagnostics_channel');
  let kept = null, sum = 0;
  const made = { keep: 0, churn: 0 };
  const bytes = (length) => 48 + 8 * length;
  function keep() { for (let n = 0; n < 10; n++) kept = { next: kept, level: new Array(400).fill(n) }; made.keep += 10 * (40 + bytes(400)); }
  function churn() { for (let n = 0; n < 400; n++) sum += new Array(200).fill(n).length; made.churn += 400 * bytes(200); }
  let rounds = 0;
  const timer = setInterval(() => {
    keep(); churn();
    if (++rounds < 150) return;
    clearInterval(timer);
    channel('brisk-heron:mark').publish('done');
    setTimeout(() => console.log(JSON.stringify(made)), 300);
  }, 10);`;

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

/** Runs the counting program, and expects what is recorded of it within five standard errors. */
async function expectCounts(
  node: readonly string[],
  env: NodeJS.ProcessEnv = {},
): Promise<ReturnType<typeof readRecording>> {
  const out = join(scratch(), 'counts.ndjson');
  const end = await runHeron(
    ['record', '--exact', '--interval', '16384', '--collect-at-marks', '--out', out, '--', ...node, programOf(COUNTS)],
    env,
  );
  expect(end).toMatchObject({ code: 0, stderr: '' });
  const made = JSON.parse(end.stdout) as Record<string, number>;
  const recording = readRecording(out);
  expect(recording.issues.first).toEqual([]);
  expect(recording.heaps[0]!.seesAllBirths).toBe(true);
  const { sites } = analysisReport(recording);
  for (const [name, bytes] of Object.entries(made)) {
    const site = sites.find((each) => each.site.startsWith(`${name} `))!;
    expect(Math.abs(site.allocBytes - bytes) / site.allocBytesSe).toBeLessThan(5);
  }
  expect(sites.find((each) => each.site.startsWith('churn '))!.keptBytes).toBeLessThan(0.02 * made['churn']!);
  return recording;
}

describe.each([
  ['22', '22.23.1'],
  ['24', '24.22.3'],
])('Node %s', (major, version) => {
  const found = spawnSync(
    process.execPath,
    [
      '--input-type=module',
      '-e',
      `import { nodeFor } from ${JSON.stringify(join(ROOT, 'scripts/nodes.mjs'))}; console.log(nodeFor('${version}') ?? '')`,
    ],
    { encoding: 'utf8' },
  ).stdout.trim();
  if (found === '')
    process.stderr.write(`Node ${version} could not be had from the package registry: its tests are skipped\n`);

  (found === '' ? test.skip : test)('is recorded with an addon of its own, as counted', async () => {
    const recording = await expectCounts([join(found, 'bin/node')]);
    expect(recording.runtime).toBe(`Node.js v${version}`);
    expect(recording.runtime).toContain(`v${major}.`);
  });

  (found === '' ? test.skip : test)('names a worker as the program does', async () => {
    const out = join(scratch(), 'named.ndjson');
    const text =
      'const { isMainThread, Worker } = require("node:worker_threads"); if (isMainThread) new Worker(__filename, { name: "tide pool" }); setTimeout(() => {}, 800);';
    expect(await runHeron(['record', '--out', out, '--', join(found, 'bin/node'), programOf(text)])).toMatchObject({
      code: 0,
      stderr: '',
    });
    expect(readRecording(out).heaps[1]!.name).toBe('worker tide pool');
  });
});

test.each([
  [['--gc-interval=997']],
  [['--stress-scavenge=60']],
  [['--single-threaded']],
  [['--max-semi-space-size=1']],
  [['--expose-gc', '--no-opt']],
  [['--stress-incremental-marking']],
])('under %j figures hold', async (flags) => {
  await expectCounts(['node', ...flags]);
});

describe('under the address and undefined-behaviour sanitizers', () => {
  const built = join(scratch(), 'sanitized.node');
  const runtime = spawnSync('g++', ['-print-file-name=libasan.so'], { encoding: 'utf8' }).stdout?.trim() ?? '';
  const can = runtime.includes('/') && existsSync(runtime);
  if (!can) process.stderr.write('no address sanitizer here: its test is skipped\n');

  (can ? test : test.skip)('threads come and go while everything is watched', async () => {
    const make = spawnSync(
      'make',
      [
        '-j2',
        '-C',
        join(ROOT, 'packages/recorder-node/addon'),
        `OUT=${built}`,
        'OPTIMISE=-O1 -g',
        'SANITIZE=-fsanitize=address,undefined -fno-sanitize=vptr -fno-omit-frame-pointer',
      ],
      { encoding: 'utf8' },
    );
    expect([make.status, make.stderr]).toEqual([0, '']);
    const text = `
      const { isMainThread, Worker, parentPort } = require('node:worker_threads');
      function work() { let kept = []; for (let n = 0; n < 400; n++) { kept.push(new Array(200).fill(n), Buffer.alloc(30_000)); if (kept.length > 100) kept = []; } return kept.length; }
      if (!isMainThread) { const timer = setInterval(work, 5); parentPort?.on('message', () => clearInterval(timer)); }
      else {
        const workers = Array.from({ length: 3 }, () => new Worker(__filename));
        workers.push(new Worker('for (;;) new Array(100).fill(1)', { eval: true }));
        const timer = setInterval(work, 5);
        setTimeout(() => workers[0].terminate(), 400);
        setTimeout(() => { for (const worker of workers.slice(1)) worker.terminate(); }, 1500);
        setTimeout(() => { clearInterval(timer); console.log('done'); }, 2500);
      }`;
    const out = join(scratch(), 'sanitized.ndjson');
    const end = await runHeron(
      ['record', '--out', out, '--floor-every', '300', '--', 'env', `LD_PRELOAD=${runtime}`, 'node', programOf(text)],
      {
        BRISK_HERON_ADDON: built,
        ASAN_OPTIONS: 'detect_leaks=0:halt_on_error=1:exitcode=66',
        UBSAN_OPTIONS: 'halt_on_error=1:print_stacktrace=1',
      },
    );
    expect(end).toMatchObject({ code: 0, stdout: 'done\n' });
    expect(end.stderr).not.toMatch(/Sanitizer|runtime error/);
    const recording = readRecording(out);
    expect(recording.issues.first).toEqual([]);
    // One that is terminated before it could say hello leaves nothing.
    expect(recording.heaps.length).toBeGreaterThanOrEqual(4);
    expect(recording.ended).toBe(true);
  });
});

test('a heap that runs out leaves what was known, and says so', async () => {
  const out = join(scratch(), 'exhausted.ndjson');
  const text =
    'const kept = []; function keep() { for (;;) kept.push(new Array(1000).fill(1)); } setTimeout(keep, 100);';
  const end = await runHeron(['record', '--out', out, '--', 'node', '--max-old-space-size=60', programOf(text)]);
  expect(end.code === 134 || end.signal === 'SIGABRT').toBe(true);
  const recording = readRecording(out);
  expect(recording.ended).toBe(false);
  expect(recording.notes.map((note) => note.code)).toContain('heap-limit');
  const [first] = analysisReport(recording).sites;
  expect(first!.site).toMatch(/^keep /);
  expect(first!.allocBytes).toBeGreaterThan(30 * 1024 * 1024);
});

test('contexts, loaders and snapshots are left as they are', async () => {
  const folder = scratch();
  const out = join(folder, 'contexts.ndjson');
  const text = `
    const vm = require('node:vm');
    const results = [];
    for (let n = 0; n < 40; n++) results.push(vm.runInNewContext('(() => { const a = []; for (let k = 0; k < 2000; k++) a.push({ k }); return a.length; })()', {}, { filename: 'gauge.js' }));
    console.log(results.every((each) => each === 2000), typeof globalThis.gc, process.execArgv.length);`;
  expect(await runHeron(['record', '--out', out, '--', 'node', programOf(text)])).toMatchObject({
    code: 0,
    stdout: 'true undefined 0\n',
  });
  expect(readRecording(out).issues.first).toEqual([]);
  const entry = join(folder, 'entry.cjs');
  writeFileSync(
    entry,
    'globalThis.tide = 7; require("node:v8").startupSnapshot.setDeserializeMainFunction(() => console.log("tide", globalThis.tide));',
  );
  const blob = join(folder, 'snapshot.blob');
  expect(
    await runHeron([
      'record',
      '--out',
      join(folder, 'build.ndjson'),
      '--',
      'node',
      '--snapshot-blob',
      blob,
      '--build-snapshot',
      entry,
    ]),
  ).toMatchObject({ code: 0 });
  expect(
    await runHeron(['record', '--out', join(folder, 'run.ndjson'), '--', 'node', '--snapshot-blob', blob]),
  ).toMatchObject({ code: 0, stdout: 'tide 7\n' });
});

test('a program that leaves without a word to its listeners leaves all that was known', async () => {
  const out = join(scratch(), 'left.ndjson');
  expect(
    await runHeron(['record', '--out', out, '--', 'node', programOf('setTimeout(() => process.reallyExit(5), 600)')]),
  ).toMatchObject({ code: 5, stderr: '' });
  const recording = readRecording(out);
  expect(recording.ended).toBe(true);
  expect(recording.tables.sizes.length).toBeGreaterThan(1);
});

/** Allocates while its samples are hardly ever read, has all of them die, and ends: what came last is in no list. */
const TAIL = `
  const [file, addonFile, end] = process.argv.slice(2);
  const loaded = { exports: {} };
  process.dlopen(loaded, addonFile);
  const addon = loaded.exports;
  addon.open(file, '1.0', '', { intervalBytes: 65536, bufferIntervalBytes: 262144, share: 1e-5, floorEveryMs: 0, floorShare: 0, watchLimit: false, isMain: true, mayHideGc: false }, null);
  addon.add('{"k":"hello","h":"1.0","schema":"brisk-heron/stream@1","epochMs":1,"clockMs":1,"program":"p","runtime":"Node.js v20","interval":65536}\\n');
  addon.start();
  let sum = 0;
  function churn() { for (let n = 0; n < 1000; n++) sum += new Array(200).fill(n).length; }
  for (let n = 0; n < 1000; n++) churn();
  gc({ type: 'minor' });
  if (end === 'births off') {
    addon.watchBirths(false);
    for (let n = 0; n < 300; n++) churn();
  }
  if (end === 'births off and on') {
    addon.watchBirths(false);
    addon.watchBirths(true);
    for (let n = 0; n < 300; n++) churn();
  }
  addon.finish('end');`;

test.each([
  ['the end', 1000, false],
  ['births off', 1000, false],
  ['births off and on', 1300, true],
])('what died unseen is counted up to %s', (end, rounds, isUnknown) => {
  const out = join(scratch(), 'tail.ndjson');
  const addon = join(ROOT, `packages/recorder-node/dist/brisk-heron-${process.versions.modules}.node`);
  const run = spawnSync(process.execPath, ['--expose-gc', programOf(TAIL), out, addon, end], { encoding: 'utf8' });
  expect([run.status, run.stderr]).toEqual([0, '']);
  const recording = readRecording(out);
  const { objects, flows } = recording.tables;
  let bytes = 0;
  let variance = 0;
  for (let row = 0; row < objects.length; row++) {
    const estimate = objects.col.sizeBytes[row]! / objects.col.probability[row]!;
    bytes += estimate;
    variance += (1 - objects.col.probability[row]!) * estimate ** 2;
  }
  for (let row = 0; row < flows.length; row++) {
    bytes += flows.col.bytes[row]!;
    variance += flows.col.seBytes[row]! ** 2;
  }
  expect(Math.abs(bytes - rounds * 1000 * 1648) / Math.sqrt(variance)).toBeLessThan(5);
  // Where no stretch was read since births are told, nobody knows whose they were, nor how many.
  expect(analysisReport(recording).sites.some(({ site }) => site === '(not seen)')).toBe(isUnknown);
  expect(Array.from(flows.col.count.subarray(0, flows.length)).some(Number.isNaN)).toBe(isUnknown);
});
