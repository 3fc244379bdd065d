/**
 * How often the verdict is right, over 1,000 seeded series of each shape and length: `node
 * packages/core/bench/verdicts.bench.mjs [--write]`. Beside it an oracle that knows of which family the shape is, and
 * fits that family alone. With --write the tables go to docs/verdicts.md.
 */
import { writeFileSync } from 'node:fs';
import { judgeSeries } from '../dist/index.js';

const MIB = 1048576;
const SERIES = 1000;
const LENGTHS = [8, 12, 20, 40, 100];
const GAP_MS = 2000;
const FLAT = ['steady', 'settled'];

/**
 * What an oracle fits: a line from the start, a line from a bend that it looks for, or a level after a break that it
 * looks for.
 */
const [LINE, BENT, LEVEL] = ['line', 'bent', 'level'];

/**
 * Each shape: its name, which verdicts are right, its family, and the floor in MiB at `share` of the recording. `z`
 * gives standard normal values,
 * `memory` is an object of the series, `u` gives numbers from 0 to 1.
 */
const SHAPES = [
  ['steady, with noise of 1 %', FLAT, LINE, (_, z) => 40 + 0.4 * z()],
  ['steady, with noise of 10 %', FLAT, LINE, (_, z) => 40 + 4 * z()],
  ['steady, noise of 2 % that drifts (ρ = 0.7)', FLAT, LINE, (_, z, memory) => 40 + drift(memory, 0.7, 0.8, z)],
  ['steady, noise of 2 % that drifts slowly (ρ = 0.9)', FLAT, LINE, (_, z, memory) => 40 + drift(memory, 0.9, 0.8, z)],
  ['steady, a point in twenty stands out by half', FLAT, LINE, (_, z, __, u) => 40 + 0.4 * z() + (u() < 0.05 ? 20 : 0)],
  ['steady, in steps of 2 MiB', FLAT, LINE, (_, z) => 2 * Math.round((21 + 0.8 * z()) / 2)],
  ['a slow leak: +20 % over the recording, noise of 1 %', ['growing'], LINE, (share, z) => 40 + 8 * share + 0.4 * z()],
  [
    'a slow leak under a heavy sawtooth: +20 %, noise of 5 %',
    ['growing'],
    LINE,
    (share, z) => 40 + 8 * share + 2 * z(),
  ],
  [
    'a slow leak: +20 %, noise of 2 % that drifts (ρ = 0.7)',
    ['growing'],
    LINE,
    (share, z, memory) => 40 + 8 * share + drift(memory, 0.7, 0.8, z),
  ],
  ['a fast leak: × 9', ['growing'], LINE, (share, z) => 10 + 80 * share + z()],
  ['two leaks of 2 : 1', ['growing'], LINE, (share, z) => 40 + 12 * share + 0.6 * z()],
  ['a leak in whole MiB: +20 %', ['growing'], LINE, (share, z) => Math.round(20 + 4 * share + 0.2 * z())],
  ['a leak in steps of 2 MiB: × 2', ['growing'], LINE, (share, z) => 2 * Math.round((20 + 20 * share + 0.3 * z()) / 2)],
  [
    'a leak with an idle gap',
    ['growing'],
    BENT,
    (share, z) => 20 + 20 * (share < 0.4 ? share : share < 0.7 ? 0.4 : share - 0.3) + 0.2 * z(),
  ],
  ['a leak that begins half way', ['growing'], BENT, (share, z) => 20 + 30 * Math.max(0, share - 0.5) + 0.4 * z()],
  [
    'a start-up, then a leak of 20 %',
    ['growing'],
    BENT,
    (share, z) => (share < 0.1 ? 5 + 200 * share : 25 + 5.5 * (share - 0.1)) + 0.3 * z(),
  ],
  [
    'five equal steps (with one or two points a step: growing)',
    ['stepping', 'growing'],
    LINE,
    (share, z) => 20 + 5 * Math.floor(share * 5.999) + 0.2 * z(),
  ],
  [
    'eight steps after a start-up',
    ['stepping', 'growing'],
    LINE,
    (share, z) => (share < 0.05 ? 5 : 20) + 3 * Math.floor(share * 8.999) + 0.2 * z(),
  ],
  ['one step half way', FLAT, LEVEL, (share, z) => (share < 0.5 ? 20 : 26) + 0.3 * z()],
  ['a start-up that ends at once', FLAT, LEVEL, (share, z) => (share < 0.15 ? 5 + 133 * share : 25) + 0.4 * z()],
  ['a warm-up that settles', FLAT, LEVEL, (share, z) => 40 - 25 * Math.exp(-share * 12) + 0.2 * z()],
  ['a cache that fills to its bound', FLAT, LEVEL, (share, z) => Math.min(30, 10 + 60 * share) + 0.2 * z()],
  ['what lives rises and falls three times', FLAT, LEVEL, (share, z) => 20 + 20 * ((share * 3.3) % 1) + 0.4 * z()],
  ['a heap that shrinks: −30 %', ['shrinking'], LINE, (share, z) => 40 - 12 * share + 0.4 * z()],
];

function drift(memory, rho, deviation, z) {
  memory.level =
    memory.level === undefined ? deviation * z() : rho * memory.level + Math.sqrt(1 - rho * rho) * deviation * z();
  return memory.level;
}

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

