import { HeronDb, isQuotaError, type RecordingRow } from '../../src/db/heron-db.ts';

const row = (id: string): RecordingRow => ({
  id, name: id, program: '', runtime: '', startedEpochMs: 0, addedEpochMs: 0, durationMs: 0, bytes: 0, verdictKind: 'unclear', sentence: '', strip: [], streamId: '', parts: [],
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

test('the same chunk stored twice is there once', async () => {
  const db = new HeronDb('test-twice');
  await db.recordings.add(row('a'));
  await db.appendChunk('a', 0, Uint8Array.of(1));
  await db.appendChunk('a', 0, Uint8Array.of(1));
  expect(await db.chunks.count()).toBe(1);
});

test('a full store is known by either of its names', () => {
  const inner = Object.assign(new Error('aborted'), { name: 'AbortError', inner: { name: 'QuotaExceededError' } });
  expect([isQuotaError(inner), isQuotaError(Object.assign(new Error(), { name: 'QuotaExceededError' })), isQuotaError(new Error('other')), isQuotaError(7)]).toEqual([true, true, false, false]);
});
