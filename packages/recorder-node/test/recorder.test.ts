import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport, wholeSpan } from '../../core/src/analysis/analysis-report.ts';
import { roundTable } from '../../core/src/analysis/rounds.ts';
import { CollectionFlag, PhaseKind } from '../../core/src/model/tables.ts';
import { recorderEnvironment } from '../../cli/src/recording/recorder-environment.ts';
import { readRecording, recordUntil, runHeron, scratch, startHeron } from '../../../test/run-heron.ts';

const program = (name: string): string => join(__dirname, 'programs', name);

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

describe('a program with a known leak', () => {
  const out = join(scratch(), 'leaky.ndjson');
  let recording: ReturnType<typeof readRecording>;
  /** Bytes that it keeps, per second. */
  const truth = (5 * 1024 * 8 * 1000) / 50;

  beforeAll(async () => {
    const stop = join(scratch(), 'stop');
    const args = ['record', '--out', out, '--births', '2000', '--poll', '500', '--interval', '16384', '--exact', '--', 'node', program('leaky.mjs'), stop];
    // A poll costs what the machine makes of it, and the next waits for fifty times as long.
    const end = await recordUntil(args, out, { sign: '"k":"poll"', times: 14, leastMs: 26_000 }, () => writeFileSync(stop, ''));
    expect(end).toMatchObject({ code: 0, stdout: '', stderr: '' });
    recording = readRecording(out);
  });

  test('is recorded without a bad line, to its end', () => {
    expect(recording.issues.first).toEqual([]);
    expect(recording.ended).toBe(true);
    expect(recording.durationMs).toBeGreaterThan(25_000);
  });

  test('grows at its rate, from its site', () => {
    const report = analysisReport(recording);
    expect(report.verdict.kind).toBe('growing');
    expect(report.verdict.slopeBytesPerSec! / truth).toBeGreaterThan(0.85);
    expect(report.verdict.slopeBytesPerSec! / truth).toBeLessThan(1.15);
    const [first] = report.sites;
    expect(first!.site).toBe('keepReading leaky.mjs:7');
    expect(first!.path[first!.path.length - 1]).toBe('keepReading leaky.mjs:7');
    expect(first!.growthShareRatio).toBeGreaterThan(0.9);
    expect(first!.growthBytesPerSec! / truth).toBeGreaterThan(0.7);
    expect(first!.growthBytesPerSec! / truth).toBeLessThan(1.3);
  });

  test('churns from the other site, which keeps nothing', () => {
    const report = analysisReport(recording);
    const churn = report.sites.filter((site) => site.site.includes('leaky.mjs')).sort((a, b) => b.allocBytes - a.allocBytes)[0]!;
    expect(churn.path.join(' ')).toContain('churnReadings leaky.mjs:11');
    expect(churn.keptBytes).toBeLessThan(0.02 * churn.allocBytes);
    const all = report.sites.reduce((sum, site) => sum + site.allocBytes, 0);
    expect(all / report.allocation!.totalBytes).toBeGreaterThan(0.8);
    expect(all / report.allocation!.totalBytes).toBeLessThan(1.2);
  });

  test("shows the forced collections as the recorder's own, and no other whole ones as such", () => {
    const { collections, polls } = recording.tables;
    let own = 0;
    for (let row = 0; row < collections.length; row++) if (collections.col.flags[row]! & CollectionFlag.own) own++;
    expect(own).toBeGreaterThanOrEqual(polls.length - 1);
    expect(own).toBeLessThanOrEqual(polls.length + 2);
    expect(analysisReport(recording).collections.ownForced).toBe(own);
  });

  test('tells sizes of nearly every collection', () => {
    const { collections } = recording.tables;
    let sized = 0;
    for (let row = 0; row < collections.length; row++) if (collections.col.usedAfterBytes[row]! > 0) sized++;
    expect(collections.length).toBeGreaterThan(20);
    expect(sized / collections.length).toBeGreaterThan(0.95);
  });

  test('passes through births first, then survivors', () => {
    const { kind } = recording.tables.phases.col;
    expect(Array.from(kind.subarray(0, recording.tables.phases.length))).toEqual([PhaseKind.births, PhaseKind.births, PhaseKind.survivors]);
  });

  test('carries the lines of its source, and says what it cannot see', () => {
    const [excerpt] = [...recording.excerpts].filter(([key]) => key.endsWith('leaky.mjs:7')).map(([, lines]) => lines);
    expect(excerpt!.lines[7 - excerpt!.firstLine]).toBe('function keepReading() {');
    expect(recording.notes.map((note) => note.code)).toEqual(expect.arrayContaining(['not-seen', 'frames', 'polls']));
  });

  test('has no frame of the recorder in any path', () => {
    const { frames } = recording.tables;
    for (let row = 0; row < frames.length; row++) expect(recording.strings.text(frames.col.fileId[row]!)).not.toContain('recorder-node/dist');
  });
});

