import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { floorPoints } from '../../core/src/analysis/floor.ts';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { wholeSpan } from '../../core/src/model/whole-span.ts';
import { roundTable } from '../../core/src/analysis/rounds.ts';
import { CollectionFlag, PhaseKind } from '../../core/src/model/tables.ts';
import { theilSen } from '../../core/src/stats/theil-sen.ts';
import { NONE } from '../../core/src/base/ids.ts';
import { recorderEnvironment } from '../../cli/src/recording/recorder-environment.ts';
import { readRecording, recordUntil, runHeron, scratch } from '../../../test/run-heron.ts';

const program = (name: string): string => join(__dirname, 'programs', name);

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

/** A line of what the program counted itself. */
function countedLine(line: string): { epochMs: number; bytes: number } {
  const [epochMs, bytes] = line.split(' ').map(Number);
  return { epochMs: epochMs!, bytes: bytes! };
}

function nearOne(most: number): { asymmetricMatch(ratio: number): boolean; toString(): string } {
  return { asymmetricMatch: (ratio) => Math.abs(ratio - 1) <= most, toString: () => `1 ± ${most}` };
}

describe('a program with a known leak', () => {
  const out = join(scratch(), 'leaky.ndjson');
  const stop = join(scratch(), 'stop');
  let recording: ReturnType<typeof readRecording>;

  beforeAll(async () => {
    const args = [
      'record',
      '--out',
      out,
      '--floor-every',
      '500',
      '--interval',
      '16384',
      '--exact',
      '--',
      'node',
      program('leaky.mjs'),
      stop,
    ];
    // A forced collection costs what the machine makes of it, and the next waits for fifty times as long.
    const end = await recordUntil(args, out, { sign: '"own":true', times: 14, leastMs: 24_000 }, () =>
      writeFileSync(stop, ''),
    );
    expect(end).toMatchObject({ code: 0, stdout: '', stderr: '' });
    recording = readRecording(out);
  });

  test('is recorded without a bad line, to its end', () => {
    expect(recording.issues.first).toEqual([]);
    expect(recording.ended).toBe(true);
    expect(recording.durationMs).toBeGreaterThan(19_000);
  });

  test('grows at its rate, from its site', () => {
    const report = analysisReport(recording);
    expect(report.verdict.kind).toBe('growing');
    const floor = floorPoints(recording, { fromMs: report.verdict.sinceMs ?? 0, toMs: recording.durationMs });
    const counted = readFileSync(`${stop}.kept`, 'latin1').trim().split('\n').map(countedLine);
    const keptAt = (tMs: number): number =>
      counted.findLast(({ epochMs }) => epochMs <= recording.startEpochMs + tMs)?.bytes ?? 0;
    const truth = theilSen(
      floor.tMs.map((tMs) => tMs / 1000),
      floor.tMs.map(keptAt),
    );
    if (truth.kind !== 'slope') throw new Error('too few points');
    // Told with the points, so that a failure on another machine can be understood.
    expect({ floor, ratio: report.verdict.slopeBytesPerSec! / truth.slope }).toEqual({ floor, ratio: nearOne(0.1) });
    const [first] = report.sites;
    expect(first!.site).toBe('keepReading leaky.mjs:7');
    expect(first!.path[first!.path.length - 1]).toBe('keepReading leaky.mjs:7');
    expect(first!.growthShareRatio).toBeGreaterThan(0.9);
    expect(first!.growthBytesPerSec! / truth.slope).toBeGreaterThan(0.75);
    expect(first!.growthBytesPerSec! / truth.slope).toBeLessThan(1.3);
  });

  test('churns from the other site, which keeps nothing', () => {
    const report = analysisReport(recording);
    const churn = report.sites
      .filter((site) => site.site.includes('leaky.mjs'))
      .sort((a, b) => b.allocBytes - a.allocBytes)[0]!;
    expect(churn.path.join(' ')).toContain('churnReadings leaky.mjs:11');
    expect(churn.keptBytes).toBeLessThan(0.02 * churn.allocBytes);
    const all = report.sites.reduce((sum, site) => sum + site.allocBytes, 0);
    expect(all / report.allocation!.totalBytes).toBeGreaterThan(0.8);
    expect(all / report.allocation!.totalBytes).toBeLessThan(1.2);
  });

  test("shows the forced collections as the recorder's own, and no other whole ones as such", () => {
    const { collections } = recording.tables;
    let own = 0;
    for (let row = 0; row < collections.length; row++) if (collections.col.flags[row]! & CollectionFlag.own) own++;
    expect(own).toBeGreaterThanOrEqual(14);
    expect(analysisReport(recording).collections.ownForced).toBe(own);
  });

  test('tells sizes of every collection', () => {
    const { collections } = recording.tables;
    let sized = 0;
    for (let row = 0; row < collections.length; row++) if (collections.col.usedAfterBytes[row]! > 0) sized++;
    expect(collections.length).toBeGreaterThan(20);
    expect(sized).toBe(collections.length);
  });

  test('follows single objects all the time, and says how many samples it looked at', () => {
    const { kind } = recording.tables.phases.col;
    expect(Array.from(kind.subarray(0, recording.tables.phases.length))).toEqual([PhaseKind.objects]);
    expect(analysisReport(recording).samples!.seenRatio).toBeGreaterThan(0.15);
    expect(recording.heaps[0]).toMatchObject({ seesAllBirths: true, mayInline: false });
  });

  test('carries the lines of its source, and says what it cannot see', () => {
    const [excerpt] = [...recording.excerpts].filter(([key]) => key.endsWith('leaky.mjs:7')).map(([, lines]) => lines);
    expect(excerpt!.lines[7 - excerpt!.firstLine]).toBe('function keepReading() {');
    expect(recording.notes.map((note) => note.code)).toEqual(
      expect.arrayContaining(['types', 'frames', 'outside-watched']),
    );
  });

  test('has no frame of the recorder in any path', () => {
    const { frames } = recording.tables;
    for (let row = 0; row < frames.length; row++)
      expect(recording.strings.text(frames.col.fileId[row]!)).not.toContain('recorder-node/dist');
  });
});

