/** How long a short command takes, against a start of the runtime that does nothing. */
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { medianMs, report } from '../../core/bench/measure.mjs';

const inRoot = (path) => fileURLToPath(new URL(`../../../${path}`, import.meta.url));
const run = (...args) => {
  const { status, stderr } = spawnSync(process.execPath, args, {
    stdio: ['ignore', 'ignore', 'pipe'],
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
};
const heron = inRoot('scripts/heron.mjs');
const baselineMs = medianMs(() => run('-e', '0'), 9);
report('start of the runtime alone', baselineMs, baselineMs);
report(
  'heron --help',
  medianMs(() => run(heron, '--help'), 5),
  baselineMs,
);
const log = inRoot('examples/logs/weirkeeper-serial.log');
report(
  'heron analyze of a small log, --json',
  medianMs(() => run(heron, 'analyze', log, '--json'), 9),
  baselineMs,
);
