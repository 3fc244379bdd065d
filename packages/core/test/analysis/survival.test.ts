import { writeFileSync } from 'node:fs';
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
