import { copyFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { runHeron, scratch } from '../../../test/run-heron.ts';

const LOGS = join(dirname(fileURLToPath(import.meta.url)), '../../../examples/logs');

test('logs of two programs are refused together, and each is named', async () => {
  const end = await runHeron(['analyze', join(LOGS, 'weirkeeper-g1.log'), join(LOGS, 'weirkeeper-serial.log')]);
  expect(end.code).toBe(2);
  expect(end.stderr).toMatch(
    /these are 2 runs, by their clocks .*weirkeeper-g1\.log; .*weirkeeper-serial\.log\): analyze each by itself/,
  );
});

test('a copy of a file is left out and told', async () => {
  const copy = join(scratch(), 'copy.log');
  copyFileSync(join(LOGS, 'weirkeeper-g1.log'), copy);
  const [alone, both] = [
    await runHeron(['analyze', '--json', join(LOGS, 'weirkeeper-g1.log')]),
    await runHeron(['analyze', '--json', join(LOGS, 'weirkeeper-g1.log'), copy]),
  ];
  expect(both.code).toBe(0);
  expect(both.stderr).toContain('copy.log: the same as');
  expect(JSON.parse(both.stdout)).toEqual(JSON.parse(alone.stdout));
});

test('what a run lost to waits, its bounds of allocation and its end are in the text', async () => {
  const { stdout } = await runHeron(['analyze', join(LOGS, 'weirkeeper-g1.log')]);
  expect(stdout).toMatch(/^allocation {4}1\.48 GiB \(\d[\d.]* GiB–\d[\d.]* GiB\), /m);
  expect(stdout).toMatch(/^run {11}ended after 15\.2 s: most at 0:11, 33\.0 MiB$/m);
});