test('a program that never comes back to its event loop is recorded with all its collections', async () => {
  const out = join(scratch(), 'busy.ndjson');
  const text = `
    const { PerformanceObserver } = require('node:perf_hooks');
    let sum = 0, made = 0;
    const pause = new Int32Array(new SharedArrayBuffer(4));
    function grind() { for (let n = 0; n < 300; n++) sum += new Array(200).fill(n).length; made += 300 * (48 + 1600); }
    for (const until = performance.now() + 4000; performance.now() < until;) { grind(); Atomics.wait(pause, 0, 0, 3); }
    console.log(made);
    process.exit(0);`;
  const end = await runHeron(['record', '--exact', '--out', out, '--', 'node', programOf(text)]);
  const recording = readRecording(out);
  expect(recording.ended).toBe(true);
  expect(recording.tables.collections.length).toBeGreaterThan(10);
  // Sizes are read though no timer can run.
  expect(recording.tables.sizes.length).toBeGreaterThan(4);
  const grind = allocatedBy(recording, 'grind');
  expect(Math.abs(grind.bytes - Number(end.stdout)) / (grind.error / 1.96)).toBeLessThan(4);
});

test('a worker that is busy until it is terminated leaves what it allocated', async () => {
  const out = join(scratch(), 'worker.ndjson');
  const text = `
    const { isMainThread, Worker } = require('node:worker_threads');
    if (isMainThread) { const worker = new Worker(__filename); setTimeout(() => worker.terminate(), 2500); }
    else { let sum = 0; for (;;) sum += grind(); }
    function grind() { let n = 0; for (let k = 0; k < 50; k++) n += new Array(500).fill(k).length; return n; }`;
  await runHeron(['record', '--exact', '--out', out, '--', 'node', programOf(text)]);
  const recording = readRecording(out);
  expect(recording.ended).toBe(true);
  expect(recording.heaps).toHaveLength(2);
  expect(allocatedBy(recording, 'grind').bytes).toBeGreaterThan(20_000_000);
});

