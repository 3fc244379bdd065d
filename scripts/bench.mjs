/**
 * `npm run bench`: every benchmark beside the code; each prints ratios against a baseline in its own process, that of
 * the page its lag.
 *
 *   npm run bench -- core/logs cli                  one benchmark, or those of a part, only
 *   npm run bench -- --write docs/benchmarks.md     keep what was measured, with the machine, beside what was before
 *   npm run bench -- --against docs/benchmarks.md   say what is worse by a fifth and more, and fail then
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { cpus, tmpdir, totalmem } from 'node:os';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { build, install, root } from './bootstrap.mjs';

const PARTS = ['core', 'cli', 'recorder-jvm', 'recorder-node', 'web'];
const WORSE = 1.2;
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { write: { type: 'string' }, against: { type: 'string' } },
});
const benches = PARTS.flatMap((part) =>
  readdirSync(join(root, 'packages', part, 'bench'))
    .filter((file) => file.endsWith('.bench.mjs'))
    .map((file) => ({ part, bench: `${part}/${file.replace('.bench.mjs', '')}` })),
);
const isNamed = (name) => benches.some(({ part, bench }) => name === part || name === bench);
const unknown = positionals.filter((name) => !isNamed(name));
if (unknown.length > 0) {
  const names = [...PARTS, ...benches.map(({ bench }) => bench)];
  throw new Error(`expected one of ${names.join(', ')}, found ${unknown.join(', ')}`);
}
const before = values.against === undefined ? [] : rowsOf(readFileSync(resolve(values.against), 'utf8'));

install({ loud: true });
build({ loud: true });
const folder = mkdtempSync(join(tmpdir(), 'heron-bench-'));
const out = join(folder, 'measured.ndjson');
writeFileSync(out, '');
const failed = [];
for (const { part, bench } of benches) {
  if (positionals.length > 0 && !positionals.includes(part) && !positionals.includes(bench)) continue;
  process.stdout.write(`\n${bench}\n`);
  const env = { ...process.env, BRISK_HERON_MEASURED: out, BRISK_HERON_BENCH: bench };
  const file = join(root, 'packages', part, 'bench', `${bench.slice(part.length + 1)}.bench.mjs`);
  const args = ['--max-old-space-size=8192', '--expose-gc', file];
  if (spawnSync(process.execPath, args, { stdio: 'inherit', env }).status !== 0) failed.push(bench);
}
const rows = existsSync(out)
  ? readFileSync(out, 'utf8')
      .split('\n')
      .flatMap((line) => (line === '' ? [] : [JSON.parse(line)]))
  : [];
rmSync(folder, { recursive: true, force: true });
for (const name of failed) process.stdout.write(`\n${name} failed\n`);
if (values.write !== undefined) writeFileSync(resolve(values.write), pageOf(withKept(rows, resolve(values.write))));
const worse = before.flatMap(({ bench, what, ratio }) => {
  const now = rows.find((row) => row.bench === bench && row.what === what);
  return now !== undefined && now.ratio > WORSE * ratio ? [{ bench, what, ratio, now: now.ratio }] : [];
});
for (const { bench, what, ratio, now } of worse)
  process.stdout.write(`worse: ${bench}, ${what}: × ${ratio.toFixed(2)} before, × ${now.toFixed(2)} now\n`);
if (before.length > 0 && worse.length === 0) process.stdout.write('\nnothing is worse by a fifth or more\n');
process.exitCode = worse.length + failed.length > 0 ? 1 : 0;

// What was not measured this time stays as it stands.
function withKept(measured, file) {
  const benches = new Set(measured.map(({ bench }) => bench));
  const kept = existsSync(file) ? rowsOf(readFileSync(file, 'utf8')).filter(({ bench }) => !benches.has(bench)) : [];
  return [...kept, ...measured].sort((a, b) => (a.bench < b.bench ? -1 : Number(a.bench > b.bench)));
}

function pageOf(measured) {
  const [{ model }] = cpus();
  const machine = `${model.trim()}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB, Node.js ${process.version}`;
  const benches = [...new Set(measured.map(({ bench }) => bench))];
  return `# Benchmarks

Measured by \`npm run bench -- --write docs/benchmarks.md\` on ${new Date().toISOString().slice(0, 10)}: ${machine}. Each figure is the median of a few runs; each ratio is to a plain
baseline in the same process, which the benchmark's file describes. Ratios are to be compared, times are those of this machine, whose runs differ by 10 to 30 per cent.
\`npm run bench -- --against docs/benchmarks.md\` says which ratios are worse by a fifth.
${benches
  .map((bench) =>
    sectionOf(
      bench,
      measured.filter((row) => row.bench === bench),
    ),
  )
  .join('')}`;
}

function sectionOf(bench, measured) {
  const lines = measured.map(
    ({ what, ms, ratio, note }) => `| ${what} | ${ms.toFixed(ms < 10 ? 2 : 0)} | ${ratio.toFixed(2)} | ${note} |`,
  );
  return `\n## ${bench}\n\n| measured | ms | × baseline | |\n| --- | --- | --- | --- |\n${lines.join('\n')}\n`;
}

function rowsOf(page) {
  let bench = '';
  return page.split('\n').flatMap((line) => {
    bench = /^## (.*)$/.exec(line)?.[1] ?? bench;
    const [, what, ms, ratio, note] = /^\| (.+?) \| ([\d.]+) \| ([\d.]+) \| (.*?) ?\|$/.exec(line) ?? [];
    return what === undefined ? [] : [{ bench, what, ms: Number(ms), ratio: Number(ratio), note }];
  });
}