test('marks of the program and worker isolates are recorded', async () => {
  const out = join(scratch(), 'marks.ndjson');
  await runHeron(['record', '--out', out, '--', 'node', program('marks.mjs')]);
  const recording = readRecording(out);
  const { marks } = recording.tables;
  expect(recording.strings.text(marks.col.labelId[0]!)).toBe('import done');
  expect(recording.heaps.length).toBe(2);
  expect(recording.heaps[1]!.name).toMatch(/^worker /);
  expect(recording.ended).toBe(true);
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
  const settings = { out, control, intervalBytes: 65536, birthsMs: 500, pollMs: 60_000, collectAtMarks: false, exact: false, source: false, program: 'late' };
  expect(spawnSync(process.execPath, [programOf(text)], { env: recorderEnvironment(process.env, settings), encoding: 'utf8' }).status).toBe(0);
  const { tables: { marks: { col, length } }, strings } = readRecording(out);
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
  await runHeron(['record', '--out', out, '--births', '300', '--poll', '3600000', '--interval', '8192', '--collect-at-marks', '--', 'node', programOf(text)]);
  const recording = readRecording(out);
  // The program stands while it is polled: what comes to light next was born after that.
  const polls = Array.from({ length: recording.tables.polls.length }, (_, row) => ({ fromMs: recording.tables.polls.col.tMs[row]!, toMs: recording.tables.polls.col.tMs[row]! + recording.tables.polls.col.durationMs[row]! }));
  const { bornMs, bornEarlyMs } = recording.tables.objects.col;
  for (let row = 0; row < recording.tables.objects.length; row++) expect(polls.some(({ fromMs, toMs }) => bornMs[row]! - bornEarlyMs[row]! > fromMs && bornMs[row]! - bornEarlyMs[row]! < toMs - 0.5)).toBe(false);
  const rounds = roundTable(recording, wholeSpan(recording), 'import done', 'ownFrame')!;
  // A collection of which the runtime's profiler told no sizes gives no floor point.
  expect(rounds.collected).toBeGreaterThanOrEqual(rounds.marksMs.length - 3);
  expect(rounds.keys[0]).toMatchObject({ isConstant: true });
  // An array of 256 numbers takes 2 KiB and a header.
  expect(rounds.keys[0]!.perRoundBytes / (400 * (256 * 8 + 32))).toBeGreaterThan(0.85);
  expect(rounds.keys[0]!.perRoundBytes / (400 * (256 * 8 + 32))).toBeLessThan(1.15);
});

test.each([
  ['process.exitCode = 3;', 3], ['process.exit(4);', 4], ['throw new Error("as planned");', 1], ['Promise.reject(new Error("as planned"));', 1], ['', 0],
])('the exit code of %j is passed on and the recording is whole', async (text, code) => {
  const out = join(scratch(), 'exit.ndjson');
  const end = await runHeron(['record', '--out', out, '--', 'node', programOf(text)]);
  expect(end.code).toBe(code);
  expect(readRecording(out).ended).toBe(true);
});

test('a signal ends the program as it would have, after everything was written', async () => {
  const out = join(scratch(), 'signal.ndjson');
  const { child, end } = startHeron(['record', '--out', out, '--', 'node', programOf('setInterval(() => {}, 50); console.log("up")')]);
  await new Promise((resolve) => child.stdout!.once('data', resolve));
  await new Promise((resolve) => setTimeout(resolve, 400));
  child.kill('SIGTERM');
  expect(await end).toMatchObject({ signal: 'SIGTERM', stdout: 'up\n' });
  expect(readRecording(out).ended).toBe(true);
});

test('a program that handles its signal keeps its own way of ending', async () => {
  const out = join(scratch(), 'handled.ndjson');
  const { child, end } = startHeron(['record', '--out', out, '--', 'node', programOf('process.on("SIGTERM", () => { console.log("closing"); process.exit(7); }); setInterval(() => {}, 50); console.log("up")')]);
  await new Promise((resolve) => child.stdout!.once('data', resolve));
  child.kill('SIGTERM');
  expect(await end).toMatchObject({ code: 7, stdout: 'up\nclosing\n' });
  expect(readRecording(out).ended).toBe(true);
});

test('what was recorded before a kill is kept', async () => {
  const out = join(scratch(), 'killed.ndjson');
  const end = await runHeron(['record', '--out', out, '--', 'node', programOf('setTimeout(() => process.kill(process.pid, "SIGKILL"), 1500)')]);
  expect(end.signal).toBe('SIGKILL');
  const recording = readRecording(out);
  expect(recording.ended).toBe(false);
  expect(recording.tables.sizes.length).toBeGreaterThan(2);
});

test('a recorder that cannot write leaves the program alone', () => {
  const register = join(__dirname, '../dist/register.js');
  const run = spawnSync(process.execPath, ['--import', register, programOf('console.log("fine")')], {
    encoding: 'utf8', env: { ...process.env, BRISK_HERON_RECORD: JSON.stringify({ out: '/nowhere/at/all.ndjson' }) },
  });
  expect([run.status, run.stdout]).toEqual([0, 'fine\n']);
  expect(run.stderr).toMatch(/this program is not recorded/);
});

test('without settings the recorder does nothing', () => {
  const run = spawnSync(process.execPath, ['--import', join(__dirname, '../dist/register.js'), '-e', 'console.log(process.listenerCount("SIGTERM"))'], { encoding: 'utf8' });
  expect([run.status, run.stdout, run.stderr]).toEqual([0, '0\n', '']);
});
