import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { groupParts, type PartFile } from '../../src/formats/part-groups.ts';

const root = join(dirname(fileURLToPath(import.meta.url)), '../../../..');
const LOGS = join(root, 'examples/logs');
const CORPUS = join(root, '../shared/corpus/logs');

function part(name: string, text: string): PartFile {
  return { name, bytes: text.length, head: text.slice(0, 65_536), tail: text.slice(-65_536) };
}

function sample(name: string, from = LOGS): PartFile {
  return part(name, readFileSync(join(from, name), 'latin1'));
}

test('the parts of one log are one run, in order of time, whatever their names', () => {
  const text = readFileSync(join(LOGS, 'weirkeeper-g1.log'), 'latin1');
  const cut = [0.3, 0.7].map((share) => text.indexOf('\n', Math.floor(text.length * share)) + 1);
  const parts = [
    part('x', text.slice(cut[1])),
    part('y', text.slice(0, cut[0])),
    part('z', text.slice(cut[0], cut[1])),
  ];
  expect(groupParts(parts)).toEqual([{ files: [1, 2, 0], copies: [] }]);
});

test('logs of three programs are three runs, and a copy is no part', () => {
  const files = [
    'weirkeeper-g1.log',
    'weirkeeper-parallel.log',
    'weirkeeper-serial.log',
    'weirkeeper-g1.log',
    'weirkeeper-g1.log',
  ].map((name) => sample(name));
  const groups = groupParts(files);
  expect(groups.map(({ files: of }) => of.length)).toEqual([1, 1, 1]);
  expect(groups.flatMap(({ copies }) => copies).sort()).toEqual([3, 4]);
});

test('recordings are never put together; a part of a stream goes with its beginning', () => {
  const hello = (h: string): string =>
    `{"k":"hello","schema":"brisk-heron/stream@1","h":"${h}","epochMs":1,"program":"p","runtime":"Node.js"}\n`;
  const rest = '{"k":"gc","h":"7.0","t":10,"ms":1,"scope":"young","label":"scavenge"}\n';
  expect(
    groupParts([part('a.ndjson', hello('7.0')), part('b.ndjson', hello('8.0')), part('c.ndjson', rest)]).map(
      ({ files }) => files,
    ),
  ).toEqual([[0, 2], [1]]);
  expect(groupParts([part('a.ndjson', hello('7.0')), part('b.ndjson', `${hello('7.0')}${rest}`)])).toHaveLength(2);
});

test('traces of two processes are two runs; without any clock, names tell', () => {
  const trace = (pid: number, ms: number): string =>
    `[${pid}:0x1]      ${ms} ms: Scavenge 4.2 (5.5) -> 3.4 (6.5) MB, 0.8 / 0.0 ms  (average mu = 1.000, current mu = 1.000) allocation failure; \n`;
  expect(groupParts([part('a', trace(1, 50)), part('b', trace(2, 90))])).toHaveLength(2);
  expect(groupParts([part('a', trace(1, 90)), part('b', trace(1, 50))]).map(({ files }) => files)).toEqual([[1, 0]]);
  const bare = 'gc: collecting generation 0...\n';
  expect(groupParts([part('gc.log.0', bare), part('gc.log.1', `${bare}x`)])).toHaveLength(1);
  expect(groupParts([part('one.log', bare), part('two.log', `${bare}x`)])).toHaveLength(2);
});

const SETS: Readonly<Record<string, readonly string[]>> = {
  'jdk17-g1-rotated.log': ['.0', '.1', ''],
  'jdk17-g1-rotatedwrap.log': ['.0', '.1', '.2', ''],
  'jdk17-parallel-rotated.log': ['.0', '.1', ''],
  'jdk25-parallel-rotatedwrap.log': ['.0', '.1', '.2', ''],
  'jdk25-z-rotated.log': ['.0', '.1', '.2', '.3', ''],
};

(existsSync(CORPUS) ? test : test.skip)('rotated logs that were dropped all at once fall into their runs', () => {
  const names = Object.entries(SETS)
    .flatMap(([base, ends]) => ends.map((end) => `${base}${end}`))
    .sort();
  const groups = groupParts(names.map((name) => sample(name, CORPUS)));
  expect(groups.map(({ files }) => files.map((file) => names[file]!)).sort()).toEqual(
    Object.entries(SETS)
      .map(([base, ends]) => ends.map((end) => `${base}${end}`))
      .sort(),
  );
});
