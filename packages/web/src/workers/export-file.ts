import { writeRecordingHeader } from '@brisk-heron/core';
import type { HeronDb } from '../db/heron-db.ts';
import { fileBase } from './file-base.ts';

/** One stored recording as a compressed file that imports to the same bytes. @throws when it is not stored here. */
export async function exportFile(db: HeronDb, recordingId: string): Promise<{ blob: Blob; name: string }> {
  const row = await db.recordings.get(recordingId);
  if (row === undefined) throw new Error('this recording is no longer in the browser');
  const parts = row.parts.length > 0 ? row.parts : [{ name: row.streamId === '' ? row.name : `${row.streamId}.ndjson`, bytes: row.bytes }];
  const header = writeRecordingHeader({ name: row.name, createdEpochMs: row.addedEpochMs, parts, ...(row.notebook === undefined ? {} : { notebook: row.notebook }) });
  let sequence = -1;
  const source = new ReadableStream<Uint8Array<ArrayBuffer>>({
    async pull(controller) {
      if (sequence < 0) controller.enqueue(new TextEncoder().encode(header));
      else {
        const chunk = await db.chunks.get([recordingId, sequence]);
        if (chunk === undefined) return controller.close();
        controller.enqueue(new Uint8Array(chunk.bytes));
      }
      sequence++;
    },
  });
  const blob = await new Response(source.pipeThrough(new CompressionStream('gzip'))).blob();
  return { blob, name: `${fileBase(row.name)}.heron` };
}
