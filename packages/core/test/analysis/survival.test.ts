import { writeFileSync } from 'node:fs';
import { compareGroups, comparePair } from '../../src/analysis/survival/compare-lives.ts';
import { shareAt, survivalOf } from '../../src/analysis/survival/curves.ts';
import { livesByGroup } from '../../src/analysis/survival/life-tables.ts';
import { livesOf } from '../../src/analysis/survival/lives.ts';
import { addObject, recordingOf } from '../build-recording.ts';
import { coverage, HEAPS, simulate } from '../survival-simulation.ts';

/** More of them for the table of docs: `SURVIVAL_RUNS=1000 SURVIVAL_TABLE=/tmp/table.md npx jest survival.test`. */
const RUNS = Number(process.env['SURVIVAL_RUNS'] ?? 40);
const TABLE = process.env['SURVIVAL_TABLE'];
const rows: string[] = [];

afterAll(() => {
  if (TABLE !== undefined) writeFileSync(TABLE, `${rows.join('\n')}\n`);
});

test.each(HEAPS)('bands hold the truth as often as they say: %s', (name, heap) => {
  const cells = coverage(heap, RUNS);
  for (const { ageMs, hits, trials } of cells)
    if (trials > 0) rows.push(`| ${name} | ${ageMs / 1000} s | ${trials} | ${((100 * hits) / trials).toFixed(1)} % |`);
  const trials = cells.reduce((sum, each) => sum + each.trials, 0);
  const hits = cells.reduce((sum, each) => sum + each.hits, 0);
  expect(trials).toBeGreaterThan(2 * RUNS);
  // Of so few runs the share is known to a few hundredths.
  expect(hits / trials).toBeGreaterThan(0.9);
});

test('three samples are no curve, and it is said what is missing', () => {
  const { told } = simulate({ ...HEAPS[0]![1], objects: 60, intervalBytes: 65_536 }, 3);
  expect(told.samples).toBeLessThan(10);
  expect(told.curve).toEqual([]);
  expect(told.median).toEqual({ low: null, high: null });
  expect(told.missing).toMatch(/only \d+ of it w|no object of it/);
});

test('two groups are held against each other, whatever the rest do, and the other way round says the opposite', () => {
  const recording = recordingOf([], 60_000);
  for (let n = 0; n < 300; n++) {
    const bornMs = n * 100;
    addObject(recording, { bornMs, diedMs: bornMs + 2000 + (n % 7) * 300, bytes: 50, site: 'long' });
    addObject(recording, { bornMs, diedMs: bornMs + 500 + (n % 5) * 100, bytes: 50, site: 'brief' });
    addObject(recording, { bornMs, diedMs: bornMs + 20_000, bytes: 500, site: 'rest' });
  }
  const span = { fromMs: 0, toMs: 60_000 };
  const lives = livesOf(recording, { span, kind: 'seconds', by: 'bytes', chosen: null, flows: [] });
  const groupOf = Int32Array.from({ length: recording.tables.origins.length }, (_, origin) => origin);
  const [long, brief] = [0, 1];
  const grouped = livesByGroup(lives, 3, groupOf);
  const one = comparePair(grouped, long, brief);
  expect(one.says).toBe('outlives');
  expect(one.pValue).toBeLessThan(0.001);
  const other = comparePair(grouped, brief, long);
  expect(other.says).toBe('sooner');
  expect(other.z).toBeCloseTo(-one.z, 6);
  // Against all others it dies sooner: the rest outlives both.
  expect(compareGroups(grouped)[long]!.says).toBe('sooner');
});

test('a curve ends where none is at risk, whatever sums of weights leave, though older ones come into sight', () => {
  const recording = recordingOf([], 60_000);
  // Those of the span die within half a second; some that are 20 s old and more were found alive in it.
  for (let n = 0; n < 40; n++) {
    const bornMs = 40_000 + n * 10;
    const probability = 0.1 + 0.007 * n;
    addObject(recording, { bornMs, diedMs: bornMs + 100 + n * 10, bytes: 50 + n, probability, site: 'brief' });
    const old = { bornMs: 10_000 + n * 100, diedMs: n % 2 === 0 ? 41_000 + n : 55_000, bytes: 70 + n };
    addObject(recording, { ...old, probability: 0.3 + 0.003 * n, site: 'old' });
  }
  const span = { fromMs: 39_900, toMs: 42_000 };
  const lives = livesOf(recording, { span, kind: 'seconds', by: 'bytes', chosen: null, flows: [] });
  const groupOf = Int32Array.from({ length: recording.tables.origins.length }, (_, origin) => origin);
  const { whole, groups } = survivalOf(livesByGroup(lives, 2, groupOf), 'seconds');
  expect(whole.samples).toBe(80);
  expect(whole.curve[whole.curve.length - 1]!.age).toBeLessThan(1000);
  expect(groups[0]!.curve[groups[0]!.curve.length - 1]!.estimate).toBe(0);
  // What is older than the last age is not told, nor what is younger than the first.
  expect(shareAt(whole.curve, 5000)).toBeNull();
  expect(shareAt(whole.curve, 300)!.age).toBeLessThanOrEqual(300);
  expect(shareAt([], 0)).toBeNull();
});
