import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { PhaseKind } from '../../core/src/model/tables.ts';
import { readRecording, runHeron, scratch } from '../../../test/run-heron.ts';

/** Records a program given as text; answers the recording and what it printed. */
async function recorded(
  text: string,
  options: readonly string[],
): Promise<{ recording: ReturnType<typeof readRecording>; printed: string }> {
  const folder = scratch();
  const [program, out] = [join(folder, 'program.cjs'), join(folder, 'recording.ndjson')];
  writeFileSync(program, text);
  const end = await runHeron(['record', ...options, '--out', out, '--', 'node', program]);
  expect(end).toMatchObject({ code: 0, stderr: '' });
  const recording = readRecording(out);
  expect(recording.issues.first).toEqual([]);
  return { recording, printed: end.stdout };
}

test('what is allocated after the program ended the sampling is not booked on paths of before', async () => {
  const { recording, printed } = await recorded(
    `const { Session } = require('node:inspector');
    const session = new Session();
    session.connect();
    const kept = [], made = { early: 0, later: 0 };
    function early() { for (let n = 0; n < 60; n++) kept.push(new Array(1000).fill(n)); made.early += 60 * 8048; }
    function later() { for (let n = 0; n < 60; n++) kept.push(new Array(1000).fill(n)); made.later += 60 * 8048; }
    let rounds = 0;
    const timer = setInterval(() => {
      if (rounds < 40) early(); else if (rounds >= 250) later();
      if (++rounds === 110) { session.post('HeapProfiler.enable'); session.post('HeapProfiler.stopSampling'); }
      if (rounds < 290) return;
      clearInterval(timer);
      console.log(JSON.stringify(made));
    }, 20);`,
    ['--exact', '--interval', '16384'],
  );
  const made = JSON.parse(printed) as Record<string, number>;
  const { sites } = analysisReport(recording);
  for (const name of ['early', 'later']) {
    const site = sites.find((each) => each.site.startsWith(`${name} `))!;
    expect(Math.abs(site.allocBytes - made[name]!) / site.allocBytesSe).toBeLessThan(5);
  }
  expect(recording.notes.map((note) => note.code)).toContain('sampling-ended');
});

test("the program's own use of sampling ends the recorder's, which is told, and begins again after it", async () => {
  const text = `
    const { Session } = require('node:inspector');
    let kept = [];
    function keep() { for (let n = 0; n < 200; n++) kept.push(new Array(100).fill(n)); }
    const timer = setInterval(keep, 20);
    const session = new Session();
    setTimeout(() => { session.connect(); session.post('HeapProfiler.enable'); session.post('HeapProfiler.stopSampling'); }, 1500);
    setTimeout(() => clearInterval(timer), 4000);`;
  const { recording } = await recorded(text, ['--exact']);
  const { phases, objects } = recording.tables;
  expect(Array.from(phases.col.kind.subarray(0, phases.length))).toEqual([
    PhaseKind.objects,
    PhaseKind.blind,
    PhaseKind.objects,
  ]);
  expect(recording.notes.map((note) => note.code)).toContain('sampling-ended');
  expect(recording.issues.count).toBe(0);
  // What was followed is lost from sight, not dead.
  let lost = 0;
  for (let row = 0; row < objects.length; row++) lost += objects.col.lost[row]!;
  expect(lost).toBeGreaterThan(20);
});

/** Mostly rests, so that few of its collections are looked at; one of three kinds of work at a time. */
const CHANGING = (which: string) => `
  const made = { most: 0, some: 0, least: 0 };
  let sum = 0;
  function most() { for (let n = 0; n < 200; n++) sum += new Array(150).fill(n).length; made.most += 200 * 1248; }
  function some() { for (let n = 0; n < 100; n++) sum += new Array(150).fill(n).length; made.some += 100 * 1248; }
  function least() { for (let n = 0; n < 30; n++) sum += new Array(150).fill(n).length; made.least += 30 * 1248; }
  const works = [most, some, least];
  const startMs = performance.now();
  const timer = setInterval(() => {
    const ms = performance.now() - startMs;
    works[${which} % 3]();
    if (ms < 14000) return;
    clearInterval(timer);
    console.log(JSON.stringify(made));
  }, 10);`;

test.each([
  ['in turn, for two seconds each', 'Math.floor(ms / 2000)'],
  ['as it comes', 'Math.floor(Math.random() * 3)'],
])('kinds of work that go on unseen, %s, are told apart within the error', async (_, which) => {
  const { recording, printed } = await recorded(CHANGING(which), ['--exact']);
  const made = JSON.parse(printed) as Record<string, number>;
  const { sites } = analysisReport(recording);
  const { flows } = recording.tables;
  let unseen = 0;
  for (let row = 0; row < flows.length; row++) unseen += flows.col.bytes[row]!;
  const all = Object.values(made).reduce((sum, bytes) => sum + bytes, 0);
  expect(unseen).toBeGreaterThan(all / 5);
  for (const name of Object.keys(made)) {
    const site = sites.find((each) => each.site.startsWith(`${name} `))!;
    expect(Math.abs(site.allocBytes - made[name]!) / site.allocBytesSe).toBeLessThan(4);
    expect(site.allocBytesSe).toBeLessThan(all / 3);
  }
});

describe('a program that allocates without pause', () => {
  // Large arrays, so that it is fast enough on a slow machine too.
  const RUSHING = `
    let kept = null;
    const made = { rush: 0 };
    function rush(rounds) {
      for (let n = 0; n < rounds; n++) { const row = new Array(500); if (n % 20000 === 0) kept = { next: kept, row }; }
      made.rush += rounds * (16 + 16 + 16 + 8 * 500);
    }
    const until = process.cpuUsage().user + 2.5e6;
    while (process.cpuUsage().user < until) rush(20000);
    console.log(JSON.stringify(made));`;

  test('is sampled at a wider interval after its start, and says so', async () => {
    const { recording, printed } = await recorded(RUSHING, ['--exact', '--floor-every', '500']);
    const { intervals, phases } = recording.tables;
    expect([...intervals.col.bytes.subarray(0, intervals.length)]).toEqual([8 * 65536]);
    expect(intervals.col.tMs[0]).toBeLessThan(2000);
    expect(phases.length).toBeGreaterThanOrEqual(3);
    expect(recording.notes.filter((note) => note.code === 'interval-widened')).toHaveLength(1);
    const made = (JSON.parse(printed) as { rush: number }).rush;
    const site = analysisReport(recording).sites.find((each) => each.site.startsWith('rush '))!;
    expect(Math.abs(site.allocBytes - made) / site.allocBytesSe).toBeLessThan(5);
    expect(site.allocBytesSe).toBeLessThan(0.05 * made);
  });

  test('keeps the interval that was asked for', async () => {
    const { recording } = await recorded(RUSHING, ['--exact', '--interval', '65536']);
    expect(recording.tables.intervals.length).toBe(0);
    expect(recording.notes.map((note) => note.code)).not.toContain('interval-widened');
  });
});
