import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { ChargeFigures } from '../../src/analysis/charge-figures.ts';
import { chargeTable } from '../../src/analysis/charge-table.ts';
import { liveLevels } from '../../src/analysis/live-levels.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { findPeak } from '../../src/analysis/peak.ts';
import { roundTable } from '../../src/analysis/rounds.ts';
import { seriesPattern } from '../../src/analysis/series-pattern.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { judge } from '../../src/analysis/verdict/verdict.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { chargeGroups, chargeText } from '../../src/model/charge.ts';
import type { Recording } from '../../src/model/recording.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { estimatedBytes } from '../../src/stats/horvitz-thompson.ts';

/** A sample recording of tidewatch, by the end of its name. */
function sample(name: string): Recording {
  const reader = new InputReader();
  reader.write(gunzipSync(readFileSync(join(__dirname, '../../../../examples/recordings', `tidewatch-${name}.heron`))));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return result.runs[result.runs.length - 1]!;
}

const siteTable = (recording: Recording) =>
  chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'ownFrame');
const named = (recording: Recording, row: ChargeFigures): string => chargeText(recording, 'ownFrame', row.key);
const sureGrowth = (recording: Recording): string[] =>
  siteTable(recording)
    .rows.filter((row) => row.growthLow > 0)
    .map((row) => named(recording, row));

test('a subscription kept at every reconnect: growing, from it alone, the same each round', () => {
  const recording = sample('with-its-leak-and-churn');
  expect(judge(recording, wholeSpan(recording)).kind).toBe('growing');
  expect(sureGrowth(recording)).toEqual(['subscribe alerts.js:14']);
  const { keys, collected, marksMs } = roundTable(recording, wholeSpan(recording), 'reconnect', 'ownFrame')!;
  expect(collected).toBe(marksMs.length);
  expect(chargeText(recording, 'ownFrame', keys[0]!.key)).toBe('subscribe alerts.js:14');
  expect(keys.filter((key) => key.isConstant)).toHaveLength(1);
});

test('bulletins cached for every report period: stepping every ten seconds, from where they are rendered', () => {
  const recording = sample('with-its-bulletins-cached');
  const verdict = judge(recording, wholeSpan(recording));
  expect(verdict.kind).toBe('stepping');
  expect(verdict.periodMs / 10_000).toBeCloseTo(1, 1);
  expect(sureGrowth(recording)).toEqual(['render bulletins.js:15']);
  const table = siteTable(recording);
  // A step is some twenty samples: whether their series shows the staircase or a steady rise is left to chance.
  expect(['steps', 'rises-steadily']).toContain(seriesPattern(table.momentsMs, table.rows[0]!).kind);
});

test('a parser that churns: not growing, most is allocated by it and nothing of it kept', () => {
  const recording = sample('with-nothing-but-churn');
  expect(judge(recording, wholeSpan(recording)).kind).toBe('steady');
  const [most] = [...siteTable(recording).rows].sort((a, b) => b.allocBytes - a.allocBytes);
  expect(named(recording, most!)).toMatch(/wire\.js/);
  expect(most!.keptBytes).toBeLessThan(0.01 * most!.allocBytes);
});

test('a sliding window: it fills and stays, most of what is seen to die late comes from it', () => {
  const recording = sample('with-its-window');
  expect(['settled', 'steady']).toContain(judge(recording, wholeSpan(recording)).kind);
  expect(sureGrowth(recording)).toEqual([]);
  const { objects } = recording.tables;
  const { groupOf, keys } = chargeGroups(recording, 'ownFrame');
  const died = new Map<string, number>();
  for (let row = 0; row < objects.length; row++) {
    const { bornMs, endMs, lost, originId, sizeBytes, probability } = objects.col;
    if (Number.isNaN(endMs[row]!) || lost[row] === 1 || endMs[row]! - bornMs[row]! < 1500) continue;
    const site = chargeText(recording, 'ownFrame', keys[groupOf[originId[row]!]!]!);
    died.set(site, (died.get(site) ?? 0) + estimatedBytes(sizeBytes[row]!, probability[row]!));
  }
  expect([...died].sort((a, b) => b[1] - a[1])[0]![0]).toBe('add window.js:27');
});

test('a spectrum that copies a month for every frequency: bursting, and the copies are what went after the peak', () => {
  const recording = sample('with-its-spectrum');
  expect(judge(recording, wholeSpan(recording)).kind).toBe('bursting');
  expect(sureGrowth(recording)).toEqual([]);
  const peak = findPeak(
    { index: new ObjectIndex(recording), levels: liveLevels(recording) },
    wholeSpan(recording),
    'ownFrame',
  )!;
  expect(chargeText(recording, 'ownFrame', peak.changes[0]!.key)).toMatch(/^(?:\(anonymous\)|turn) spectrum\.js/);
  expect(peak.changes[0]!.isClear).toBe(true);
  expect(peak.changes[0]!.afterBytes).toBeLessThan(0.05 * peak.changes[0]!.beforeBytes);
});

test('fixed, it is steady and nothing surely grows', () => {
  const recording = sample('fixed');
  expect(judge(recording, wholeSpan(recording)).kind).toBe('steady');
  expect(sureGrowth(recording)).toEqual([]);
});
