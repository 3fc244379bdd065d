import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { fileBytes, lastRun, readBytes } from '../formats/read-input.ts';

const CORPUS = join(dirname(fileURLToPath(import.meta.url)), '../../../../../shared/corpus');
const FLAT = ['steady', 'settled', 'bursting', 'shrinking', 'unclear'];
/** What may be said of a program by what it does. */
const ALLOWED: Readonly<Record<string, readonly string[]>> = {
  steady: FLAT,
  churn: FLAT,
  idle: FLAT,
  sysgc: FLAT,
  refs: FLAT,
  meta: FLAT,
  large: FLAT,
  spike: FLAT,
  leak: ['growing', 'unclear'],
};
interface KeptLog {
  readonly files?: readonly string[];
  readonly workload?: string;
  readonly alloc_true_bytes_threads?: number;
}

const has = existsSync(join(CORPUS, 'truth.json'));
const truth = has ? (JSON.parse(readFileSync(join(CORPUS, 'truth.json'), 'utf8')) as Record<string, KeptLog>) : {};
const logs = Object.entries(truth)
  .filter(([, { files }]) => files?.length === 1 && !files[0]!.includes('damaged'))
  .map(([name, log]) => ({ name, log, allowed: ALLOWED[String(log.workload).split(' ')[0]!] }));

(has ? test : test.skip)(
  'no kept log is judged wrongly, and the bounds of what was allocated hold what its program counted',
  () => {
    const wrong: string[] = [];
    let bounded = 0;
    for (const { name, log, allowed } of logs) {
      const read = readBytes(fileBytes(join(CORPUS, log.files![0]!)));
      if (!read.ok) continue;
      const { verdict, allocation } = analysisReport(lastRun(read));
      if (allowed !== undefined && !allowed.includes(verdict.kind)) wrong.push(`${name}: ${verdict.sentence}`);
      const counted = log.alloc_true_bytes_threads;
      if (counted === undefined || allocation === null) continue;
      bounded++;
      if (allocation.lowBytes > counted || (allocation.highBytes ?? Infinity) < counted)
        wrong.push(`${name}: ${allocation.lowBytes} to ${allocation.highBytes}, counted ${counted}`);
    }
    expect(wrong).toEqual([]);
    expect(bounded).toBeGreaterThan(80);
  },
);
