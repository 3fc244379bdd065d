import { HeronDb, isQuotaError, RecordingGone, StoreConflict, type RecordingRow } from '../../src/db/heron-db.ts';

const row = (id: string): RecordingRow => ({
  id,
  name: id,
  program: '',
  runtime: '',
  startedEpochMs: 0,
  addedEpochMs: 0,
  durationMs: 0,
  bytes: 0,
  verdictKind: 'unclear',
  sentence: '',
  strip: [],
  streamId: '',
  parts: [],
});

test('a chunk and its count of bytes are stored together, and removed with their recording only', async () => {
  const db = new HeronDb('test-chunks');
  await db.recordings.bulkAdd([row('a'), row('b')]);
  await db.appendChunk('a', 0, Uint8Array.of(1, 2, 3));
  await db.appendChunk('a', 1, Uint8Array.of(4));
  await db.appendChunk('b', 0, Uint8Array.of(5));
  expect((await db.recordings.get('a'))!.bytes).toBe(4);
  await db.removeRecording('a');
  expect(await db.chunks.toArray()).toMatchObject([{ recordingId: 'b', sequence: 0 }]);
  expect(await db.recordings.toCollection().primaryKeys()).toEqual(['b']);
});

test('a chunk whose number another has stored, and one of a recording that was deleted, are refused and leave nothing', async () => {
  const db = new HeronDb('test-twice');
  await db.recordings.add(row('a'));
  await db.appendChunk('a', 0, Uint8Array.of(1));
  await expect(db.appendChunk('a', 0, Uint8Array.of(2))).rejects.toBeInstanceOf(StoreConflict);
  await expect(db.appendChunk('a', 2, Uint8Array.of(2))).rejects.toBeInstanceOf(StoreConflict);
  expect(await db.chunks.toArray()).toMatchObject([{ sequence: 0, bytes: Uint8Array.of(1) }]);
  await db.removeRecording('a');
  await expect(db.appendChunk('a', 1, Uint8Array.of(2))).rejects.toBeInstanceOf(RecordingGone);
  expect(await db.chunks.count()).toBe(0);
});

test('a row is made to tell what is stored: what lies behind a gap goes, and what a file lacks is said', async () => {
  const db = new HeronDb('test-mend');
  await db.recordings.bulkAdd([
    { ...row('file'), bytes: 9 },
    { ...row('live'), streamId: 's', bytes: 9 },
    { ...row('whole'), bytes: 3 },
  ]);
  const chunk = (recordingId: string, sequence: number, bytes: number) => ({
    recordingId,
    sequence,
    bytes: new Uint8Array(bytes),
  });
  await db.chunks.bulkAdd([
    chunk('file', 0, 3),
    chunk('file', 2, 3),
    chunk('live', 0, 2),
    chunk('live', 3, 1),
    chunk('whole', 0, 3),
  ]);
  for (const id of ['file', 'live', 'whole', 'nobody']) await db.mendRecording(id);
  const told = async (id: string): Promise<unknown[]> => {
    const { bytes, chunks, missing } = (await db.recordings.get(id))!;
    return [bytes, chunks, missing];
  };
  expect(await told('file')).toEqual([3, 1, expect.stringContaining('6 are gone')]);
  expect([await told('live'), await told('whole')]).toEqual([
    [2, 1, undefined],
    [3, 1, undefined],
  ]);
  expect(await db.chunks.count()).toBe(3);
});

test('chunks of no recording go', async () => {
  const db = new HeronDb('test-orphans');
  await db.recordings.add(row('a'));
  await db.chunks.bulkAdd([
    { recordingId: 'a', sequence: 0, bytes: new Uint8Array(1) },
    { recordingId: 'gone', sequence: 0, bytes: new Uint8Array(1) },
  ]);
  await db.removeOrphans();
  expect((await db.chunks.toArray()).map(({ recordingId }) => recordingId)).toEqual(['a']);
});

test('a full store is known by either of its names', () => {
  const inner = Object.assign(new Error('aborted'), { name: 'AbortError', inner: { name: 'QuotaExceededError' } });
  expect([
    isQuotaError(inner),
    isQuotaError(Object.assign(new Error(), { name: 'QuotaExceededError' })),
    isQuotaError(new Error('other')),
    isQuotaError(7),
  ]).toEqual([true, true, false, false]);
});
