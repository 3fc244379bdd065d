import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from '../../../test/run-heron.ts';

/** Some of the rounds of `npm run kills`. */
test('the program, the sender and the server may be killed at any instant: what was written arrives, once and in order', () => {
  const end = spawnSync(process.execPath, [join(ROOT, 'test', 'reliability', 'kill-rounds.mjs'), '6', '1000'], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  expect([end.status, end.stdout.trim().split('\n').at(-1), end.stderr]).toEqual([0, '6 rounds of 6 were good', '']);
});

/** Some of the inputs of `npm run fuzz`. */
test('inputs that were changed at random crash nothing, and give no figure outside its domain', () => {
  const end = spawnSync(process.execPath, [join(ROOT, 'scripts', 'fuzz.mjs'), '1500', '1'], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  expect([end.status, end.stdout.trim()]).toEqual([0, expect.stringMatching(/^1,500 inputs: 0 bad; slowest \d+ ms$/)]);
});
