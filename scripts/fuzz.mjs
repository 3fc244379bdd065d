/**
 * Reads inputs that were changed at random, as faults and hostile hands do, and looks that none crashes, none takes
 * over two seconds, no figure is outside its domain, and none depends on how the input was cut: `npm run fuzz --
 * [INPUTS] [SEED]`. A seed that fails is printed with what was wrong; it alone is run again by `npm run fuzz -- 1
 * SEED`.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { build, install, root } from './bootstrap.mjs';
import { outsideDomain } from '../test/fuzz/domain.mjs';
import { mutate } from '../test/fuzz/mutate.mjs';
import { chance } from '../test/reliability/chance.mjs';

install();
build();
const { analysisReport, InputReader } = await import('../packages/core/dist/index.js');

const [inputs = 1_000_000, firstSeed = 1] = process.argv
  .slice(2)
  .filter((word) => !word.startsWith('-'))
  .map(Number);
const SLOWEST_MS = 2000;
const MOST_BYTES = 24 * 1024;
const ORDINARY = Object.getOwnPropertyNames(Object.prototype).length;
const seeds = beginnings();

let bad = 0;
let slowestMs = 0;
const from = Date.now();
for (let n = 0; n < inputs; n++) {
  const problem = tryOne(firstSeed + n);
  if (problem !== '') {
    bad++;
    process.stdout.write(`seed ${firstSeed + n}: ${problem}\n`);
    if (bad >= 400) break;
  }
  if (n > 0 && n % 20_000 === 0)
    process.stderr.write(
      `${n.toLocaleString('en')} inputs, ${bad} bad, slowest ${slowestMs.toFixed(0)} ms, ${((Date.now() - from) / 1000).toFixed(0)} s\n`,
    );
}
process.stdout.write(`${inputs.toLocaleString('en')} inputs: ${bad} bad; slowest ${slowestMs.toFixed(0)} ms\n`);
process.exitCode = bad === 0 ? 0 : 1;

function tryOne(seed) {
  const next = chance(seed);
  const pick = () => seeds[Math.floor(next() * seeds.length)];
  const input = mutate(pick(), pick(), next);
  try {
    const timed = () => {
      // Processor time: what else runs on the machine is not the input's fault.
      const start = process.cpuUsage();
      const whole = reportOf([input]);
      const { user, system } = process.cpuUsage(start);
      return { whole, tookMs: (user + system) / 1000 };
    };
    const first = timed();
    const { whole } = first;
    // A machine that stood still counts that as work: the least of three counts.
    const tookMs = first.tookMs > SLOWEST_MS ? Math.min(first.tookMs, timed().tookMs, timed().tookMs) : first.tookMs;
    slowestMs = Math.max(slowestMs, tookMs);
    if (tookMs > SLOWEST_MS) return `took ${tookMs.toFixed(0)} ms`;
    for (const report of whole.reports) {
      const outside = outsideDomain(report);
      if (outside !== '') return `outside its domain: ${outside}`;
    }
    if (Object.getOwnPropertyNames(Object.prototype).length !== ORDINARY) return 'Object.prototype was changed';
    const cut = reportOf(cuts(input, next));
    return whole.text === cut.text ? '' : `depends on how it is cut: ${firstDifference(whole.text, cut.text)}`;
  } catch (error) {
    return `crashed: ${error.stack?.split('\n').slice(0, 3).join(' ')}`;
  }
}

function reportOf(pieces) {
  const reader = new InputReader();
  for (const piece of pieces) reader.write(new Uint8Array(piece));
  const result = reader.end();
  const reports = result.ok ? result.runs.map((run) => JSON.parse(JSON.stringify(analysisReport(run)))) : [];
  return { reports, text: result.ok ? JSON.stringify(reports) : result.code };
}

function cuts(input, next) {
  const pieces = [];
  for (let at = 0; at < input.length;) {
    const to = Math.min(input.length, at + 1 + Math.floor(next() ** 3 * 4000));
    pieces.push(input.subarray(at, to));
    at = to;
  }
  return pieces;
}

function firstDifference(a, b) {
  let at = 0;
  while (a[at] === b[at]) at++;
  return `${a.slice(Math.max(0, at - 60), at + 40)} | ${b.slice(Math.max(0, at - 20), at + 40)}`;
}

// Beginnings and middles of real logs and recordings, of every kind that is in this repository.
function beginnings() {
  const all = [];
  const add = (bytes) => {
    all.push(bytes.subarray(0, MOST_BYTES));
    const middle = bytes.indexOf(10, bytes.length >> 1) + 1;
    if (bytes.length > 2 * MOST_BYTES)
      all.push(
        Buffer.concat([bytes.subarray(0, bytes.indexOf(10, 600) + 1), bytes.subarray(middle, middle + MOST_BYTES)]),
      );
  };
  for (const name of readdirSync(join(root, 'examples', 'logs')))
    if (name.endsWith('.log')) add(readFileSync(join(root, 'examples', 'logs', name)));
  for (const name of readdirSync(join(root, 'examples', 'recordings'))) {
    if (!name.endsWith('.heron')) continue;
    const text = gunzipSync(readFileSync(join(root, 'examples', 'recordings', name)));
    add(text.subarray(text.indexOf(10) + 1));
  }
  for (const name of readdirSync(join(root, 'test', 'fuzz', 'inputs')))
    add(readFileSync(join(root, 'test', 'fuzz', 'inputs', name)));
  return all;
}
