import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, runHeron, scratch } from '../../../test/run-heron.ts';

interface Told {
  readonly schema: string;
  readonly outcome: string;
  readonly sentence: string;
  readonly a: { readonly durationMs: number };
  readonly b: { readonly durationMs: number };
  readonly keys: readonly { readonly name: string; readonly clear: boolean; readonly difference: number | null }[];
  readonly figures: readonly { readonly name: string; readonly clear: boolean; readonly difference: number | null }[];
}

const EXAMPLES = join(ROOT, 'examples');
const sample = (name: string): string => join(EXAMPLES, 'recordings', `${name}.heron`);

async function compared(...args: string[]): Promise<Told> {
  const { code, stdout, stderr } = await runHeron(['compare', ...args, '--json']);
  expect([code, stderr]).toEqual([0, '']);
  return JSON.parse(stdout) as Told;
}

async function record(first: number, second: number): Promise<string> {
  const file = join(scratch(), `${first}-${second}.ndjson`);
  const script = join(ROOT, 'packages/cli/test/programs/two-leaks.js');
  const program = [process.execPath, script, String(first), String(second), '24'];
  await runHeron(['record', '--out', file, '--exact', '--floor-every', '300', '--', ...program]);
  return file;
}

test('of a real program with two leaks, mending the first shows the second that stood behind it', async () => {
  const [both, second, mended] = await Promise.all([record(40, 20), record(0, 20), record(0, 0)]);
  const half = await compared(both, second);
  expect([half.outcome, half.sentence]).toEqual([
    'mixed',
    expect.stringMatching(/second site grows as it did before: remember .* What subscribe .* adds fell from/),
  ]);
  const clear = half.keys.filter((key) => key.clear).map(({ name }) => name.split(' ')[0]);
  expect(clear).toEqual(['subscribe']);
  const all = await compared(second, mended);
  expect([all.outcome, all.sentence]).toEqual(['fixed', expect.stringMatching(/^Fixed: what remember .* adds fell/)]);
  expect((await compared(mended, second)).outcome).toBe('worse');
});

test('spans of one file, charges and rules of names are taken, and what is wrong is told', async () => {
  const leak = sample('tidewatch-with-its-leak-and-churn');
  const spans = await compared(leak, '--span-a', '0:10-0:45', '--span-b', '0:50-1:25', '--charge', 'file');
  expect(spans).toMatchObject({ schema: 'brisk-heron/comparison@1', outcome: 'same' });
  expect(spans.keys.map(({ name }) => name).join()).toContain('wire.js');
  const rounds = await compared(leak, '--round-a', 'reconnect:1', '--round-b', 'reconnect:5');
  expect([rounds.a.durationMs, rounds.b.durationMs].every((ms) => ms > 8000 && ms < 12_000)).toBe(true);
  const moments = await compared(leak, '--moment-a', '0:20', '--moment-b', '1:00', '--of', 'kept');
  expect([moments.a.durationMs, moments.b.durationMs]).toEqual([20_000, 60_000]);
  const refused = async (...args: string[]): Promise<string> => {
    const { code, stderr } = await runHeron(['compare', ...args]);
    expect(code).not.toBe(0);
    return stderr;
  };
  expect(await refused(leak)).toMatch(/expected two files, or one of which parts are compared/);
  expect(await refused(leak, '--round-a', 'reconnect')).toMatch(/expected the label of a mark and a number from 1/);
  expect(await refused(leak, '--moment-a', 'noon')).toMatch(/expected an instant as 0:42, found "noon"/);
  expect(await refused(leak, leak, '--rule', 'plain')).toMatch(/expected a rule with \{hash\}/);
  expect(await refused(leak, leak, '--of', 'size')).toMatch(/comparison cannot be asked so: of/);
  expect(await refused(leak, leak, '--run-a', '4')).toMatch(/expected a run from 1 to 1, found 4/);
  expect(await refused(leak, join(scratch(), 'none.log'))).toMatch(/none\.log/);
});

test('for people it is a sentence, both verdicts, figures and keys', async () => {
  const { stdout } = await runHeron(['compare', sample('weirkeeper-with-its-faults'), sample('weirkeeper-fixed')]);
  expect(stdout).toMatch(/^Fixed: what Weirkeeper\.Schedule/);
  expect(stdout).toMatch(/^A {2}weirkeeper-with-its-faults\.heron: Growing/m);
  expect(stdout).toMatch(/^growth a second +[\d.]+ MiB +0 B/m);
  expect(stdout).toMatch(/Weirkeeper\.Schedule\.<init> .*clear$/m);
});

test('runs of a folder are told over time, and what is no log is said and left out', async () => {
  const folder = join(scratch(), 'week');
  mkdirSync(folder);
  for (const name of ['weirkeeper-g1', 'weirkeeper-serial'])
    copyFileSync(join(EXAMPLES, 'logs', `${name}.log`), join(folder, `${name}.log`));
  writeFileSync(join(folder, 'notes.txt'), 'nothing of a collector');
  const { code, stdout, stderr } = await runHeron(['history', folder, '--json']);
  const told = JSON.parse(stdout) as {
    schema: string;
    runs: { verdict: string; peakBytes: number; files: string[] }[];
  };
  expect([code, told.schema, told.runs.map(({ verdict }) => verdict)]).toEqual([
    0,
    'brisk-heron/history@1',
    ['growing', 'growing'],
  ]);
  expect(stderr).toContain('notes.txt');
  const none = await runHeron(['history', join(folder, 'nowhere')]);
  expect(none.stderr).toMatch(/expected a file or a folder, found none at/);
});

test('a process that is started again and again in one log is recognised', async () => {
  // The same run, printed again an hour later each time, as a supervisor's log has it.
  const text = readFileSync(join(EXAMPLES, 'logs', 'weirkeeper-g1.log'), 'utf8');
  const folder = join(scratch(), 'again');
  mkdirSync(folder);
  writeFileSync(join(folder, 'all.log'), text.repeat(4));
  const { stdout } = await runHeron(['history', join(folder, 'all.log')]);
  expect(stdout).toMatch(/^3 restarts, each after about 15 s; reached 34\.0 MiB of 40\.0 MiB each time\./);
});
