/**
 * What recording costs: processor time of the same work, recorded against plain, in interleaved pairs in random order.
 * The ratio of each pair is printed as least, median and most. `node cost.bench.mjs web 15` measures one load with 15
 * pairs.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const here = fileURLToPath(new URL('.', import.meta.url));
const root = join(here, '../../..');
const { recorderEnvironment } = await import('../../cli/dist/recording/recorder-environment.js');
const scratch = mkdtempSync(join(tmpdir(), 'heron-cost-'));
const LOADS = {
  web: [join(here, 'loads.mjs'), 'web'],
  loop: [join(here, 'loads.mjs'), 'loop'],
  linter: [join(root, 'node_modules/eslint/bin/eslint.js'), 'packages/core/src', 'packages/web/src'],
  compiler: [join(root, 'node_modules/typescript/bin/tsc'), '--noEmit', '-p', 'packages/core/tsconfig.json'],
  bundler: [
    join(root, 'node_modules/vite/bin/vite.js'),
    'build',
    'packages/web',
    '--logLevel',
    'silent',
    '--outDir',
    join(scratch, 'site'),
  ],
  start: [join(here, 'loads.mjs'), 'start'],
  idle: [join(here, 'loads.mjs'), 'idle'],
};
const pairs = Number(process.argv[3] ?? 7);

for (const [name, command] of Object.entries(LOADS)) {
  if (process.argv[2] !== undefined && process.argv[2] !== name) continue;
  cpuOf(command, false);
  const ratios = [];
  const extra = [];
  for (let pair = 0; pair < pairs; pair++) {
    const recordedFirst = Math.random() < 0.5;
    const first = cpuOf(command, recordedFirst);
    const second = cpuOf(command, !recordedFirst);
    const [recorded, plain] = recordedFirst ? [first, second] : [second, first];
    ratios.push(recorded / plain);
    extra.push(recorded - plain);
  }
  const spread = (values, digits) =>
    [0, values.length >> 1, values.length - 1]
      .map((at) => values.sort((a, b) => a - b)[at].toFixed(digits))
      .join(' / ');
  process.stdout.write(
    name === 'idle' || name === 'start'
      ? `  ${name === 'idle' ? 'idle for 8 s' : 'starting and ending'}: ${spread(extra, 0)} ms of processor time more (least / median / most of ${pairs} pairs)\n`
      : `  ${name}: ${spread(ratios, 3)} times the processor time (least / median / most of ${pairs} pairs)\n`,
  );
}
rmSync(scratch, { recursive: true });

function cpuOf(command, recorded) {
  const out = join(scratch, 'cpu');
  const spool = join(scratch, 'spool.ndjson');
  const settings = {
    out: spool,
    control: '',
    mayWiden: true,
    collectAtMarks: false,
    exact: false,
    source: true,
    outside: true,
    native: process.env.BENCH_INSPECTOR === undefined,
    name: '',
    program: 'bench',
  };
  const env = recorded ? recorderEnvironment(process.env, settings) : { ...process.env };
  env.BENCH_CPU_OUT = out;
  env.NODE_OPTIONS = `--import ${pathToFileURL(join(here, 'report-cpu.mjs')).href} ${env.NODE_OPTIONS ?? ''}`;
  const end = spawnSync(process.execPath, command, { cwd: root, env, stdio: 'ignore' });
  if (end.status !== 0) throw new Error(`${command.join(' ')} ended with ${end.status}`);
  rmSync(spool, { force: true });
  return Number(readFileSync(out, 'utf8'));
}
