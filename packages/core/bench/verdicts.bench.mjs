/**
 * How often the verdict is right, over 1,000 seeded series of each shape and length: `node packages/core/bench/verdicts.bench.mjs [--write]`.
 * With --write the table goes to docs/verdicts.md.
 */
import { writeFileSync } from 'node:fs';
import { CollectionFlag, judge, Recording, Scope, wholeSpan } from '../dist/index.js';

const MIB = 1048576;
const SERIES = 1000;
const LENGTHS = [8, 12, 20, 40, 100];
const GAP_MS = 2000;

/** Floor in MiB at `share` of the recording; `noise` gives standard normal values; which verdicts are right. */
const SHAPES = [
  ['steady, with noise of 1 %', ['steady'], (_, noise) => 40 + 0.4 * noise()],
  ['steady, with noise of 10 %', ['steady'], (_, noise) => 40 + 4 * noise()],
  ['a slow leak: +20 % over the recording, noise of 1 %', ['growing'], (share, noise) => 40 + 8 * share + 0.4 * noise()],
  ['a slow leak under a heavy sawtooth: +20 %, noise of 5 %', ['growing'], (share, noise) => 40 + 8 * share + 2 * noise()],
  ['a fast leak: × 9', ['growing'], (share, noise) => 10 + 80 * share + noise()],
  ['a leak that begins half way', ['growing'], (share, noise) => 20 + 30 * Math.max(0, share - 0.5) + 0.4 * noise()],
  ['five equal steps (with one or two points a step: growing)', ['stepping', 'growing'], (share, noise) => 20 + 5 * Math.floor(share * 5.999) + 0.2 * noise()],
  ['one step half way', ['settled', 'steady'], (share, noise) => (share < 0.5 ? 20 : 26) + 0.3 * noise()],
  ['a warm-up that settles', ['settled', 'steady'], (share, noise) => 40 - 25 * Math.exp(-share * 12) + 0.2 * noise()],
  ['a cache that fills to its bound', ['settled', 'steady'], (share, noise) => Math.min(30, 10 + 60 * share) + 0.2 * noise()],
  ['a heap that shrinks: −30 %', ['shrinking'], (share, noise) => 40 - 12 * share + 0.4 * noise()],
  ['a flat floor with one peak', ['bursting', 'steady'], (_, noise) => 20 + 0.2 * noise(), (n, points) => (n === points >> 1 ? 80 : 0)],
  ['a steady heap that is made larger half way', ['steady'], (_, noise) => 20 + 0.3 * noise(), (n, points) => (n > points / 2 ? 15 : 0)],
];

function mulberry(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

function normal(random) {
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** A recording of whole collections, one every two seconds, each with its pause. */
function recordingOf(level, peak, points, seed) {
  const noise = normal(mulberry(seed));
  const recording = new Recording('recording');
  recording.addHeap('main');
  const { collections, pauses } = recording.tables;
  const label = recording.intern('whole');
  for (let n = 0; n < points; n++) {
    const after = Math.max(1, level(n / (points - 1), noise)) * MIB;
    const before = after + (9 + (peak?.(n, points) ?? 0)) * MIB;
    const startMs = (n + 1) * GAP_MS;
    const row = collections.addRow();
    Object.entries({ startMs, endMs: startMs + 20, usedBeforeBytes: before, usedAfterBytes: after, labelId: label, scope: Scope.whole, flags: CollectionFlag.own }).forEach(([name, value]) => { collections.col[name][row] = value; });
    const pause = pauses.addRow();
    Object.entries({ startMs, durationMs: 20, usedBeforeBytes: before, usedAfterBytes: after, collectionRow: row, labelId: label, scope: Scope.whole }).forEach(([name, value]) => { pauses.col[name][pause] = value; });
    recording.reach(startMs + 20);
  }
  return recording;
}

const percent = (count) => `${((100 * count) / SERIES).toFixed(count > 0 && count < SERIES / 100 ? 1 : 0)} %`;
const lines = [`| shape | right is | ${LENGTHS.map((points) => `${points} points`).join(' | ')} |`, `| --- | --- |${LENGTHS.map(() => ' --- |').join('')}`];
for (const [name, right, level, peak] of SHAPES) {
  const cells = LENGTHS.map((points) => {
    let good = 0;
    let unclear = 0;
    for (let seed = 1; seed <= SERIES; seed++) {
      const recording = recordingOf(level, peak, points, seed * 7919 + points);
      const { kind } = judge(recording, wholeSpan(recording));
      if (right.includes(kind)) good++;
      else if (kind === 'unclear') unclear++;
    }
    return `${percent(good)} / ${percent(unclear)} / ${percent(SERIES - good - unclear)}`;
  });
  lines.push(`| ${name} | ${right.join(', ')} | ${cells.join(' | ')} |`);
  process.stdout.write(`${lines[lines.length - 1]}\n`);
}

if (process.argv.includes('--write')) {
  writeFileSync(new URL('../../../docs/verdicts.md', import.meta.url), `# How often the verdict is right

Over ${SERIES.toLocaleString('en')} seeded series of each shape and length (\`node packages/core/bench/verdicts.bench.mjs --write\` makes this page): floor points of
whole-heap collections two seconds apart. Each cell is *right / unclear / wrong*. A confident wrong verdict is the worst; *unclear*
says what is missing.

${lines.join('\n')}
`);
}
