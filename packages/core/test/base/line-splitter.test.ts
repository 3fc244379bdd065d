import fc from 'fast-check';
import { LineSplitter, MAX_LINE_BYTES } from '../../src/base/line-splitter.ts';

type Line = readonly [string, number, number];

function split(chunks: readonly Uint8Array[], encoding: 'utf-8' | 'windows-1252' = 'utf-8'): Line[] {
  const lines: Line[] = [];
  const splitter = new LineSplitter((line, number, offset) => lines.push([line, number, offset]), { encoding });
  for (const chunk of chunks) splitter.write(chunk);
  splitter.end();
  return lines;
}

function cut(bytes: Uint8Array, cuts: readonly number[]): Uint8Array[] {
  const places = [0, ...cuts.map((share) => Math.floor(share * bytes.length)), bytes.length].sort((a, b) => a - b);
  return places.slice(1).map((end, at) => bytes.slice(places[at], end));
}

const encode = (text: string): Uint8Array => new TextEncoder().encode(text);

test('lines carry their number and the offset of their first byte', () => {
  expect(split([encode('a\nbé\r\n\nlast')])).toEqual([
    ['a', 1, 0],
    ['bé', 2, 2],
    ['', 3, 7],
    ['last', 4, 8],
  ]);
});

test.each(['utf-8', 'windows-1252'] as const)('any way of cutting the input gives the same lines (%s)', (encoding) => {
  const bytes = fc
    .array(fc.oneof(fc.constantFrom(10, 13, 0, 65, 195, 169), fc.nat(255)), { maxLength: 200 })
    .map((list) => Uint8Array.from(list));
  fc.assert(
    fc.property(bytes, fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { maxLength: 8 }), (whole, cuts) => {
      expect(split(cut(whole, cuts), encoding)).toEqual(split([whole], encoding));
    }),
    { seed: 7, numRuns: 400 },
  );
});

test('a line beyond the bound is cut and told, and the next is whole', () => {
  const told: number[] = [];
  const lines: string[] = [];
  const splitter = new LineSplitter((line) => lines.push(line), {
    encoding: 'windows-1252',
    onLong: (line) => told.push(line),
  });
  const long = new Uint8Array(MAX_LINE_BYTES + 5000).fill(65);
  splitter.write(long.subarray(0, 1000));
  splitter.write(long.subarray(1000));
  splitter.write(encode('\nnext\n'));
  expect(told).toEqual([1]);
  expect(lines.map((line) => line.length)).toEqual([MAX_LINE_BYTES, 4]);
});
