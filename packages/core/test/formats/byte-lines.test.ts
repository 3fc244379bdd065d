import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { InputReader } from '../../src/formats/input-reader.ts';
import type { Recording } from '../../src/model/recording.ts';
import { seeded } from '../seeded.ts';

const OWN = join(__dirname, '../../../../examples/logs');
const CORPUS = join(__dirname, '../../../../../shared/corpus/logs');
/** A longer one is read up to here: it says the same things again. */
const MOST_BYTES = 1 << 20;
const MUTANTS = 25;

const logs = [OWN, ...(existsSync(CORPUS) ? [CORPUS] : [])].flatMap((folder) =>
  readdirSync(folder)
    .filter((name) => name.includes('.log'))
    .map((name) => join(folder, name)),
);
if (!existsSync(CORPUS)) console.log('skipped: logs of the corpus are not here');

function bytesOf(file: string): Buffer {
  const bytes = readFileSync(file);
  return (file.endsWith('.gz') ? gunzipSync(bytes) : bytes).subarray(0, MOST_BYTES);
}

/** Every figure, word and issue that was read. */
function told(chunks: Iterable<Uint8Array>): unknown {
  const reader = new InputReader();
  for (const chunk of chunks) {
    reader.write(chunk);
    // What is held until the format is known is read as one chunk.
    if (reader.runs.length === 0) reader.lookNow();
  }
  const result = reader.end();
  return result.ok ? result.runs.map(toldOf) : result.code;
}

function toldOf(run: Recording): unknown {
  const { startEpochMs, durationMs, runtime, collector, lines, bytes, hasClock, heaps, issues } = run;
  const tables = Object.entries(run.tables).map(([name, { length, col }]) => [
    name,
    Object.entries<ArrayLike<number>>(col).map(([column, values]) => [
      column,
      Array.from(values)
        .slice(0, length)
        .map((value) => (/(?:label|cause|name|operation|thread)Id$/.test(column) ? run.strings.text(value) : value)),
    ]),
  ]);
  return { startEpochMs, durationMs, runtime, collector, lines, bytes, hasClock, heaps, issues: { ...issues }, tables };
}

/** Each line in two pieces: what is cut by a chunk's end is read as a text. */
function* asTexts(bytes: Uint8Array): Generator<Uint8Array> {
  for (let from = 0; from < bytes.length;) {
    const newline = bytes.indexOf(10, from);
    const to = newline < 0 ? bytes.length : newline + 1;
    const middle = from + ((to - from) >> 1);
    yield bytes.slice(from, middle);
    yield bytes.slice(middle, to);
    from = to;
  }
}

test.each(logs.map((file) => [file.split('/').pop()!, file]))(
  '%s says the same, read as bytes and as texts',
  (_, file) => {
    const bytes = bytesOf(file);
    expect(told([bytes])).toEqual(told(asTexts(bytes)));
  },
);

const jvmLogs = logs.filter((file) => /jdk|weirkeeper/.test(file));
const otherLogs = logs.filter((file) => /tracegc|profiler|gctrace|debugstats/.test(file));

test.each([
  [1, jvmLogs],
  [2, jvmLogs],
  [3, jvmLogs],
  [4, jvmLogs],
  ...(otherLogs.length > 0 ? ([5, 6, 7].map((seed) => [seed, otherLogs]) as [number, string[]][]) : []),
])('damaged lines say the same, read as bytes and as texts (%i)', (seed, damaged) => {
  const random = seeded(seed);
  const pick = (count: number): number => Math.floor(random() * count);
  const PIECES = [
    '',
    ' ',
    ']',
    '[',
    '][',
    '] GC(1) ',
    '-',
    '->',
    'ms',
    's',
    '.',
    '9',
    '0',
    'K',
    '\r',
    '\0',
    'GC(',
    'Pause ',
    'é',
    ')',
    '(',
    '"',
    ':',
    ',',
    '{',
    '}',
    '\\',
    'null',
    'e5',
    '-0',
    ' (reduce)',
    '<--- ',
    '"GC_FLAGS":{"major_by":null},',
    '"message":"x",',
    '"GC_TIME":0.5,',
    '%)',
    'y: ',
    'Used: ',
    ' of ',
    ' Stall (',
    'java.lang.OutOfMemoryError',
    'Garbage Collection (',
    'Heap: ',
    '[12ms]',
    '2026-11-23T05:55:13.577+0000',
    ' (forced)',
    'gc: ',
    '\t',
  ];
  for (let mutant = 0; mutant < MUTANTS; mutant++) {
    const lines = bytesOf(damaged[pick(damaged.length)]!).toString('latin1').split('\n');
    const from = pick(lines.length);
    const some = lines.slice(from, from + 300);
    for (let change = 0; change < 60; change++) {
      const at = pick(some.length);
      const line = some[at]!;
      const place = pick(line.length + 1);
      some[at] = line.slice(0, place) + PIECES[pick(PIECES.length)]! + line.slice(place + pick(4));
      if (random() < 0.1) some.splice(at, 0, some[pick(some.length)]!.slice(0, place));
    }
    const bytes = Buffer.from([...lines.slice(0, 20), ...some].join('\n'), 'latin1');
    expect(told([bytes])).toEqual(told(asTexts(bytes)));
  }
});

test('a label of megabytes, letters beyond ASCII, and batches that say the same twice are read as texts are', () => {
  const head = '[0.001s][info][gc] Using G1\n';
  const long = `[1.000s][info][gc] GC(0) Pause Young (${'x'.repeat(3 << 20)}) 6M->2M(64M) 1.5ms\n`;
  const odd = '[2.000s][info][gc] GC(1) Pause Young (\x80\x93\xe9) 6M->2M(64M) 1.5ms\n';
  expect(told([Buffer.from(head + long + odd, 'latin1')])).toEqual(
    told(asTexts(Buffer.from(head + long + odd, 'latin1'))),
  );
  // Exactly one batch, again and again: the line that was cut off stands in each.
  const cut = '[3.000s][info][gc] GC(2) Pause Yo[3.001s][info][gc] GC(3) Pause Young (Normal) 6M->2M(64M) 1.5ms\n';
  const quiet = '[3.000s][info][gc,task] GC(2) Using 2 workers of 2\n';
  const batch = Buffer.from((cut + quiet.repeat(1400)).slice(0, (1 << 16) - 1) + '\n', 'latin1');
  const twice = [Buffer.from(head), batch, batch, batch];
  expect(told(twice)).toEqual(told(asTexts(Buffer.concat(twice))));
});

test('a line that is too long says the same, however it comes', () => {
  const line = (more: string): string =>
    `{"GC_FLAGS":{"major_by":null,"gc_by":"newobj"},"GC_TIME":0.001,"GC_INVOKE_TIME":0.5,"HEAP_USE_SIZE":700000,"HEAP_TOTAL_SIZE":900000${more}}\n`;
  const members = Array.from({ length: 400_000 }, (_, n) => `,"m${n}":${n}`).join('');
  const bytes = Buffer.from(line('') + line(members) + line(''), 'latin1');
  expect(bytes.length).toBeGreaterThan(5 << 20);
  expect(told([bytes])).toEqual(told(asTexts(bytes)));
});