/** Floor points two seconds apart, printed in KiB; of a program that had run before. */
function seriesOf(level, points, seed) {
  const u = mulberry(seed);
  const z = normal(u);
  const memory = {};
  const tMs = Float64Array.from({ length: points }, (_, n) => (n + 1) * GAP_MS);
  return {
    tMs,
    bytes: tMs.map((_, n) => Math.round((Math.max(0.1, level(n / (points - 1), z, memory, u)) * MIB) / 1024) * 1024),
  };
}

/**
 * The oracle: least squares of its family with noise that may have memory of first order, and the same bounds: growth
 * of 5 % told at 1 %, a flat level at most 15 % of which may hide growth.
 */
function oracle({ tMs, bytes }, family, right) {
  const x = Array.from(tMs, (t) => t / 1000);
  const y = Array.from(bytes);
  const from = family === LINE ? 0 : bestBreak(x, y);
  const fit = lineOf(x.slice(from), y.slice(from));
  const seconds = x[x.length - 1] - x[from];
  const level = mean(y.slice(from));
  const [low, high] = [fit.slope - 2.58 * fit.error, fit.slope + 2.58 * fit.error];
  if (low > 0 && fit.slope * seconds > 0.05 * level)
    return right.includes('growing') || right.includes('stepping') ? 'right' : 'wrong';
  if (high < 0 && -fit.slope * seconds > 0.05 * level) return right.includes('shrinking') ? 'right' : 'wrong';
  if (high * seconds <= 0.15 * level) return right.includes('steady') ? 'right' : 'wrong';
  return 'unclear';
}

function bestBreak(x, y) {
  let [best, from] = [Infinity, 0];
  for (let at = 4; at <= x.length - 4; at++) {
    const rss = lineOf(x.slice(0, at), y.slice(0, at)).rss + lineOf(x.slice(at), y.slice(at)).rss;
    if (rss < best) [best, from] = [rss, at];
  }
  return from;
}

function mean(values) {
  return values.reduce((sum, each) => sum + each, 0) / values.length;
}

function lineOf(x, y) {
  const [mx, my] = [mean(x), mean(y)];
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    xx += (x[i] - mx) ** 2;
    xy += (x[i] - mx) * (y[i] - my);
    yy += (y[i] - my) ** 2;
  }
  const slope = xy / xx;
  const rss = Math.max(0, yy - slope * xy);
  return {
    slope,
    rss,
    error: Math.sqrt((memoryOf(x, y, slope, my - slope * mx) * rss) / Math.max(1, x.length - 2) / xx),
  };
}

/** Whether noise remembers, the oracle has to find out too: the bias of having fitted a line is given back. */
function memoryOf(x, y, slope, at) {
  const left = y.map((value, i) => value - at - slope * x[i]);
  const n = left.length;
  let [cross, power] = [0, 1e-9];
  for (let i = 0; i < n; i++) {
    power += left[i] ** 2;
    if (i > 0) cross += left[i] * left[i - 1];
  }
  const rho = n > 4 ? Math.min(0.95, ((n * cross) / power + 2) / (n - 4)) : 0;
  return rho > 0 ? (1 + rho) / (1 - rho) : 1;
}

const percent = (count) => `${((100 * count) / SERIES).toFixed(count > 0 && count < SERIES / 100 ? 1 : 0)} %`;
const lines = [
  `| shape | right is | ${LENGTHS.map((points) => `${points} points`).join(' | ')} |`,
  `| --- | --- |${LENGTHS.map(() => ' --- |').join('')}`,
];
let [worst, where] = [0, ''];
for (const [name, right, family, level] of SHAPES) {
  const cells = LENGTHS.map((points) => {
    let [good, unclear, knows] = [0, 0, 0];
    for (let seed = 1; seed <= SERIES; seed++) {
      const series = seriesOf(level, points, seed * 7919 + points);
      const { kind } = judgeSeries(series);
      if (right.includes(kind)) good++;
      else if (kind === 'unclear') unclear++;
      if (oracle(series, family, right) === 'unclear') knows++;
    }
    const wrong = SERIES - good - unclear;
    if (points >= 12 && wrong / SERIES > worst) [worst, where] = [wrong / SERIES, `${name}, ${points} points`];
    return `${percent(good)} / ${percent(unclear)} / ${percent(wrong)}; ${percent(knows)}`;
  });
  lines.push(`| ${name} | ${right.join(', ')} | ${cells.join(' | ')} |`);
  process.stdout.write(`${lines[lines.length - 1]}\n`);
}
process.stdout.write(`\nwrong at most, with 12 points and more: ${(100 * worst).toFixed(1)} % (${where})\n`);

if (process.argv.includes('--write')) {
  writeFileSync(
    new URL('../../../docs/verdicts.md', import.meta.url),
    `# How often the verdict is right

Over ${SERIES.toLocaleString('en')} seeded series of each shape and length (\`node packages/core/bench/verdicts.bench.mjs --write\` makes this page): floor points of
whole-heap collections two seconds apart, of a program that had run before. Each cell is *right / unclear / wrong*, and behind the semicolon how often
an oracle would be unclear that is told of which family the shape is (a line; a line after a break; a level after a break) and fits
that alone, by least squares; whether the noise remembers, it has to find out from the points as well. A confident wrong verdict is the worst; *unclear* says what is missing. With 12 points and
more, at most ${(100 * worst).toFixed(1)} % of any cell are wrong.

Where we are unclear and the oracle is not, what the points cannot tell apart is the family itself: a short warm-up from a slow leak, noise that drifts from
a trend. How often the oracle is wrong its column does not show.

${lines.join('\n')}
`,
  );
}
