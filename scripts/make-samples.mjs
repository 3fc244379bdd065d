/** Records the finished sample recordings from the programs in examples/ anew: `node scripts/make-samples.mjs`. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { build, install, root } from './bootstrap.mjs';

install({ loud: true });
build({ loud: true });
const { writeRecordingHeader } = await import('../packages/core/dist/index.js');

const TIDEWATCH = {
  folder: 'tidewatch',
  options: ['--name', 'tidewatch', '--exact'],
  command: [process.execPath, '--max-old-space-size=256', 'src/tidewatch.js'],
};
/** A fixed heap, so that the recorder's own collections do not make the collector resize it. */
const WEIRKEEPER = {
  folder: 'weirkeeper',
  options: ['--name', 'weirkeeper', '--interval', '131072', '--collect', '3'],
  command: ['java', '-XX:+UseG1GC', '-Xms192m', '-Xmx192m', 'Weirkeeper.java'],
};
const SAMPLES = [
  // Marks at every reconnect of all gauges: rounds are counted at their ends.
  ['tidewatch with its leak and churn', withOptions(TIDEWATCH, '--collect-at-marks'), ['--seconds', '90']],
  ['tidewatch fixed', TIDEWATCH, ['--fixed', '--seconds', '90']],
  // What comes and goes within seconds, and a step every ten, is told by several floor points each; a step by many
  // samples.
  [
    'tidewatch with its bulletins cached',
    withOptions(TIDEWATCH, '--floor-every', '1000', '--interval', '16384'),
    ['--faults', 'bulletins', '--seconds', '110'],
  ],
  ['tidewatch with nothing but churn', TIDEWATCH, ['--faults', 'churn', '--seconds', '60']],
  ['tidewatch with its window', TIDEWATCH, ['--faults', 'window', '--seconds', '60']],
  [
    'tidewatch with its spectrum',
    withOptions(TIDEWATCH, '--floor-every', '1000'),
    ['--faults', 'spectrum', '--seconds', '85'],
  ],
  ['weirkeeper with its faults', WEIRKEEPER, ['60']],
  ['weirkeeper fixed', WEIRKEEPER, ['60', '--fixed']],
  [
    'tidewatch with inventories',
    withOptions(TIDEWATCH, '--inventory-at', 'reconnect'),
    ['--faults', 'subscription', '--seconds', '24'],
  ],
  ['weirkeeper with an inventory', withOptions(WEIRKEEPER, '--inventory-at', '12%'), ['40']],
];
function withOptions(program, ...options) {
  return { ...program, options: [...program.options, ...options] };
}

/** Names of some samples, to make only those: `node scripts/make-samples.mjs weirkeeper`. */
const wanted = process.argv.slice(2);

for (const [name, program, args] of SAMPLES) {
  if (wanted.length > 0 && !wanted.some((part) => name.includes(part))) continue;
  const file = join(mkdtempSync(join(tmpdir(), 'heron-sample-')), 'stream.ndjson');
  process.stderr.write(`recording "${name}" …\n`);
  // Paths are told relative to the program's folder, so that a sample says nothing of the machine it was made on.
  const end = spawnSync(
    process.execPath,
    [
      join(root, 'scripts', 'heron.mjs'),
      'record',
      '--out',
      file,
      ...program.options,
      '--',
      ...program.command,
      ...args,
    ],
    { cwd: join(root, 'examples', program.folder), stdio: 'inherit' },
  );
  if (end.status !== 0) throw new Error(`recording ended with ${end.status}`);
  const lines = Buffer.from(readFileSync(file, 'utf8').replaceAll(`file://${root}/`, 'file:///saltmarsh/'));
  const header = writeRecordingHeader({
    name,
    createdEpochMs: Date.now(),
    parts: [{ name: 'stream.ndjson', bytes: lines.length }],
  });
  mkdirSync(join(root, 'examples', 'recordings'), { recursive: true });
  writeFileSync(
    join(root, 'examples', 'recordings', `${name.replaceAll(' ', '-')}.heron`),
    gzipSync(Buffer.concat([Buffer.from(header), lines]), { level: 9 }),
  );
}