/** Bytes by the function of the nearest own frame, of objects and flows, with their variance. */
function allocatedBy(recording: ReturnType<typeof readRecording>, name: string): { bytes: number; error: number } {
  const [site] = analysisReport(recording).sites.filter((each) => each.site.startsWith(`${name} `));
  return { bytes: site?.allocBytes ?? 0, error: 1.96 * (site?.allocBytesSe ?? 0) };
}

test('a time in which nothing was allocated gets nothing of what is inferred', async () => {
  const out = join(scratch(), 'idle.ndjson');
  const text = `
    const { channel } = require('node:diagnostics_channel');
    let sum = 0;
    function churn(until) { while (performance.now() < until) for (let n = 0; n < 100; n++) sum += new Array(50).fill(n).length; }
    churn(performance.now() + 1500);
    channel('brisk-heron:mark').publish('idle');
    setTimeout(() => { channel('brisk-heron:mark').publish('busy'); churn(performance.now() + 1500); }, 5000);`;
  await runHeron([
    'record',
    '--exact',
    '--floor-every',
    '0',
    '--interval',
    '8192',
    '--out',
    out,
    '--',
    'node',
    programOf(text),
  ]);
  const {
    tables: { flows, marks },
  } = readRecording(out);
  expect(flows.length).toBeGreaterThan(0);
  // Without collections the samples are read once a second: what was unseen lies between two reads.
  const [fromMs, toMs] = [marks.col.tMs[0]! + 1500, marks.col.tMs[1]! - 1500];
  for (let row = 0; row < flows.length; row++)
    expect(flows.col.fromMs[row]! < toMs && flows.col.toMs[row]! > fromMs).toBe(false);
});

test('every death falls to the collection that found it', async () => {
  const out = join(scratch(), 'deaths.ndjson');
  const text = `
    const { channel } = require('node:diagnostics_channel');
    let held = null, round = 0;
    function hold() { held = null; held = Array.from({ length: 400 }, (_, n) => new Array(500).fill(n)); }
    const timer = setInterval(() => { channel('brisk-heron:mark').publish('round'); hold(); if (++round === 12) clearInterval(timer); }, 200);`;
  await runHeron([
    'record',
    '--exact',
    '--floor-every',
    '0',
    '--interval',
    '16384',
    '--collect-at-marks',
    '--out',
    out,
    '--',
    'node',
    programOf(text),
  ]);
  const {
    tables: { objects, origins, paths, marks },
    strings,
    ...recording
  } = readRecording(out);
  void recording;
  const times = Array.from({ length: marks.length }, (_, row) => marks.col.tMs[row]!);
  let dead = 0;
  for (let row = 0; row < objects.length; row++) {
    const path = origins.col.pathId[objects.col.originId[row]!]!;
    if (
      ![4016, 4048, 4064].includes(objects.col.sizeBytes[row]!) ||
      path === NONE ||
      Number.isNaN(objects.col.endMs[row]!)
    )
      continue;
    dead++;
    // What a round holds dies in the next one: its death was noticed by the collection at the mark after that.
    const born = times.filter((t) => t <= objects.col.bornMs[row]! + objects.col.bornLateMs[row]!).length;
    const died = times.filter((t) => t <= objects.col.endMs[row]!).length;
    expect(died - born).toBeLessThanOrEqual(2);
    expect(died).toBeGreaterThan(born);
  }
  void paths;
  void strings;
  expect(dead).toBeGreaterThan(300);
});

