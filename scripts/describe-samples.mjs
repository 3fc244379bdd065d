/**
 * Writes `samples.json` beside the sample recordings: what each is called, what there is to find in it, and its memory
 * over time, counted from the recording: `node scripts/describe-samples.mjs`.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './bootstrap.mjs';
import { describeSample } from './sample-strip.mjs';

const FOLDER = join(root, 'examples', 'recordings');
const SAMPLES = [
  [
    'tidewatch-with-its-leak-and-churn.heron',
    'Tidewatch with its leak and churn',
    'A Node service whose memory climbs: one line keeps what it should let go of, another makes most of the garbage.',
  ],
  [
    'tidewatch-fixed.heron',
    'Tidewatch, fixed',
    'The same service after both were mended: the floor stays where it is.',
  ],
  [
    'tidewatch-with-its-bulletins-cached.heron',
    'Tidewatch with its bulletins cached',
    'Memory climbs in steps, one for every report period: what is put into a cache and never taken out?',
  ],
  [
    'tidewatch-with-its-window.heron',
    'Tidewatch with its sliding window',
    'Nothing grows, and collecting costs more than it need: readings die just after they were promoted.',
  ],
  [
    'tidewatch-with-its-spectrum.heron',
    'Tidewatch with its spectrum',
    'One burst of a few seconds that allocates more than all the rest: which line copies a month of levels?',
  ],
  [
    'tidewatch-with-nothing-but-churn.heron',
    'Tidewatch with nothing but churn',
    'A steady floor and a busy collector: who makes it work?',
  ],
  [
    'weirkeeper-with-its-faults.heron',
    'Weirkeeper with its faults',
    'A JVM with several faults at once: types that move together, listeners that are never removed, and churn.',
  ],
  ['weirkeeper-fixed.heron', 'Weirkeeper, fixed', 'The same JVM after its faults were mended.'],
  [
    'tidewatch-with-inventories.heron',
    'Tidewatch with inventories',
    'Every object of a Node service at two moments: what keeps them, and what only grows?',
  ],
  [
    'weirkeeper-with-an-inventory.heron',
    'Weirkeeper with an inventory',
    'Every object of a JVM, with the lines that allocated them: which reference would have to go?',
  ],
];

const samples = SAMPLES.map(([file, title, about]) => ({
  file,
  title,
  about,
  ...describeSample(readFileSync(join(FOLDER, file))),
}));
writeFileSync(
  join(FOLDER, 'samples.json'),
  `{\n  "samples": [\n${samples.map((sample) => `    ${JSON.stringify(sample)}`).join(',\n')}\n  ]\n}\n`,
);
