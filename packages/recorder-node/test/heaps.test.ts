import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { chargeText } from '../../core/src/model/charge.ts';
import { readRecording, runHeron, scratch } from '../../../test/run-heron.ts';

const program = (name: string): string => join(__dirname, 'programs', name);

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

test('memory of buffers is followed with its call path, and programs see Buffer as it was', async () => {
  const out = join(scratch(), 'buffers.ndjson');
  const text = `
    const kept = [];
    function keepFrame() { kept.push(Buffer.alloc(100_000)); }
    function dropFrame() { return new ArrayBuffer(200_000).byteLength; }
    class Frame extends ArrayBuffer { get isFrame() { return true; } }
    const checks = [
      new Frame(8) instanceof ArrayBuffer, new Frame(8).isFrame, new ArrayBuffer(4).constructor === ArrayBuffer, ArrayBuffer.name === 'ArrayBuffer',
      Object.getPrototypeOf(Buffer) === Uint8Array, Buffer.alloc(3) instanceof Uint8Array, Buffer.from('abc').toString() === 'abc', Buffer.alloc.name === 'alloc' && Buffer.alloc.length === 3,
      ArrayBuffer.isView(new Uint8Array(2)), new Uint8Array(new ArrayBuffer(16)).length === 16, Object.prototype.toString.call(new ArrayBuffer(1)) === '[object ArrayBuffer]',
      new (require('node:vm').runInNewContext('ArrayBuffer'))(4).byteLength === 4, structuredClone(new ArrayBuffer(5)) instanceof ArrayBuffer, Object.keys(globalThis).includes('ArrayBuffer') === false,
    ];
    console.log(checks.every(Boolean), checks.indexOf(false));
    let n = 0;
    const timer = setInterval(() => { keepFrame(); dropFrame(); if (++n === 150) { clearInterval(timer); require('node:diagnostics_channel').channel('brisk-heron:mark').publish('done'); setTimeout(() => kept.length, 500); } }, 10);`;
  const end = await runHeron(['record', '--out', out, '--collect-at-marks', '--', 'node', programOf(text)]);
  expect(end.stdout).toBe('true -1\n');
  const recording = readRecording(out);
  expect([...recording.outsideTypes].map((id) => recording.strings.text(id))).toEqual(['Buffer', 'ArrayBuffer']);
  const keep = analysisReport(recording).sites.find((site) => site.site.startsWith('keepFrame '))!;
  expect(keep).toMatchObject({ type: 'Buffer', space: 'outside', growthShareRatio: 0 });
  expect(Math.abs(keep.allocBytes - 15_000_000)).toBeLessThan(4 * keep.allocBytesSe);
  const sums = { kept: 0, died: 0 };
  for (let row = 0; row < recording.tables.objects.length; row++) {
    const { originId, endMs } = recording.tables.objects.col;
    if (recording.strings.text(recording.tables.origins.col.typeId[originId[row]!]!) === 'ArrayBuffer')
      sums[Number.isNaN(endMs[row]!) ? 'kept' : 'died']++;
  }
  expect(sums.kept).toBe(0);
  expect(sums.died).toBeGreaterThan(40);
  expect(chargeText(recording, 'space', 1)).toBe('outside the heap');
});

test('marks of the program and worker isolates are recorded', async () => {
  const out = join(scratch(), 'marks.ndjson');
  await runHeron(['record', '--out', out, '--', 'node', program('marks.mjs')]);
  const recording = readRecording(out);
  const { marks } = recording.tables;
  expect(recording.strings.text(marks.col.labelId[0]!)).toBe('import done');
  expect(recording.heaps.length).toBe(2);
  expect(recording.heaps.map((heap) => heap.name)).toEqual(['marks.mjs', 'worker marks.mjs']);
  expect(recording.ended).toBe(true);
});

test('forked processes, processes of a cluster and workers that are given their code as text are heaps of their own; one that cannot be reached is named', async () => {
  const out = join(scratch(), 'family.ndjson');
  const text = `
    const cluster = require('node:cluster');
    const { fork, spawn } = require('node:child_process');
    const { Worker } = require('node:worker_threads');
    if (process.argv[2] === 'child' || !cluster.isPrimary) setTimeout(() => process.exit(0), 800);
    else {
      fork(__filename, ['child']);
      spawn(process.execPath, [__filename, 'child', 'spawned'], { stdio: 'inherit' });
      cluster.fork();
      new Worker('setTimeout(() => {}, 500)', { eval: true, execArgv: [] });
      new Worker('setTimeout(() => {}, 5000)', { eval: true, env: {} }).unref();
      setTimeout(() => {}, 3500);
    }`;
  expect(await runHeron(['record', '--out', out, '--', 'node', programOf(text)])).toMatchObject({
    code: 0,
    stderr: '',
  });
  const recording = readRecording(out);
  expect(recording.issues.first).toEqual([]);
  expect(recording.heaps.map((heap) => heap.name).sort()).toEqual([
    'program.cjs',
    'program.cjs (2)',
    'program.cjs child',
    'program.cjs child spawned',
    expect.stringMatching(/^worker /),
  ]);
  expect(recording.ended).toBe(true);
  expect(recording.notes.map((note) => note.code)).toContain('worker-not-recorded');
});