test('a mark that arrives late stands where it was set', async () => {
  const folder = scratch();
  const [out, control] = [join(folder, 'late.ndjson'), join(folder, 'control')];
  writeFileSync(control, '');
  const text = `
    const { appendFileSync } = require('node:fs');
    const line = JSON.stringify({ do: 'mark', label: 'set before', epochMs: Date.now() });
    setTimeout(() => {
      require('node:diagnostics_channel').channel('brisk-heron:mark').publish('arrives');
      appendFileSync(${JSON.stringify(control)}, line + '\\n');
    }, 2000);
    setTimeout(() => {}, 3500);`;
  const settings = {
    out,
    control,
    intervalBytes: 65536,
    mayWiden: false,
    birthsMs: 500,
    floorEveryMs: 60_000,
    floorShareRatio: 0.02,
    collectAtMarks: false,
    exact: false,
    source: false,
    outside: false,
    native: true,
    attached: false,
    name: '',
    program: 'late',
    birthsOff: false,
    inventoryMark: '',
    inventoryPercent: 0,
  };
  expect(
    spawnSync(process.execPath, [programOf(text)], {
      env: recorderEnvironment(process.env, settings),
      encoding: 'utf8',
    }).status,
  ).toBe(0);
  const {
    tables: {
      marks: { col, length },
    },
    strings,
  } = readRecording(out);
  const at = new Map(Array.from({ length }, (_, row) => [strings.text(col.labelId[row]!), col.tMs[row]!]));
  // Told after the other, it was set two seconds before it; the two clocks differ by less than a millisecond or two.
  expect(at.get('arrives')! - at.get('set before')!).toBeGreaterThan(1990);
  expect(at.get('set before')).toBeGreaterThanOrEqual(0);
});

test('a collection at every mark shows what each round leaves, though no poll is due', async () => {
  const out = join(scratch(), 'rounds.ndjson');
  const text = `
    const { channel } = require('node:diagnostics_channel');
    const kept = [];
    let rounds = 0;
    const timer = setInterval(() => {
      for (let n = 0; n < 400; n++) kept.push(new Array(256).fill(n));
      channel('brisk-heron:mark').publish('import done');
      if (++rounds === 24) clearInterval(timer);
    }, 250);`;
  await runHeron([
    'record',
    '--out',
    out,
    '--floor-every',
    '0',
    '--interval',
    '8192',
    '--collect-at-marks',
    '--',
    'node',
    programOf(text),
  ]);
  const recording = readRecording(out);
  const rounds = roundTable(recording, wholeSpan(recording), 'import done', 'ownFrame')!;
  expect(rounds.collected).toBe(rounds.marksMs.length);
  expect(rounds.keys[0]).toMatchObject({ isConstant: true });
  // An array of 256 numbers takes 2 KiB and a header.
  expect(rounds.keys[0]!.perRoundBytes / (400 * (256 * 8 + 32))).toBeGreaterThan(0.85);
  expect(rounds.keys[0]!.perRoundBytes / (400 * (256 * 8 + 32))).toBeLessThan(1.15);
});

test('a part of the programs that count themselves is told as they counted', () => {
  const run = spawnSync(
    process.execPath,
    [join(__dirname, '../../../scripts/truth.mjs'), 'slow-leak', 'churn-hard', 'late-start', 'stairs', 'in-a-worker'],
    { encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '', TRUTH_SECONDS: '14' } },
  );
  const [, wrong, right, tops, inside, cells] =
    /, (\d+) wrong; top site (\d+) of (\d+);.*errors (\d+) of (\d+)/.exec(run.stdout) ?? [];
  expect([run.status, wrong, tops === right]).toEqual([0, '0', true]);
  // A function's cells err together: of some eleven functions one or two lie outside by chance.
  expect(Number(cells)).toBeGreaterThan(12);
  expect(Number(inside) / Number(cells)).toBeGreaterThan(0.7);
});
