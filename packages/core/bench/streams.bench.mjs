/** Reading the open stream, against splitting the same text into lines and parsing each as JSON. */
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { InputReader } from '../dist/index.js';
import { medianMs, report } from './measure.mjs';

const A_LINE = 3000;
const SAMPLES = new URL('../../../examples/recordings/', import.meta.url);

function textOf(objects, paths) {
  const lines = [];
  const add = (line) => lines.push(JSON.stringify({ h: '1.0', ...line }));
  const numbers = (length, of) => Array.from({ length }, (_, n) => of(n));
  add({
    k: 'hello',
    schema: 'brisk-heron/stream@1',
    epochMs: 0,
    program: 'tidewatch',
    runtime: 'a runtime of its own 1.0',
    collector: 'V8',
  });
  add({ k: 'phase', t: 0, kind: 'objects' });
  add({
    k: 'frames',
    first: 0,
    fn: numbers(paths, (n) => `tide${n}`),
    file: numbers(paths, (n) => `/srv/saltmarsh/tide${n % 40}.js`),
    line: numbers(paths, (n) => n + 1),
    col: numbers(paths, () => 1),
  });
  add({ k: 'paths', first: 0, parent: numbers(paths, (n) => n - 1), frame: numbers(paths, (n) => n) });
  add({ k: 'types', first: 0, name: numbers(60, (n) => `Type${n}`) });
  for (let first = 0; first < objects; first += A_LINE) {
    const from = first / 10;
    const ids = numbers(Math.min(A_LINE, objects - first), (n) => first + n);
    add({
      k: 'born',
      from,
      to: from + A_LINE / 10,
      id: ids,
      path: ids.map((id) => (id * 7919) % paths),
      size: ids.map((id) => 16 + 8 * (id % 77)),
      at: ids.map((id) => id / 10),
      p: ids.map(() => 0.5),
      type: ids.map((id) => id % 60),
    });
    add({ k: 'died', from, to: from + A_LINE / 10, id: ids.filter((id) => id % 10 !== 0) });
  }
  return `${lines.join('\n')}\n`;
}

// As they were recorded: many lines of other kinds between those of objects. Of so few the first runs are of cold code.
for (const sample of ['tidewatch-with-its-leak-and-churn', 'weirkeeper-fixed', 'tidewatch-with-inventories']) {
  const recorded = gunzipSync(readFileSync(new URL(`${sample}.heron`, SAMPLES))).toString();
  against(sample, recorded.slice(recorded.indexOf('\n') + 1), 21);
}
for (const [objects, paths] of [
  [100_000, 400],
  [1_000_000, 400],
  [4_000_000, 40_000],
]) {
  const of = `${objects.toLocaleString('en')} objects${paths > 1000 ? ` of ${paths.toLocaleString('en')} paths` : ''}`;
  against(of, textOf(objects, paths), 3);
}

function against(of, text, times) {
  const bytes = new TextEncoder().encode(text);
  const baselineMs = medianMs(
    () => text.split('\n').reduce((count, line) => count + (line === '' ? 0 : Object.keys(JSON.parse(line)).length), 0),
    times,
  );
  report(`JSON of each line, ${of}`, baselineMs, baselineMs, `${(bytes.length / 2 ** 20).toFixed(1)} MiB`);
  report(
    `reading ${of}`,
    medianMs(() => {
      const reader = new InputReader();
      for (let at = 0; at < bytes.length; at += 2 ** 20)
        reader.write(bytes.subarray(at, Math.min(bytes.length, at + 2 ** 20)));
      if (!reader.end().ok) throw new Error('the stream was refused');
    }, times),
    baselineMs,
  );
}
