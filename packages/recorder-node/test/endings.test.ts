import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readRecording, runHeron, scratch, startHeron } from '../../../test/run-heron.ts';

function programOf(text: string): string {
  const file = join(scratch(), 'program.cjs');
  writeFileSync(file, text);
  return file;
}

/** Begins to record a program given as text, and waits until it has said something. */
async function underway(out: string, text: string): Promise<ReturnType<typeof startHeron>> {
  const started = startHeron(['record', '--out', out, '--', 'node', programOf(text)]);
  await new Promise((resolve) => started.child.stdout!.once('data', resolve));
  return started;
}

test.each([
  ['process.exitCode = 3;', 3],
  ['process.exit(4);', 4],
  ['throw new Error("as planned");', 1],
  ['Promise.reject(new Error("as planned"));', 1],
  ['', 0],
])('the exit code of %j is passed on and the recording is whole', async (text, code) => {
  const out = join(scratch(), 'exit.ndjson');
  const end = await runHeron(['record', '--out', out, '--', 'node', programOf(text)]);
  expect(end.code).toBe(code);
  expect(readRecording(out).ended).toBe(true);
});

test('a signal ends the program as it would have, after everything was written', async () => {
  const out = join(scratch(), 'signal.ndjson');
  const { child, end } = await underway(out, 'setInterval(() => {}, 50); console.log("up")');
  await new Promise((resolve) => setTimeout(resolve, 400));
  child.kill('SIGTERM');
  expect(await end).toMatchObject({ signal: 'SIGTERM', stdout: 'up\n' });
  expect(readRecording(out).ended).toBe(true);
});

test('a program that handles its signal keeps its own way of ending', async () => {
  const out = join(scratch(), 'handled.ndjson');
  const { child, end } = await underway(
    out,
    'process.on("SIGTERM", () => { console.log("closing"); process.exit(7); }); setInterval(() => {}, 50); console.log("up")',
  );
  child.kill('SIGTERM');
  expect(await end).toMatchObject({ code: 7, stdout: 'up\nclosing\n' });
  expect(readRecording(out).ended).toBe(true);
});

test('what was recorded before a kill is kept', async () => {
  const out = join(scratch(), 'killed.ndjson');
  const end = await runHeron([
    'record',
    '--out',
    out,
    '--',
    'node',
    programOf('setTimeout(() => process.kill(process.pid, "SIGKILL"), 1500)'),
  ]);
  expect(end.signal).toBe('SIGKILL');
  const recording = readRecording(out);
  expect(recording.ended).toBe(false);
  expect(recording.tables.sizes.length).toBeGreaterThan(2);
});

test('a recorder that cannot write leaves the program alone', () => {
  const register = join(__dirname, '../dist/register.js');
  const run = spawnSync(process.execPath, ['--import', register, programOf('console.log("fine")')], {
    encoding: 'utf8',
    env: { ...process.env, BRISK_HERON_RECORD: JSON.stringify({ out: '/nowhere/at/all.ndjson' }) },
  });
  expect([run.status, run.stdout]).toEqual([0, 'fine\n']);
  expect(run.stderr).toMatch(/this program is not recorded/);
});

test('without settings the recorder does nothing', () => {
  const run = spawnSync(
    process.execPath,
    ['--import', join(__dirname, '../dist/register.js'), '-e', 'console.log(process.listenerCount("SIGTERM"))'],
    { encoding: 'utf8' },
  );
  expect([run.status, run.stdout, run.stderr]).toEqual([0, '0\n', '']);
});
