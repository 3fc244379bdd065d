import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { readColumns, writeColumns } from '../../src/formats/columns-file/columns-file.ts';
import { columnSum } from '../../src/formats/columns-file/layout.ts';
import { InputReader } from '../../src/formats/input-reader.ts';
import { SourceText } from '../../src/formats/source-text.ts';
import type { Recording } from '../../src/model/recording.ts';
import { fixed, leak, log, sample, weirs } from '../measures/samples.ts';

const SOURCE = { bytes: 7, markBytes: 0, isWide: false, littleEndian: false };
const LOGS = join(__dirname, '../../../../examples/logs');

function kept(recording: Recording): Recording {
  const file = writeColumns([recording], SOURCE);
  return readColumns(file)!.runs[0]!;
}

/** Everything of a recording but what only serves to add to it, as plain values; columns to their last row. */
function plain(recording: Recording): Record<string, unknown> {
  const { tables, strings, excerpts, outsideTypes, ...rest } = recording;
  const columns = Object.entries(tables).map(([name, table]) => [
    name,
    table.length,
    Object.entries(table.col as unknown as Record<string, Float64Array>).map(([column, values]) => [
      column,
      createHash('sha1')
        .update(new Uint8Array(values.buffer, values.byteOffset, table.length * values.BYTES_PER_ELEMENT))
        .digest('hex'),
    ]),
  ]);
  const own = Object.fromEntries(
    Object.entries(rest).filter(([name]) => !['frameIds', 'pathIds', 'originIndex'].includes(name)),
  );
  const texts = Array.from({ length: strings.length }, (_, id) => strings.text(id));
  return { ...own, columns, texts, excerpts: [...excerpts], outsideTypes: [...outsideTypes] };
}

const RECORDINGS: readonly (readonly [string, Recording])[] = [
  ['a leak', leak],
  ['its fix', fixed],
  ['weirs', weirs],
  ['a log', log],
  ...readdirSync(LOGS)
    .filter((name) => existsSync(join(LOGS, name)) && name.endsWith('.log'))
    .map((name) => [name, sample(`logs/${name}`)] as const),
];

test.each(RECORDINGS)('what is kept of %s is all of it, and says the same', (_, recording) => {
  const again = kept(recording);
  expect(plain(again)).toEqual(plain(recording));
  expect(analysisReport(again)).toEqual(analysisReport(recording));
});

test('several runs are kept with the shape of their source', () => {
  const file = writeColumns([log, weirs], { ...SOURCE, markBytes: 3 });
  const read = readColumns(file)!;
  expect([read.runs.length, read.source.markBytes]).toEqual([2, 3]);
  expect(plain(read.runs[1]!)).toEqual(plain(weirs));
});

test('a recording that was kept can be added to', () => {
  const again = kept(log);
  const { marks } = again.tables;
  const [before, row] = [marks.length, marks.addRow()];
  marks.col.tMs[row] = 5;
  expect([marks.length, row, again.intern('Pause Remark')]).toEqual([before + 1, before, log.intern('Pause Remark')]);
});

test('a file that is cut, changed or of another version is dropped', () => {
  const file = writeColumns([fixed], SOURCE);
  for (const length of [0, 7, 19, 40, 1000, file.length - 8, file.length - 1])
    expect(readColumns(file.slice(0, length))).toBeNull();
  const property = fc.property(
    fc.integer({ min: 0, max: file.length - 1 }),
    fc.integer({ min: 1, max: 255 }),
    (at, by) => {
      const changed = file.slice();
      changed[at] = changed[at]! ^ by;
      expect(readColumns(changed)).toBeNull();
    },
  );
  fc.assert(property, { seed: 20_261_129, numRuns: 50 });
});

test('the sum tells words that changed places', () => {
  const words = (...values: number[]): Uint8Array => new Uint8Array(Uint32Array.from(values).buffer);
  expect(columnSum(words(1, 2, 3, 4, 5), 0)).not.toBe(columnSum(words(2, 1, 3, 4, 5), 0));
  expect(columnSum(words(1, 2, 3, 4, 5), 0)).not.toBe(columnSum(words(5, 2, 3, 4, 1), 0));
  expect(columnSum(words(1, 2), 0)).not.toBe(columnSum(words(1, 2, 0), 0));
});

test.each(['utf8', 'utf16le'] as const)('text of a source in %s is found again by its shape', (encoding) => {
  const text = readFileSync(join(LOGS, 'weirkeeper-g1.log'), 'latin1');
  const bytes = Buffer.concat([
    Buffer.from(encoding === 'utf8' ? [0xef, 0xbb, 0xbf] : [0xff, 0xfe]),
    Buffer.from(text, encoding),
  ]);
  const reader = new InputReader();
  reader.write(bytes);
  reader.end();
  expect(reader.shape.bytes).toBe(bytes.length);
  const source = new SourceText(reader.shape);
  const at = text.indexOf('\n') + 1;
  expect(source.linesOf(bytes.subarray(source.inputOffset(at)))[0]).toBe(text.split('\n')[1]);
});
