import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { type Notebook, Study } from '@brisk-heron/core';
import { chunkBytes, chunkPieces } from '../../src/db/chunk-bytes.ts';
import { HeronDb } from '../../src/db/heron-db.ts';
import { collectionLines } from '../../src/worker/collection-lines.ts';
import { exportFile } from '../../src/worker/export-file.ts';
import { importFiles } from '../../src/worker/import-files.ts';
import type { Progress } from '../../src/worker/progress.ts';
import { RecordingSession } from '../../src/worker/recording-session.ts';

const LOGS = join(__dirname, '../../../../examples/logs');
const LOG = readFileSync(join(LOGS, 'weirkeeper-serial.log'));
const TRUTH = (
  JSON.parse(readFileSync(join(LOGS, 'truth.json'), 'utf8')) as Record<string, { young: number; whole: number }>
)['weirkeeper-serial.log']!;
const COUNTED = TRUTH.young + TRUTH.whole;
let names = 0;
const freshDb = (): HeronDb => new HeronDb(`test-import-${names++}`);
const fileOf = (bytes: Uint8Array | string, name: string): File =>
  new File([typeof bytes === 'string' ? bytes : new Uint8Array(bytes)], name);
const quiet = (): void => undefined;

async function storedBytes(db: HeronDb, id: string): Promise<Buffer> {
  const chunks = await db.chunks.where('recordingId').equals(id).sortBy('sequence');
  return Buffer.concat(await Promise.all(chunks.map((chunk) => chunkBytes(chunk))));
}

test('a log is stored as it came, with what the list shows of it', async () => {
  const db = freshDb();
  await importFiles(db, 'a', [fileOf(LOG, 'weirkeeper.log')], quiet);
  expect((await storedBytes(db, 'a')).equals(LOG)).toBe(true);
  expect(await db.recordings.get('a')).toMatchObject({
    name: 'weirkeeper',
    bytes: LOG.length,
    verdictKind: 'growing',
    runtime: expect.stringContaining('Serial') as string,
    parts: [{ name: 'weirkeeper.log', bytes: LOG.length }],
    streamId: '',
  });
  expect((await db.recordings.get('a'))!.durationMs).toBeGreaterThan(10_000);
});

test('a plain log is stored as parts of the file, or as bytes where the browser keeps no such parts', async () => {
  const db = freshDb();
  const long = Buffer.concat(Array.from({ length: 60 }, () => LOG));
  await importFiles(db, 'parts', [fileOf(long, 'long.log')], quiet);
  const parts = await db.chunks.where('recordingId').equals('parts').toArray();
  expect(parts.length).toBeGreaterThan(1);
  expect(parts.every(({ bytes }) => bytes instanceof Blob)).toBe(true);
  expect((await storedBytes(db, 'parts')).equals(long)).toBe(true);
  // A part is read as it comes, from its beginning to its end.
  const pieces: Uint8Array[] = [];
  for await (const piece of chunkPieces({ bytes: new Blob([long]) })) pieces.push(piece);
  expect(Buffer.concat(pieces).equals(long)).toBe(true);
  const loaded = new RecordingSession('parts');
  const told: number[] = [];
  await loaded.load(db, ({ doneBytes }) => told.push(doneBytes));
  expect([loaded.bytes, told.at(-1)]).toEqual([long.length, long.length]);
  const append = db.appendChunk.bind(db);
  const refusing = jest.spyOn(db, 'appendChunk').mockImplementation((id, sequence, bytes) => {
    if (bytes instanceof Blob) throw new DOMException('no blobs here', 'DataCloneError');
    return append(id, sequence, bytes);
  });
  await importFiles(db, 'bytes', [fileOf(long, 'long.log')], quiet);
  refusing.mockRestore();
  expect((await db.chunks.get(['bytes', 0]))!.bytes).toBeInstanceOf(Uint8Array);
  expect((await storedBytes(db, 'bytes')).equals(long)).toBe(true);
  expect((await db.recordings.get('bytes'))!.chunks).toBe(parts.length);
});

test('a file that can no longer be read while it is stored leaves nothing behind', async () => {
  const db = freshDb();
  const file = fileOf(LOG, 'moved.log');
  const slice = file.slice.bind(file);
  jest.spyOn(file, 'slice').mockImplementation((from, to) => {
    const part = slice(from, to);
    part.arrayBuffer = to === LOG.length ? () => Promise.reject(new Error('gone')) : part.arrayBuffer.bind(part);
    return part;
  });
  jest.spyOn(db, 'appendChunk').mockRejectedValueOnce(new DOMException('gone', 'NotReadableError'));
  await expect(importFiles(db, 'a', [file], quiet)).rejects.toThrow('moved.log can no longer be read');
  expect([await db.recordings.count(), await db.chunks.count()]).toEqual([0, 0]);
});

