import { writeFileSync } from 'node:fs';
import { compareGroups, comparePair } from '../../src/analysis/survival/compare-lives.ts';
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
  const one = comparePair(lives, groupOf, long, brief);
  expect(one.says).toBe('outlives');
  expect(one.pValue).toBeLessThan(0.001);
  const other = comparePair(lives, groupOf, brief, long);
  expect(other.says).toBe('sooner');
  expect(other.z).toBeCloseTo(-one.z, 6);
  // Against all others it dies sooner: the rest outlives both.
  expect(compareGroups(lives, groupOf, 3)[long]!.says).toBe('sooner');
});
