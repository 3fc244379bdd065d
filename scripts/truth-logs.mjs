/**
 * Part of `npm run truth`: logs of a Java program whose memory has a known shape, under each collector, and the verdict
 * on them; and the verdict on logs that were kept from real runtimes, where they lie beside the checkout.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { root } from './bootstrap.mjs';
import { analysisReport, InputReader } from '../packages/core/dist/index.js';
import { FITS } from '../test/truth/measure.mjs';

const SECONDS = Number(process.env.TRUTH_LOG_SECONDS ?? 25);
const AT_ONCE = 3;
const COLLECTORS = ['Serial', 'Parallel', 'G1', 'Shenandoah', 'Z'];
/**
 * Shapes, what is right of them, the heap, and how they are run. Most ask for a whole collection now and then, as one
 * who looks for a leak would.
 */
const SHAPES = [
  ['steady', 'steady', '256m', 'steady', 'gc=700'],
  ['steady in a large heap', 'steady', '4g', 'steady', 'gc=1000'],
  ['nothing asked for, little kept', 'steady', '256m', 'steady', 'turn=0', 'live=5', 'churn=150'],
  ['leak', 'growing', '256m', 'leak', 'leak=1', 'gc=700'],
  ['slow leak', 'growing', '256m', 'leak', 'leak=0.4', 'gc=700'],
  ['late leak', 'growing', '256m', 'late', 'leak=2', 'gc=700'],
  ['stairs', 'rising', '256m', 'stairs', 'gc=700'],
  ['one step', 'flat', '256m', 'one-step', 'step=20', 'gc=700'],
  ['start-up', 'flat', '256m', 'start-up', 'live=60', 'gc=700'],
  ['spikes', 'flat', '512m', 'spikes', 'gc=700'],
  ['shrinks', 'shrinking', '256m', 'shrink', 'live=100', 'gc=700'],
  ['window that clears', 'not-growing', '256m', 'window', 'leak=8', 'gc=700'],
  ['out of memory', 'growing', '100m', 'leak', 'leak=4', 'live=30'],
];
/** What is right of the workloads of kept logs. */
const WORKLOADS = {
  steady: 'steady',
  churn: 'steady',
  idle: 'steady',
  sysgc: 'steady',
  refs: 'flat',
  meta: 'flat',
  large: 'flat',
  spike: 'flat',
  leak: 'growing',
  stair: 'any',
  forced: 'any',
};

/** Makes the logs that are not in a folder yet, three at a time, and rates them. */
export async function rateOwnLogs(folder) {
  mkdirSync(folder, { recursive: true });
  spawnSync('javac', ['-d', join(folder, 'classes'), join(root, 'test/truth/java/Shape.java')], { stdio: 'inherit' });
  const jobs = COLLECTORS.flatMap((collector) =>
    SHAPES.map(([name, right, heap, ...args]) => ({
      name: `${collector}: ${name}`,
      right,
      file: join(folder, `${collector}-${name.replaceAll(/[ ,]+/g, '-')}.log`),
      collector,
      heap,
      args,
    })),
  );
  const waiting = jobs.filter(({ file }) => !existsSync(file));
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let job = waiting.shift(); job !== undefined; job = waiting.shift()) await run(job, folder);
    }),
  );
  return jobs.map(({ name, right, file }) => rate(name, right, readFileSync(file)));
}

function run({ collector, heap, args: [shape, ...options], file }, folder) {
  const command = [
    `-Xmx${heap}`,
    `-XX:+Use${collector}GC`,
    `-Xlog:gc*:file=${file}`,
    '-cp',
    join(folder, 'classes'),
    'Shape',
    shape,
    String(SECONDS),
    ...options,
  ];
  return new Promise((ended) => spawn('java', command, { stdio: 'ignore' }).once('exit', ended));
}

/** Rates the kept logs; null where there are none. */
export function rateKeptLogs(folder) {
  if (!existsSync(join(folder, 'truth.json'))) return null;
  const truth = JSON.parse(readFileSync(join(folder, 'truth.json'), 'utf8'));
  return Object.entries(truth).flatMap(([name, { files, workload }]) => {
    const right = WORKLOADS[String(workload).split(' ')[0]];
    if (files === undefined || files.length !== 1 || right === undefined) return [];
    const bytes = readFileSync(join(folder, files[0]));
    return [rate(name, right, files[0].endsWith('.gz') ? gunzipSync(bytes) : bytes)];
  });
}

function rate(name, right, bytes) {
  const reader = new InputReader();
  reader.write(bytes);
  const read = reader.end();
  if (!read.ok) return { name, right, kind: 'none', rating: 'unclear', sentence: read.message, seconds: 0 };
  const { durationMs, verdict } = analysisReport(read.runs.at(-1));
  const rating = verdict.kind === 'unclear' ? 'unclear' : FITS[right].includes(verdict.kind) ? 'right' : 'wrong';
  return { name, right, kind: verdict.kind, rating, sentence: verdict.sentence, seconds: (durationMs ?? 0) / 1000 };
}

/** How many of the ratings are which, in words. */
export function tally(ratings) {
  const count = (of, all = ratings) => all.filter(({ rating }) => rating === of).length;
  const long = ratings.filter(({ seconds }) => seconds >= 20);
  return `${ratings.length} logs: ${count('right')} right, ${count('unclear')} unclear, ${count('wrong')} wrong; of the ${long.length} that are 20 s and longer ${count('unclear', long)} are unclear`;
}
