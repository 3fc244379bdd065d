import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { InputReader } from '../../src/formats/input-reader.ts';
import { StreamLineBytes } from '../../src/formats/stream/line-bytes.ts';
import { StreamParser } from '../../src/formats/stream/stream-parser.ts';
import type { Recording } from '../../src/model/recording.ts';
import { seeded } from '../seeded.ts';

const SAMPLES = join(__dirname, '../../../../examples/recordings');

/** Lines of a sample, without the header of its file. */
function linesOf(name: string): string[] {
  return gunzipSync(readFileSync(join(SAMPLES, name)))
    .toString('utf8')
    .split('\n')
    .slice(1)
    .filter((line) => line !== '');
}

/** Every figure and issue that was read; where a line stands is left out, for a blank more behind it moves the next. */
function told(lines: readonly string[]): unknown {
  const reader = new InputReader();
  reader.write(Buffer.from(`${lines.join('\n')}\n`));
  const result = reader.end();
  return result.ok ? result.runs.map(toldOf) : result.code;
}

function toldOf({ tables, issues, durationMs, heaps }: Recording): unknown {
  const columns = Object.entries(tables).map(([name, { length, col }]) => [
    name,
    Object.entries<ArrayLike<number>>(col)
      .filter(([column]) => column !== 'byteOffset')
      .map(([column, values]) => [column, Array.prototype.slice.call(values, 0, length).join(' ')]),
  ]);
  const all = JSON.parse(JSON.stringify(issues)) as unknown;
  return { columns, durationMs, heaps, issues: JSON.stringify(all).replace(/"byteOffset":\d+| (?=\\")/g, '') };
}

/** Large as they are, they are compared as texts first. */
function expectSame(lines: readonly string[]): void {
  const [ofBytes, ofTexts] = [told(lines), told(asTexts(lines))];
  if (JSON.stringify(ofBytes) !== JSON.stringify(ofTexts)) expect(ofBytes).toEqual(ofTexts);
}

/** A blank behind a line makes it no longer one that is read as bytes. */
const asTexts = (lines: readonly string[]): string[] => lines.map((line) => `${line} `);
const isOfObjects = (line: string): boolean => /"k":"(?:born|died)"/.test(line);

test.each(readdirSync(SAMPLES).filter((name) => name.endsWith('.heron')))(
  '%s says the same, read as bytes and as JSON',
  (name) => {
    const lines = linesOf(name);
    const bytes = new StreamLineBytes();
    const objects = lines.filter(isOfObjects);
    expect(objects.length).toBeGreaterThan(10);
    expect(objects.filter((line) => bytes.read(Buffer.from(line)) === null)).toEqual([]);
    expectSame(lines);
  },
);

test('damaged lines say the same, read as bytes and as JSON', () => {
  const random = seeded(11);
  const pick = (count: number): number => Math.floor(random() * count);
  const PIECES = ['', '0', '-', '-0', '.', '9', '1e3', '1e999', ',', '[', ']', '"', '{', '}', ':', 'null', ' ', 'é'];
  PIECES.push(
    '0.1234567890123456789',
    '12345678901234567890',
    '00',
    '\\u0041',
    '"k":"born",',
    '"__proto__":1,',
    '[1],',
  );
  const lines = linesOf('weirkeeper-fixed.heron');
  const places = lines.map((_, at) => at).filter((at) => isOfObjects(lines[at]!));
  for (let mutant = 0; mutant < 12; mutant++) {
    const some = [...lines];
    for (let change = 0; change < 20; change++) {
      const at = places[pick(places.length)]!;
      const place = pick(some[at]!.length + 1);
      some[at] = some[at]!.slice(0, place) + PIECES[pick(PIECES.length)]! + some[at]!.slice(place + pick(3));
    }
    expectSame(some);
  }
});

test('numbers are those that JSON has', () => {
  const bytes = new StreamLineBytes();
  const numbers = [
    '0',
    '7',
    '0.5',
    '12.25',
    '-3',
    '-0',
    '1e3',
    '1.5E-7',
    '0.1',
    '123456789012345',
    '0.30000000000000004',
  ];
  numbers.push(
    '123456789',
    '1234567890',
    '2147483648',
    '4294967296.5',
    '0.000000001',
    '123456.7891',
    '1234567.891',
    '12345678901234.5',
  );
  numbers.push('9007199254740993', '4.35', '2.675', '1e400', '0.000001', '100000.000001', '999999999999999.9');
  const line = `{"k":"died","h":"1.0","from":0,"to":-1.5,"id":[${numbers.join(',')}]}`;
  const read = bytes.read(Buffer.from(line)) as { id: Float64Array; to: number };
  const wanted = JSON.parse(line) as { id: number[]; to: number };
  expect(Array.from(read.id).every((each, at) => Object.is(each, wanted.id[at]))).toBe(true);
  expect([read.id.length, read.to]).toEqual([numbers.length, wanted.to]);
  for (const odd of [
    '01',
    '1.',
    '.5',
    '+1',
    '1e',
    '--1',
    '-',
    ' 1',
    '0x1',
    'NaN',
    '1,',
    ',1',
    '1 ',
    '"1"',
    'null',
    '[1]',
  ])
    expect(bytes.read(Buffer.from(`{"k":"died","h":"1.0","from":0,"to":1,"id":[${odd}]}`))).toBeNull();
});

test('a line is what it is however the input is cut, and over 4 MiB of one are dropped', () => {
  const begin = [
    '{"k":"hello","h":"1.0","schema":"brisk-heron/stream@1","epochMs":0,"program":"weirs","runtime":"one of its own 1"}',
    '{"k":"phase","h":"1.0","t":0,"kind":"objects"}',
    '{"k":"frames","h":"1.0","first":0,"fn":["gauge"],"file":["gauge.js"],"line":[1],"col":[1]}',
    '{"k":"paths","h":"1.0","first":0,"parent":[-1],"frame":[0]}',
  ];
  const born = (first: number, count: number, end = '}'): string =>
    `{"k":"born","h":"1.0","from":0,"to":10,"id":[${Array.from({ length: count }, (_, n) => first + n).join(',')}],"path":[${Array.from({ length: count }, () => 0).join(',')}],"size":[${Array.from({ length: count }, () => 16).join(',')}]${end}`;
  const long = born(1e6, 420_000);
  expect(long.length).toBeGreaterThan(4 * 1024 * 1024);
  const bytes = Buffer.from(
    [...begin, born(1, 3), long, born(10, 3, '}\r'), born(20, 3, '} '), born(30, 3, '}{'), born(40, 3)].join('\n'),
  );
  const read = (piece: number): unknown => {
    const parser = new StreamParser();
    for (let at = 0; at < bytes.length; at += piece) parser.write(bytes.subarray(at, at + piece));
    parser.end();
    const { tables, issues, lines } = parser.recording;
    return { objects: tables.objects.length, ids: [...tables.objects.col.sourceId.subarray(0, 12)], issues, lines };
  };
  const whole = read(bytes.length);
  expect(whole).toMatchObject({ objects: 12, ids: [1, 2, 3, 10, 11, 12, 20, 21, 22, 40, 41, 42], lines: 10 });
  expect(whole).toMatchObject({ issues: { count: 3 } });
  for (const piece of [4096, 65_537, 1 << 20, 5_000_001]) expect(read(piece)).toEqual(whole);
});