test('a compressed log is stored unpacked; one cut off is kept as far as it goes', async () => {
  const db = freshDb();
  await importFiles(db, 'a', [fileOf(gzipSync(LOG), 'a.log.gz')], quiet);
  expect((await storedBytes(db, 'a')).equals(LOG)).toBe(true);
  const packed = gzipSync(LOG);
  await importFiles(db, 'b', [fileOf(packed.subarray(0, packed.length - 2000), 'b.log.gz')], quiet);
  const kept = await storedBytes(db, 'b');
  expect(kept.length).toBeGreaterThan(1000);
  expect(LOG.subarray(0, kept.length).equals(kept)).toBe(true);
});

test('parts of one log are put in order', async () => {
  const db = freshDb();
  const cut = LOG.indexOf(10, LOG.length >> 1) + 1;
  await importFiles(db, 'a', [fileOf(LOG.subarray(cut), 'gc.log'), fileOf(LOG.subarray(0, cut), 'gc.log.0')], quiet);
  expect((await storedBytes(db, 'a')).equals(LOG)).toBe(true);
  expect((await db.recordings.get('a'))!.parts.map((part) => part.name)).toEqual(['gc.log.0', 'gc.log']);
});

test('what was noted beside a recording goes with it, and its limit into the verdict', async () => {
  const db = freshDb();
  const notebook: Notebook = {
    limitBytes: 64 * 2 ** 20,
    settleMs: 4000,
    ownRules: ['src/'],
    moments: [{ name: 'late', tMs: 9000 }],
  };
  await importFiles(db, 'a', [fileOf(readFileSync(join(LOGS, 'weirkeeper-g1.log')), 'weirkeeper.log')], quiet);
  await db.recordings.update('a', { notebook });
  const { blob, name } = await exportFile(db, 'a');
  await importFiles(db, 'b', [fileOf(new Uint8Array(await blob.arrayBuffer()), name)], quiet);
  const copy = (await db.recordings.get('b'))!;
  expect(copy.notebook).toEqual(notebook);
  expect(copy.sentence).toMatch(/64(\.0+)? MiB limit in about/);
});

test('what is exported imports to the same bytes, name and verdict', async () => {
  const db = freshDb();
  await importFiles(db, 'a', [fileOf(LOG, 'weirkeeper.log')], quiet);
  await db.recordings.update('a', { name: 'spring tide / 3' });
  const { blob, name } = await exportFile(db, 'a');
  expect(name).toBe('spring-tide-3.heron');
  const other = freshDb();
  await importFiles(other, 'b', [fileOf(Buffer.from(await blob.arrayBuffer()), name)], quiet);
  expect((await storedBytes(other, 'b')).equals(LOG)).toBe(true);
  const [before, after] = [await db.recordings.get('a'), await other.recordings.get('b')];
  expect(after).toMatchObject({
    name: 'spring tide / 3',
    sentence: before!.sentence,
    durationMs: before!.durationMs,
    strip: before!.strip,
  });
});

test.each([
  ['', /is empty/],
  ['Dear keeper,\nno collection.\n', /expected a recording of this tool/],
  ['{"schema":"brisk-heron/recording@1","name":3}\n', /expected the header/],
  ['{"schema":"brisk-heron/recording@1"', /cut off in its header/],
])('%j is refused and nothing stays behind', async (text, message) => {
  const db = freshDb();
  await expect(importFiles(db, 'a', [fileOf(text, 'a.log')], quiet)).rejects.toThrow(message);
  expect([await db.recordings.count(), await db.chunks.count()]).toEqual([0, 0]);
});

test('no file at all is refused, and so is exporting what is not there', async () => {
  await expect(importFiles(freshDb(), 'a', [], quiet)).rejects.toThrow('no file was given');
  await expect(exportFile(freshDb(), 'a')).rejects.toThrow(/no longer in the browser/);
});

test('progress counts the bytes of the file, packed or not', async () => {
  const told: Progress[] = [];
  const packed = gzipSync(LOG);
  await importFiles(freshDb(), 'a', [fileOf(packed, 'a.log.gz')], (progress) => told.push(progress));
  const all = { doneBytes: packed.length, totalBytes: packed.length };
  expect(told.slice(-2)).toMatchObject([
    { doing: 'Reading a.log.gz', ...all },
    { doing: 'Looking at all that was read', ...all },
  ]);
});

