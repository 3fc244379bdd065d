import { gunzipSync, gzipSync } from 'node:zlib';
import { InputReader } from '../../src/formats/input-reader.ts';
import { blockBytesFor, BlockCheck, BlockSummer, crc32 } from '../../src/formats/recording-file/block-check.ts';
import { writeRecordingHeader } from '../../src/formats/recording-file/container.ts';
import { analysisReport } from '../../src/measures/analysis-report.ts';
import { Study } from '../../src/study/study.ts';

const LINE = (n: number): string =>
  `[${n}.000s][info][gc] GC(${n}) Pause Young (Allocation Failure) ${20 + (n % 9)}M->${10 + (n % 5)}M(64M) 5.000ms\n`;
const LOG = Buffer.from(
  `[0.001s][info][gc] Using Serial\n${Array.from({ length: 4000 }, (_, n) => LINE(n + 1)).join('')}`,
);

function exported(): Buffer {
  const summer = new BlockSummer(blockBytesFor(LOG.length));
  summer.take(LOG.subarray(0, 1000));
  summer.take(LOG.subarray(1000));
  return Buffer.concat([
    Buffer.from(
      writeRecordingHeader({
        name: 'weirs',
        createdEpochMs: 1,
        parts: [{ name: 'gc.log', bytes: LOG.length }],
        sums: summer.end(),
      }),
    ),
    LOG,
  ]);
}

function read(bytes: Buffer, step = bytes.length) {
  const reader = new InputReader();
  for (let at = 0; at < bytes.length; at += step) reader.write(new Uint8Array(bytes.subarray(at, at + step)));
  return reader.end();
}

test('the checksum is the one that gzip keeps', () => {
  expect(crc32(LOG, 0, LOG.length, 0)).toBe(gzipSync(LOG).readUInt32LE(gzipSync(LOG).length - 8));
  expect(crc32(LOG, 500, LOG.length, crc32(LOG, 0, 500, 0))).toBe(crc32(LOG, 0, LOG.length, 0));
});

test('a whole export is read to its end, and nothing is missing, however it is cut', () => {
  for (const step of [1 << 20, 65536, 777]) {
    const result = read(exported(), step);
    expect(result.ok && [result.runs[0]!.missing, result.runs[0]!.tables.collections.length]).toEqual(['', 4000]);
  }
});

test.each([[0.3], [0.6], [0.99]])('one that is damaged at %d is read up to the block before, and says so', (place) => {
  const bytes = exported();
  const start = bytes.indexOf(10) + 1;
  const at = start + Math.floor(place * LOG.length);
  bytes[at] = bytes[at]! ^ 0x55;
  const result = read(bytes, 10_000);
  if (!result.ok) throw new Error(result.message);
  const [run] = result.runs;
  const goodBytes = Math.floor((at - start) / 65536) * 65536;
  expect(run!.bytes).toBe(goodBytes);
  expect(run!.missing).toMatch(/damaged or cut off: the first .* of .* are good/);
  expect(analysisReport(run!).missing).toBe(run!.missing);
  expect(run!.tables.collections.length).toBeGreaterThan(500);
});

test('one that is cut off is read as far as it is known to be good, and one that is damaged at once is refused', () => {
  const bytes = exported();
  const cut = read(bytes.subarray(0, bytes.length - 1));
  expect(cut.ok && cut.runs[0]!.missing).toMatch(/are good/);
  const bad = exported();
  bad[bad.indexOf(10) + 5] = 0;
  expect(read(bad)).toMatchObject({
    ok: false,
    message: expect.stringContaining('damaged from its beginning') as string,
  });
});

test('an export without checksums, as older pages wrote it, is read as before', () => {
  const old = Buffer.concat([
    Buffer.from(
      writeRecordingHeader({ name: 'weirs', createdEpochMs: 1, parts: [{ name: 'gc.log', bytes: LOG.length }] }),
    ),
    LOG,
  ]);
  const result = read(gunzipSync(gzipSync(old)));
  expect(result.ok && [result.runs[0]!.missing, result.runs[0]!.tables.collections.length]).toEqual(['', 4000]);
});

test('what was typed beside an exported recording holds for whoever reads it', () => {
  const notebook = { limitBytes: 16 * 2 ** 20, settleMs: 7000, ownRules: ['weirs/'], moments: [] };
  const header = writeRecordingHeader({
    name: 'weirs',
    createdEpochMs: 1,
    parts: [{ name: 'gc.log', bytes: LOG.length }],
    notebook,
  });
  const reader = new InputReader();
  reader.write(Buffer.concat([Buffer.from(header), LOG]));
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  const run = new Study(reader, reader.header?.notebook).run();
  expect([run.limitBytes(), run.givenSettleMs, run.ownRules]).toEqual([16 * 2 ** 20, 7000, ['weirs/']]);
  expect(analysisReport(run).heap.limitBytes).toBe(16 * 2 ** 20);
  // What is given on a command line stands instead of what was noted.
  const other = new Study(reader, reader.header?.notebook, { limitBytes: 2 ** 30 }).run();
  expect([other.limitBytes(), other.givenSettleMs]).toEqual([2 ** 30, 7000]);
});

test('blocks get longer before they get too many', () => {
  expect([blockBytesFor(0), blockBytesFor(2 ** 30), blockBytesFor(2 ** 31), blockBytesFor(2 ** 36)]).toEqual([
    65536, 65536, 131072, 4194304,
  ]);
  const check = new BlockCheck({ blockBytes: 65536, bytes: 0, crc32: [] });
  expect([check.take(Uint8Array.of(1)).length, check.missingBytes]).toEqual([0, 0]);
});
