/**
 * What the JVM recorder costs, and how right it is: ratios of the same work with and without it, estimates over the
 * program's own counts, lifetimes of objects that live a known time, and deaths that are missing.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  frameText,
  InputReader,
  lastKnownAlive,
  chargeTable,
  ObjectIndex,
  spanSums,
  wholeSpan,
} from '../../core/dist/index.js';

const here = dirname(fileURLToPath(import.meta.url));
const root = join(here, '..', '..', '..');
const folder = mkdtempSync(join(tmpdir(), 'heron-bench-'));
const { ensureAgent, findJdk } = await import('../../cli/dist/recording/jvm-agent.js');
const { jvmOptions } = await import('../../cli/dist/recording/jvm-launch.js');
const jdk = findJdk(null);
if (jdk === null) {
  process.stdout.write('skipped: no JDK with headers here (Debian: default-jdk-headless)\n');
  process.exit(0);
}
const library = ensureAgent(root);
for (const source of [join(here, 'Load.java'), join(here, '..', 'test', 'programs', 'Counting.java')])
  execFileSync(join(jdk, 'bin', 'javac'), ['-d', folder, source]);

function java(options, ...words) {
  return execFileSync(join(jdk, 'bin', 'java'), [...options, '-cp', folder, ...words], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  });
}

function recordedOptions(name, settings) {
  const out = join(folder, `${name}.ndjson`);
  return { out, options: jvmOptions(library, { out, control: '', log: `${out}.gc`, ...settings }) };
}

const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

/** CPU time of the working thread, recorded over not recorded; runs alternate, medians of five. */
function cost(kind, rounds, settings) {
  const bare = [];
  const recorded = [];
  const heap = ['-Xms512m', '-Xmx512m', '-XX:+UseParallelGC'];
  for (let run = 0; run < 5; run++) {
    bare.push(Number(java(heap, 'Load', kind, String(rounds))));
    recorded.push(
      Number(
        java(
          [...heap, ...recordedOptions(`${kind}-${run}-${settings.intervalBytes}`, settings).options],
          'Load',
          kind,
          String(rounds),
        ),
      ),
    );
  }
  return median(recorded) / median(bare);
}

process.stdout.write('cost: CPU time of the same work, recorded / not recorded\n');
for (const [kind, rounds] of [
  ['mixed', 1000],
  ['churn', 700],
]) {
  for (const settings of [
    { intervalBytes: 524288 },
    { intervalBytes: 524288, costRatio: 0 },
    { intervalBytes: 65536, costRatio: 0 },
  ]) {
    const bound = settings.costRatio === 0 ? 'fixed' : 'adapting to 3 %';
    process.stdout.write(
      `  ${kind.padEnd(6)} every ${settings.intervalBytes / 1024} KiB, ${bound}: ${cost(kind, rounds, settings).toFixed(3)}\n`,
    );
  }
}

function readRun(file) {
  const reader = new InputReader();
  reader.write(readFileSync(file));
  return reader.end().runs.at(-1);
}

function bytesBySite(recording) {
  const bytes = {};
  for (const site of chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'ownFrame')
    .rows) {
    const name = frameText(recording, site.key).functionName.replace('Counting.', '');
    bytes[name] = bytes[name] ?? { bytes: 0, variance: 0, frames: new Set() };
    bytes[name].bytes += site.allocBytes;
    bytes[name].variance += site.allocBytesSe ** 2;
    bytes[name].frames.add(site.key);
  }
  return bytes;
}

/**
 * Lifetimes of the site `held`, whose objects live a known time: share of death intervals that hold it, and their
 * middle.
 */
function lifetimes(recording, frames, heldMs) {
  const { objects, origins, paths } = recording.tables;
  const aliveMs = lastKnownAlive(recording);
  let dead = 0;
  let holding = 0;
  let sum = 0;
  for (let row = 0; row < objects.length; row++) {
    const { bornMs, endMs, originId } = objects.col;
    if (Number.isNaN(endMs[row]) || !frames.has(paths.col.frameId[origins.col.pathId[originId[row]]])) continue;
    const longest = endMs[row] - bornMs[row];
    const shortest = aliveMs(row) - bornMs[row];
    dead++;
    // The program drops what is older once a millisecond or so.
    if (shortest <= heldMs + 10 && longest >= heldMs - 1) holding++;
    sum += (longest + shortest) / 2;
  }
  return { dead, holding: holding / dead, middle: sum / dead / heldMs };
}

process.stdout.write(
  "\nestimated bytes of a site / the program's own count (± 95 %), and the lifetimes of what lives 400 ms\n",
);
for (const collector of ['Serial', 'G1']) {
  for (const intervalBytes of [65536, 524288]) {
    const { out, options } = recordedOptions(`count-${collector}-${intervalBytes}`, {
      intervalBytes,
      costRatio: 0,
      census: true,
    });
    const told = java(['-Xmx256m', `-XX:+Use${collector}GC`, ...options], 'Counting', '12000');
    const truth = Object.fromEntries(
      told
        .trim()
        .split('\n')
        .map((line) => line.split(' ')),
    );
    const recording = readRun(out);
    const sites = bytesBySite(recording);
    const words = ['small', 'medium', 'large', 'leak', 'held'].map(
      (name) =>
        `${name} ${(sites[name].bytes / truth[name]).toFixed(3)} ± ${((1.96 * Math.sqrt(sites[name].variance)) / truth[name]).toFixed(3)}`,
    );
    process.stdout.write(`  ${collector}, every ${intervalBytes / 1024} KiB: ${words.join(', ')}\n`);
    const { dead, holding, middle } = lifetimes(recording, sites.held.frames, Number(truth['held-ms']));
    process.stdout.write(
      `    lifetimes: ${(holding * 100).toFixed(1)} % of ${dead} death intervals hold the true one, their middle / true ${middle.toFixed(3)}\n`,
    );
    const { objects } = recording.tables;
    const alive = Array.from(objects.col.endMs.subarray(0, objects.length)).filter(Number.isNaN).length;
    process.stdout.write(
      `    deaths: ${objects.length} born, ${objects.length - alive} died, ${recording.heaps[0].liveAtEnd} live at the end: ${alive - recording.heaps[0].liveAtEnd} missing\n`,
    );
  }
}
