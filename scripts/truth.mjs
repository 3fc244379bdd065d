/**
 * `npm run truth`: records programs that count themselves, and holds what is said of them against it. `--write` makes
 * docs/truth.md; names pick some. TRUTH_SECONDS is how long each runs; with TRUTH_FROM=FOLDER, the recordings of a run
 * before are judged anew.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, install, root } from './bootstrap.mjs';

install({ loud: true });
build({ loud: true });
const { RecordingReader } = await import('../packages/core/dist/index.js').then((core) => ({
  RecordingReader: core.StreamParser,
}));
const { compare } = await import('../test/truth/measure.mjs');
const { rateKeptLogs, rateOwnLogs, tally } = await import('./truth-logs.mjs');

const INTERVAL = { node: 65536, java: 65536 };
const JAVA = ['slow-leak', 'fast-leak', 'two-leaks', 'churn', 'cache', 'late', 'one-array', 'thread-leak'];
const wanted = process.argv.slice(2).filter((word) => !word.startsWith('--'));
const seconds = Number(process.env.TRUTH_SECONDS ?? 30);
const kept = process.env.TRUTH_FROM;
const scratch = kept ?? mkdtempSync(join(tmpdir(), 'heron-truth-'));
const node = readdirSync(join(root, 'test/truth/node'))
  .filter((name) => name.endsWith('.mjs') && name !== 'count.mjs')
  .map((name) => ({ kind: 'node', name: name.slice(0, -4) }));
const java =
  spawnSync('javac', ['--version']).status === 0
    ? JAVA.map((name) => ({ kind: 'java', name: `java ${name}`, which: name }))
    : [];
if (java.length > 0 && kept === undefined)
  spawnSync(
    'javac',
    [
      '-d',
      join(scratch, 'classes'),
      join(root, 'test/truth/java/Count.java'),
      join(root, 'test/truth/java/Truth.java'),
    ],
    { stdio: 'inherit' },
  );

const results = [];
for (const program of [...node, ...java]) {
  if (wanted.length > 0 && !wanted.includes(program.name)) continue;
  const result = measure(program);
  results.push({ ...program, ...result });
  process.stdout.write(`${program.name.padEnd(22)} ${result.verdict.padEnd(9)} ${result.sentence}\n`);
  if (result.top !== null)
    process.stdout.write(
      `${' '.repeat(33)}top site ${result.top ? 'right' : `WRONG: ${result.found}`}${result.slopeHolds === null ? '' : `; slope ${result.slopeRatio.toFixed(3)} of the truth, ${result.slopeHolds ? 'inside' : 'OUTSIDE'} the interval`}\n`,
    );
  for (const cell of result.cells)
    process.stdout.write(
      `${' '.repeat(33)}${cell.name} ${cell.what}: ${mib(cell.seen)} ± ${mib(1.96 * cell.error)}, counted ${mib(cell.expected)}${cell.within ? '' : '  OUTSIDE'}\n`,
    );
}
summarise();
const own = wanted.length > 0 || java.length === 0 ? [] : await rateOwnLogs(join(scratch, 'logs'));
const keptLogs = wanted.length > 0 ? null : rateKeptLogs(join(root, '../shared/corpus'));
for (const each of own) process.stdout.write(`${each.name.padEnd(42)} ${each.rating.padEnd(8)} ${each.sentence}\n`);
if (own.length > 0) process.stdout.write(`\n${tally(own)}\n`);
if (keptLogs !== null)
  process.stdout.write(
    `kept: ${tally(keptLogs)}${keptLogs
      .filter(({ rating }) => rating === 'wrong')
      .map(({ name, kind }) => `; ${name} ${kind}`)
      .join('')}\n`,
  );
if (process.argv.includes('--write')) writeFileSync(join(root, 'docs/truth.md'), page());

function measure({ kind, name, which }) {
  const [out, told] = [join(scratch, `${name}.ndjson`), join(scratch, `${name}.json`)];
  if (kept === undefined) record({ kind, name, which, out, told });
  const parser = new RecordingReader();
  parser.write(readFileSync(out));
  parser.end();
  const { recording } = parser;
  // Programs with several threads tell their truth in several lines.
  const truths = readFileSync(told, 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line));
  const truth = { ...truths[0], cells: Object.assign({}, ...truths.map(({ cells }) => cells)) };
  const { marks } = recording.tables;
  const workMs = marks.length > 0 ? marks.col.tMs[0] : recording.durationMs - (kind === 'java' ? 5000 : 0);
  return compare(recording, truth, { workMs, intervalBytes: INTERVAL[kind] });
}

function record({ kind, name, which, out, told }) {
  const command =
    kind === 'node'
      ? [process.execPath, join(root, 'test/truth/node', `${name}.mjs`), String(seconds)]
      : ['java', '-Xmx512m', '-cp', join(scratch, 'classes'), 'Truth', which, String(seconds)];
  const options =
    kind === 'node' ? ['--exact', '--collect-at-marks'] : ['--interval', String(INTERVAL.java), '--collect', '2'];
  const end = spawnSync(
    process.execPath,
    [join(root, 'scripts/heron.mjs'), 'record', '--out', out, ...options, '--', ...command],
    { stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, TRUTH_OUT: told } },
  );
  if (end.status !== 0 || !existsSync(told)) throw new Error(`${name} ended with ${end.status}`);
}

function summary() {
  const cells = results.flatMap((result) => result.cells).filter((cell) => cell.expected > 0);
  const none = results.flatMap((result) => result.cells).filter((cell) => cell.expected === 0);
  const inside = cells.filter((cell) => cell.within).length;
  const count = (of) => results.filter((result) => result.verdict === of).length;
  const tops = results.filter((result) => result.top !== null);
  const slopes = results.filter((result) => result.slopeHolds !== null);
  return {
    none: none.length,
    noneInside: none.filter((cell) => cell.within).length,
    cells: cells.length,
    inside,
    right: count('right'),
    unclear: count('unclear'),
    wrong: count('wrong'),
    tops: tops.length,
    topsRight: tops.filter((result) => result.top).length,
    slopes: slopes.length,
    slopesInside: slopes.filter((result) => result.slopeHolds).length,
  };
}

function summarise() {
  const all = summary();
  process.stdout.write(
    `\n${results.length} programs: verdict ${all.right} right, ${all.unclear} unclear, ${all.wrong} wrong; top site ${all.topsRight} of ${all.tops}; slope inside ${all.slopesInside} of ${all.slopes}; cells within 1.96 errors ${all.inside} of ${all.cells} (${((100 * all.inside) / Math.max(1, all.cells)).toFixed(1)} %); nothing kept, as counted, ${all.noneInside} of ${all.none}\n`,
  );
}

function page() {
  const all = summary();
  const rows = results.map((result) => {
    const inside = result.cells.filter((cell) => cell.within).length;
    return `| ${result.name} | ${result.verdict} | ${result.sentence} | ${result.top === null ? '' : result.top ? 'right' : `wrong: ${result.found}`} | ${result.slopeHolds === null ? '' : `${result.slopeRatio.toFixed(2)}, ${result.slopeHolds ? 'inside' : 'outside'}`} | ${inside} of ${result.cells.length} |`;
  });
  return `# What is said of programs that count themselves

Made by \`npm run truth -- --write\`: small programs (\`test/truth\`) that count what each of their functions allocates and keeps are recorded
for ${seconds} seconds each, Node with \`--exact --collect-at-marks\`, Java with \`--interval 65536 --collect 2\`, and what the recording says is held against
what they counted. Node ${process.version}, one run each.

- **Verdict**: ${all.right} right, ${all.unclear} unclear, ${all.wrong} wrong.
- **Top site** of what grows: right ${all.topsRight} of ${all.tops}.
- **Slope**: the truth lies in the interval (within 5 %) ${all.slopesInside} of ${all.slopes} times.
- **Bytes** allocated, kept and died by function: within 1.96 standard errors in ${all.inside} of ${all.cells} cells (${((100 * all.inside) / all.cells).toFixed(1)} %). A cell is judged where at least 20 samples are expected. Cells of one function share their samples. Where a program allocates nothing beside what it counts, what the runtime's own sizes have more is allowed for (ends of pages; 1 to 3 % at gigabytes a second).
- **Verdicts on logs** of a Java program of a known shape (\`test/truth/java/Shape.java\`), 25 s each under five collectors, most of them with a whole collection asked for every 0.7 s: ${tally(own)}.
${keptLogs === null ? '' : `- **Verdicts on kept logs** of five runtimes, most of them of 3 to 10 s, in which little can be known: ${tally(keptLogs)}.\n`}- **Nothing kept** is told of what keeps nothing ${all.noneInside} of ${all.none} times, give or take three samples.

| program | verdict | what was said | top site | slope / truth | cells inside |
| --- | --- | --- | --- | --- | --- |
${rows.join('\n')}

## Logs of known shapes

| log | right is | rated | what was said |
| --- | --- | --- | --- |
${own.map((each) => `| ${each.name} | ${each.right} | ${each.rating} | ${each.sentence} |`).join('\n')}
${keptLogs === null ? '' : `\n## Kept logs\n\n| log | seconds | right is | rated | kind |\n| --- | --- | --- | --- | --- |\n${keptLogs.map((each) => `| ${each.name} | ${each.seconds.toFixed(0)} | ${each.right} | ${each.rating} | ${each.kind} |`).join('\n')}\n`}`;
}

function mib(bytes) {
  return `${(bytes / 1048576).toFixed(2)} MiB`;
}
