import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { fileBytes, lastRun, readBytes } from './read-input.ts';

interface Truth {
  readonly collector: string;
  readonly young: number;
  readonly whole: number;
  readonly pausedMs: number | null;
  readonly format: string;
}

const LOGS = join(__dirname, '../../../../examples/logs');
const truths = JSON.parse(readFileSync(join(LOGS, 'truth.json'), 'utf8')) as Record<string, Truth | string>;
const cases = Object.entries(truths).filter((entry): entry is [string, Truth] => typeof entry[1] === 'object');

test.each(cases)("%s: the figures equal the runtime's own", (file, truth) => {
  const report = analysisReport(lastRun(readBytes(fileBytes(join(LOGS, file)))));
  expect(report.source).toMatchObject({ format: truth.format, collector: truth.collector, issues: { count: 0 } });
  expect([report.collections.young + report.collections.mixed, report.collections.whole]).toEqual([
    truth.young,
    truth.whole,
  ]);
  if (truth.pausedMs === null) return;
  // The beans count whole milliseconds, of collections only, by their own clock.
  const collections = Object.entries(report.pauses.byName)
    .filter(([label]) => !/Remark|Cleanup/.test(label))
    .reduce((sum, [, each]) => sum + each.totalMs, 0);
  expect(Math.abs(collections - truth.pausedMs)).toBeLessThan(truth.young + 0.02 * truth.pausedMs);
});
