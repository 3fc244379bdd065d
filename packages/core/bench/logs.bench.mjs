/**
 * Reading a GC log against the plainest reading of the same bytes: split into lines, one regular expression on each.
 */
import { existsSync, readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { analysisReport, askMeasure, InputReader, Study } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const MIB = 1048576;
const OWN = new URL('../../../examples/logs/', import.meta.url);
const CORPUS = new URL('../../../../shared/corpus/logs/', import.meta.url);
const sample = readFileSync(new URL('weirkeeper-g1.log', OWN), 'utf8');
/** Takes a line apart: its stamp, its collection and what it says. */
const LINE = /^\[([^\]]*)\](?:\[([^\]]*)\])* (?:GC\((\d+)\) )?(.*)$/;
/** A detailed log of 228 MB, where it is at hand. */
const DETAILED = new URL('jdk17-g1-big-gcdebug.log.gz', CORPUS);
/** Logs of other collectors and runtimes; those of the corpus where it is at hand. */
const OTHERS = [
  ['Parallel', new URL('weirkeeper-parallel.log', OWN)],
  ['Serial', new URL('weirkeeper-serial.log', OWN)],
  ['V8', new URL('tidewatch-trace.log', OWN)],
  ['ZGC', new URL('jdk17-z-churn-gcstar.log', CORPUS)],
  ['Shenandoah', new URL('jdk17-shen-steady-gcstar.log', CORPUS)],
  ['Go', new URL('go119-leak-gctrace.log', CORPUS)],
];

/** The sample again and again as one long run, a piece at a time: clock and collection ids go on. */
function* longLog(bytes) {
  const body = sample
    .slice(sample.indexOf('GC(0)') - 40)
    .split('\n')
    .slice(1)
    .join('\n');
  let length = sample.length;
  yield Buffer.from(sample);
  for (let n = 1; length < bytes; n++) {
    const part = Buffer.from(
      body
        .replace(/\[(\d+)\.(\d+)s\]/g, (_, s, ms) => `[${Number(s) + n * 60}.${ms}s]`)
        .replace(/GC\((\d+)\)/g, (_, id) => `GC(${Number(id) + n * 1000})`),
    );
    length += part.length;
    yield part;
  }
}

/** A log of any kind again and again, its clock and ids going on. */
function again(log, bytes) {
  const lines = log.split('\n').filter((line) => line !== '');
  const body = lines
    .slice(lines.findIndex((line) => /GC\(\d+\)|ms: |gc \d+ @/.test(line)))
    .filter((line) => !/Using |Heap$/.test(line));
  const text = `${body.join('\n')}\n`;
  const parts = [`${lines.join('\n')}\n`];
  for (let length = parts[0].length, n = 1; length < bytes; n++) {
    const part = text
      .replace(/\[(\d+)\.(\d+)s\]/g, (_, s, ms) => `[${Number(s) + n * 100}.${ms}s]`)
      .replace(/GC\((\d+)\)/g, (_, id) => `GC(${Number(id) + n * 10_000})`)
      .replace(/(\] +)(\d+) ms: /g, (_, before, ms) => `${before}${Number(ms) + n * 100_000} ms: `)
      .replace(/gc (\d+) @(\d+)/g, (_, id, s) => `gc ${Number(id) + n * 1000} @${Number(s) + n * 100}`);
    length += part.length;
    parts.push(part);
  }
  return Buffer.from(parts.join(''));
}

function* pieces(bytes) {
  for (let at = 0; at < bytes.length; at += MIB) yield bytes.subarray(at, at + MIB);
}

function plainly(chunks) {
  let rest = '';
  let found = 0;
  for (const chunk of chunks) {
    const lines = (rest + chunk.toString('latin1')).split('\n');
    rest = lines.pop();
    for (const line of lines) if (LINE.exec(line) !== null) found++;
  }
  return found;
}

function ours(chunks) {
  const reader = new InputReader();
  for (const chunk of chunks) reader.write(chunk);
  const result = reader.end();
  return analysisReport(result.runs[result.runs.length - 1]);
}

function compare(name, bytes, runs) {
  const baselineMs = medianMs(() => plainly(pieces(bytes)), runs);
  globalThis.gc?.();
  const before = process.memoryUsage().rss;
  const ms = medianMs(() => ours(pieces(bytes)), runs);
  const grownMib = (process.memoryUsage().rss - before) / MIB;
  const mib = bytes.length / MIB;
  report(
    name,
    ms,
    baselineMs,
    `${((mib * 1000) / ms).toFixed(0)} MiB/s, baseline ${((mib * 1000) / baselineMs).toFixed(0)} MiB/s, resident +${grownMib.toFixed(0)} MiB`,
  );
}

if (existsSync(DETAILED))
  compare('read and analyse a detailed G1 log of 218 MiB', gunzipSync(readFileSync(DETAILED)), 3);
for (const [name, file] of OTHERS)
  if (existsSync(file))
    compare(`read and analyse a log of ${name} of 20 MiB`, again(readFileSync(file, 'utf8'), 20 * MIB), 3);
for (const mib of [4, 20, 60])
  compare(`read and analyse a G1 log of ${mib} MiB`, Buffer.concat([...longLog(mib * MIB)]), 3);

// Spans of a long log, each another one so that none is remembered, against a pass over the sizes of its collections.
const SPANS = 8;
const [long] = readAll(200).runs;
const study = new Study({ runs: [long] });
const { usedAfterBytes } = long.tables.collections.col;
const passMs = medianMs(() => usedAfterBytes.reduce((sum, bytes) => sum + bytes, 0));
for (const part of [0.8, 0.4, 0.01])
  for (const name of ['overview', 'collections']) {
    let n = 0;
    const ms = medianMs(() => {
      const fromMs = (++n / 100) * long.durationMs;
      const extent = { kind: 'span', fromMs, toMs: fromMs + part * long.durationMs };
      askMeasure(study, { extent }, name, {});
    }, SPANS);
    const what = `${name} of ${Math.round(part * 100)} % of ${long.tables.collections.length} collections`;
    report(what, ms, passMs);
  }

function readAll(mib) {
  const reader = new InputReader();
  for (const chunk of longLog(mib * MIB)) reader.write(chunk);
  return reader.end();
}

// Is it linear? Made as it is read, so that what is resident is the reader's: time a MiB against that of the smallest.
let perMib = NaN;
for (const mib of process.argv.includes('--short') ? [20, 200] : [20, 200, 2000]) {
  globalThis.gc?.();
  const before = process.memoryUsage().rss;
  let madeMs = 0;
  const reader = new InputReader();
  const began = performance.now();
  let made = performance.now();
  for (const chunk of longLog(mib * MIB)) {
    madeMs += performance.now() - made;
    reader.write(chunk);
    made = performance.now();
  }
  const result = reader.end();
  const ms = performance.now() - began - madeMs;
  if (Number.isNaN(perMib)) perMib = ms / mib;
  const rows = result.runs[0].tables.collections.length;
  report(
    `read a G1 log of ${mib} MiB, a MiB against one of 20`,
    ms,
    perMib * mib,
    `${rows} collections, resident +${((process.memoryUsage().rss - before) / MIB).toFixed(0)} MiB`,
  );
}
