import { Study } from '@brisk-heron/core';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { HeronDb, type RecordingRow } from '../../src/db/heron-db.ts';
import { keepColumns, keptColumns, LEAST_KEPT_BYTES } from '../../src/worker/kept-columns.ts';
import { OpenRecording } from '../../src/worker/open-recording.ts';
import type { Changed } from '../../src/worker/protocol.ts';
import { RecordingSession } from '../../src/worker/recording-session.ts';

const LOG = readFileSync(join(__dirname, '../../../../examples/logs/weirkeeper-g1.log'));

let db: HeronDb;
let name = 0;
beforeEach(() => {
  db = new HeronDb(`kept-${name++}`);
});
afterEach(() => db.delete());

/** Stores a log that is long enough for its columns to be kept: a good one, and chatter of the program behind it. */
async function stored(id: string): Promise<Buffer> {
  const chatter = Buffer.from('the tide turns\n'.repeat(Math.ceil(LEAST_KEPT_BYTES / 15)));
  const bytes = Buffer.concat([LOG, chatter]);
  await db.recordings.add({
    ...{ id, name: 'weirs', program: '', runtime: '', startedEpochMs: 0, addedEpochMs: 0, durationMs: 0 },
    ...{ bytes: 0, verdictKind: '', sentence: 'Growing.', strip: [], streamId: '', parts: [], chunks: 0 },
  });
  await db.appendChunk(id, 0, new Uint8Array(bytes));
  return bytes;
}

const rowOf = async (id: string): Promise<RecordingRow> => (await db.recordings.get(id))!;

async function open(id: string): Promise<OpenRecording> {
  const changes: Changed[] = [];
  const recording = new OpenRecording(id, { db, onProgress: () => undefined, onChanged: (told) => changes.push(told) });
  await recording.open({ recordingId: id, streamId: '', server: '' }, null);
  return recording;
}

test('a recording that was read once is opened out of its columns, with its lines', async () => {
  await stored('weirs');
  const first = await open('weirs');
  expect(first.session.isRestored).toBe(false);
  await first.close();
  const second = await open('weirs');
  expect([second.session.isRestored, second.session.bytes]).toEqual([true, first.session.bytes]);
  const { tables } = second.study.run();
  expect(tables.pauses.length).toBe(first.study.run().tables.pauses.length);
  const { lines, at } = await second.session.textAround(db, tables.collections.col.byteOffset[3]!, 500, 500);
  expect(lines[at]).toContain(`GC(${tables.collections.col.gcId[3]!})`);
  await second.close();
});

test('columns of other bytes, or damaged ones, are dropped and the bytes are read', async () => {
  await stored('weirs');
  await (await open('weirs')).close();
  const kept = (await db.columns.get('weirs'))!;
  await db.appendChunk('weirs', 1, new Uint8Array(Buffer.from('the tide turns\n')));
  expect(await keptColumns(db, await rowOf('weirs'))).toBeNull();
  expect(await db.columns.count()).toBe(0);
  const changed = new Uint8Array(await kept.file.arrayBuffer());
  changed[changed.length - 100]! ^= 1;
  await db.columns.put({ ...kept, file: new Blob([changed]) });
  const again = await open('weirs');
  expect(again.session.isRestored).toBe(false);
  expect(again.study.run().tables.pauses.length).toBeGreaterThan(100);
  await again.close();
});

test('a deleted recording leaves no columns, and a short one keeps none', async () => {
  const bytes = await stored('weirs');
  await (await open('weirs')).close();
  await db.removeRecording('weirs');
  expect(await db.columns.count()).toBe(0);
  const session = new RecordingSession('weirs');
  session.take(new Uint8Array(bytes));
  session.end();
  expect(new Study(session).runs).toHaveLength(1);
  await keepColumns(db, session, null);
  expect(await db.columns.count()).toBe(0);
  const short = new RecordingSession('short');
  short.take(new Uint8Array(LOG));
  short.end();
  await db.recordings.add({ ...(await rowTemplate()), id: 'short' });
  await keepColumns(db, short, null);
  expect(await db.columns.count()).toBe(0);
});

async function rowTemplate(): Promise<RecordingRow> {
  await stored('template');
  return rowOf('template');
}

test('columns are kept once nothing was asked for a while', async () => {
  await stored('weirs');
  const recording = await open('weirs');
  const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
  await wait(2000);
  recording.answered(1);
  await wait(2000);
  expect(await db.columns.count()).toBe(0);
  for (let tries = 0; tries < 100 && (await db.columns.count()) === 0; tries++) await wait(100);
  expect(await db.columns.count()).toBe(1);
  await recording.close();
}, 30_000);
