import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { tableFromIPC } from 'apache-arrow';
import { ROOT, runHeron, scratch } from '../../../test/run-heron.ts';
import { writeRecordingHeader } from '../../core/src/formats/recording-file/container.ts';
import { MEASURES } from '../../core/src/measures/registry.ts';

const LEAK = join(ROOT, 'examples/recordings/tidewatch-with-its-leak-and-churn.heron');
const LOG = join(ROOT, 'examples/logs/weirkeeper-g1.log');

interface Answer {
  readonly schema: string;
  readonly measure: string;
  readonly settings: { readonly limitBytes: number | null };
  readonly answer: { readonly rows: readonly { readonly name: string; readonly allocBytes: number }[] };
}

const json = async (...args: string[]): Promise<Answer> => {
  const end = await runHeron(['ask', ...args, '--json']);
  expect([end.code, end.stderr]).toEqual([0, '']);
  return JSON.parse(end.stdout) as Answer;
};

describe('heron ask', () => {
  test('answers as JSON, by the charge and the find that were given', async () => {
    const all = await json(LEAK, '--measure', 'sites', '--charge', 'function');
    expect(all).toMatchObject({ schema: 'brisk-heron/answer@1', measure: 'sites', settings: { limitBytes: null } });
    expect(all.answer.rows.map(({ name }) => name)).toContain('parseReading');
    const found = await json(LEAK, '--measure', 'sites', '--find', 'parseReading', '--charge', 'function');
    expect(found.answer.rows.map(({ name }) => name)).not.toContain('subscribe');
    const early = await json(LEAK, '--measure', 'sites', '--charge', 'function', '--span', '0:10-0:20');
    expect(early.answer.rows[0]!.allocBytes).toBeLessThan(0.3 * all.answer.rows[0]!.allocBytes);
  });

  test('answers as a table for people', async () => {
    const { code, stdout } = await runHeron(['ask', LEAK, '--measure', 'growth']);
    const [head, first] = stdout.split('\n');
    expect(code).toBe(0);
    expect(head).toMatch(/^key +at +kept +kept ± +adds a second/);
    expect(first).toMatch(/^subscribe +alerts\.js:14 .* MiB .* KiB\/s .*100 %$/);
  });

  test('says what a source does not tell', async () => {
    const end = await runHeron(['ask', LOG, '--measure', 'sites']);
    expect([end.code, end.stdout]).toEqual([0, 'Nothing of it is in what was asked about.\n']);
    expect(end.stderr).toMatch(/a GC log tells no allocation sites: record the program/);
  });

  test('takes anything else by name, and lists what there is', async () => {
    const over = await json(LOG, '--measure', 'collections', '--set', 'goalMs=0.001', '--set', 'slices=3');
    expect(over.answer).toMatchObject({ goalMs: 0.001, series: { throughputRatio: { length: 3 } } });
    const { stdout } = await runHeron(['ask', '--list']);
    for (const { name, title } of Object.values(MEASURES)) expect(stdout).toContain(`${name}: ${title}`);
  });

  test.each([
    [['nowhere.log', '--measure', 'growth'], /cannot read the input/],
    [[LEAK], /expected --measure with one of overview, .*found ""/],
    [[LEAK, '--measure', '__proto__'], /expected --measure with one of/],
    [['--measure', 'growth'], /expected a file/],
    [[LEAK, '--measure', 'growth', '--charge', 'colour'], /growth cannot be asked so: charge/],
    [[LOG, '--measure', 'collections', '--find', 'x'], /collections cannot be asked so: .*find/],
    [[LEAK, '--measure', 'growth', '--set', 'rounds'], /expected --set with name=value, found "rounds"/],
    [[LEAK, '--measure', 'growth', '--span', '1:00-0:10'], /expected a span as 0:10-1:00/],
    [[LEAK, '--measure', 'growth', '--run', '2'], /expected a run from 1 to 1, found 2/],
    [[LEAK, '--measure', 'growth', '--limit', 'much'], /expected a size as 256MiB/],
  ])('%j is refused with what was expected', async (args, message) => {
    const end = await runHeron(['ask', ...args]);
    expect(end.code).not.toBe(0);
    expect([end.stdout, end.stderr]).toEqual(['', expect.stringMatching(message)]);
  });
});

/** The leak as it is exported with a limit and a settle time beside it. */
function noted(ownRules: string[] | null = null): string {
  const bytes = gunzipSync(readFileSync(LEAK));
  const source = bytes.subarray(bytes.indexOf(10) + 1);
  const header = writeRecordingHeader({
    name: 'noted',
    createdEpochMs: 1,
    parts: [{ name: 'run.ndjson', bytes: source.length }],
    notebook: { limitBytes: 16 * 2 ** 20, settleMs: 7000, ownRules, moments: [] },
  });
  const file = join(scratch(), 'noted.heron');
  writeFileSync(file, gzipSync(Buffer.concat([Buffer.from(header), source])));
  return file;
}

describe('heron analyze', () => {
  interface Report {
    readonly heap: { readonly limitBytes: number };
    readonly verdict: { readonly sentence: string };
    readonly pauses: { readonly count: number };
    readonly settleMs: number;
    readonly sites: readonly { readonly site: string }[];
  }
  const report = async (...args: string[]): Promise<Report> =>
    JSON.parse((await runHeron(['analyze', ...args, '--json'])).stdout) as Report;

  test('applies what was noted beside a recording; what is given stands instead', async () => {
    const file = noted();
    const asNoted = await report(file);
    expect([asNoted.heap.limitBytes, asNoted.settleMs]).toEqual([16 * 2 ** 20, 7000]);
    expect(asNoted.verdict.sentence).toMatch(/16(\.0)? MiB limit/);
    const given = await report(file, '--limit', '1GiB', '--settle', '2s');
    expect([given.heap.limitBytes, given.settleMs]).toEqual([2 ** 30, 2000]);
    expect(given.verdict.sentence).toMatch(/1\.00 GiB limit/);
  });

  test('tells of a part of the time, and by other rules for own code', async () => {
    const [whole, part] = [await report(LEAK), await report(LEAK, '--span', '0:30-1:00')];
    expect(part.pauses.count).toBeGreaterThan(0.2 * whole.pauses.count);
    expect(part.pauses.count).toBeLessThan(0.5 * whole.pauses.count);
    const own = await report(LEAK, '--own', '!src/alerts.js');
    expect(own.sites.map(({ site }) => site)).not.toEqual(whole.sites.map(({ site }) => site));
  });
});

test('heron events tells own frames by the rules that were noted beside a recording', async () => {
  const ownFiles = async (file: string): Promise<Set<string>> => {
    const [events, paths] = ['events.arrow', 'paths.arrow'].map((name) => join(scratch(), name)) as [string, string];
    const end = await runHeron(['events', file, '--out', events, '--paths', paths]);
    expect(end.code).toBe(0);
    const table = tableFromIPC(readFileSync(paths));
    const [own, files] = [table.getChild('own')!, table.getChild('file')!];
    return new Set(Array.from({ length: table.numRows }, (_, row) => (own.get(row) ? String(files.get(row)) : '')));
  };
  const all = await ownFiles(LEAK);
  expect([...all].some((file) => file.endsWith('wire.js'))).toBe(true);
  const asNoted = await ownFiles(noted(['src/alerts.js']));
  expect([...asNoted].filter((file) => file !== '').every((file) => file.endsWith('src/alerts.js'))).toBe(true);
  expect(asNoted.size).toBe(2);
});