describe('a session', () => {
  test('loads chunks in their order and goes on counting behind them', async () => {
    const db = freshDb();
    await importFiles(db, 'a', [fileOf(LOG, 'a.log')], quiet);
    await db.chunks.clear();
    const step = Math.ceil(LOG.length / 20);
    for (let n = 0; n < 20; n++)
      await db.chunks.put({ recordingId: 'a', sequence: n, bytes: LOG.subarray(n * step, (n + 1) * step) });
    const session = new RecordingSession('a');
    await session.load(db, quiet);
    session.end();
    expect([session.chunks, session.bytes, session.runs.length]).toEqual([20, LOG.length, 1]);
    expect(session.runs[0]!.tables.pauses.length).toBe(COUNTED);
  });

  test('has nothing to show before something came', () => {
    const session = new RecordingSession('a');
    expect(session.hasRecording()).toBe(false);
    expect(() => new Study(session).run()).toThrow(/nothing of this recording has arrived/);
  });
});

describe('the lines of a collection', () => {
  const wide = (text: string): Uint8Array =>
    Uint8Array.from(`\ufeff${text}`.split('').flatMap((char) => [char.charCodeAt(0) & 255, char.charCodeAt(0) >> 8]));

  test.each([
    ['as it came', LOG],
    ['with a mark', Buffer.concat([Buffer.from('\ufeff'), LOG])],
    ['in UTF-16', wide(LOG.toString('latin1'))],
  ])('are found in the stored source, %s', async (_how, bytes) => {
    const db = freshDb();
    await importFiles(db, 'a', [fileOf(bytes, 'weirkeeper.log')], quiet);
    const session = new RecordingSession('a');
    await session.load(db, quiet);
    session.end();
    const recording = session.runs.at(-1)!;
    const last = recording.tables.pauses.length - 1;
    for (const row of [0, last >> 1, last]) {
      const { lines, leftOut } = await collectionLines(db, session, recording, row);
      const { gcId } = recording.tables.collections.col;
      const id = `GC(${gcId[recording.tables.pauses.col.collectionRow[row]!]!})`;
      const wanted = LOG.toString('latin1')
        .split('\n')
        .filter((line) => line.includes(`${id} `));
      expect(wanted.length).toBeGreaterThan(2);
      expect([lines, leftOut]).toEqual([wanted, 0]);
    }
  });

  test('are looked for where they are, not in every part before', async () => {
    const db = freshDb();
    await importFiles(db, 'a', [fileOf(LOG, 'a.log')], quiet);
    await db.chunks.clear();
    const step = 1000;
    for (let n = 0; n * step < LOG.length; n++)
      await db.chunks.put({
        recordingId: 'a',
        sequence: n,
        bytes: new Uint8Array(LOG.subarray(n * step, (n + 1) * step)),
      });
    const session = new RecordingSession('a');
    await session.load(db, quiet);
    session.end();
    const { byteOffset, gcId } = session.runs[0]!.tables.collections.col;
    const row = session.runs[0]!.tables.collections.length - 2;
    const got = jest.spyOn(db.chunks, 'get');
    const { lines, at } = await session.textAround(db, byteOffset[row]!, 1500, 500);
    expect(lines[at]).toContain(`GC(${gcId[row]!})`);
    expect(got.mock.calls.length).toBeLessThan(6);
    // Columns that an older page kept do not tell where the parts end.
    const restored = new RecordingSession('a');
    restored.restore({ runs: session.runs, source: session.shape });
    expect(await restored.textAround(db, byteOffset[row]!, 1500, 500)).toEqual({ lines, at });
  });

  test('of a recorded JVM come out of the log that its stream carries', async () => {
    const db = freshDb();
    const stored = gunzipSync(readFileSync(join(LOGS, '../recordings/weirkeeper-with-its-faults.heron')));
    await importFiles(db, 'a', [fileOf(stored, 'weirs.heron')], quiet);
    const session = new RecordingSession('a');
    await session.load(db, quiet);
    session.end();
    const { lines } = await collectionLines(db, session, session.runs.at(-1)!, 3);
    expect(lines.length).toBeGreaterThan(1);
    expect(lines.every((line) => /GC\(\d+\) /.test(line) && !line.startsWith('{'))).toBe(true);
  });
});

test('of a file with two runs either can be looked at', async () => {
  const db = freshDb();
  await importFiles(
    db,
    'a',
    [fileOf(Buffer.concat([LOG, readFileSync(join(LOGS, 'weirkeeper-g1.log'))]), 'both.log')],
    quiet,
  );
  const session = new RecordingSession('a');
  await session.load(db, quiet);
  session.end();
  const study = new Study(session);
  expect([study.runs.length, study.run().collector]).toEqual([2, 'G1']);
  expect([study.run(0).collector, study.run(0).tables.pauses.length]).toEqual(['Serial', COUNTED]);
  expect(() => study.run(2)).toThrow('expected a run from 1 to 2, found 3');
});
