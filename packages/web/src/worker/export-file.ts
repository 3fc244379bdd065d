import { blockBytesFor, BlockSummer, writeRecordingHeader } from '@brisk-heron/core';
import { chunkPieces } from '../db/chunk-bytes.ts';
import type { HeronDb } from '../db/heron-db.ts';
import { fileBase } from './file-base.ts';
import type { Progress } from './progress.ts';

/** One stored recording as a compressed file that imports to the same bytes. @throws when it is not stored here. */
export async function exportFile(
  db: HeronDb,
  recordingId: string,
  onProgress: (progress: Progress) => void = () => undefined,
): Promise<{ blob: Blob; name: string }> {
  const row = await db.recordings.get(recordingId);
  if (row === undefined) throw new Error('this recording is no longer in the browser');
  const parts =
    row.parts.length > 0
      ? row.parts
      : [{ name: row.streamId === '' ? row.name : `${row.streamId}.ndjson`, bytes: row.bytes }];
  const header = writeRecordingHeader({
    name: row.name,
    createdEpochMs: row.addedEpochMs,
    parts,
    sums: await sumsOf(db, recordingId, row.bytes, onProgress),
    ...(row.missing === undefined ? {} : { missing: row.missing }),
    ...(row.notebook === undefined ? {} : { notebook: row.notebook }),
  });
  let doneBytes = 0;
  let sequence = -1;
  const source = new ReadableStream<Uint8Array<ArrayBuffer>>({
    async pull(controller) {
      if (sequence < 0) controller.enqueue(new TextEncoder().encode(header));
      else {
        const chunk = await db.chunks.get([recordingId, sequence]);
        if (chunk === undefined) return controller.close();
        for await (const piece of chunkPieces(chunk)) {
          controller.enqueue(piece);
          doneBytes += piece.length;
          onProgress({ doing: `Writing ${row.name}`, doneBytes: row.bytes + doneBytes, totalBytes: 2 * row.bytes });
        }
      }
      sequence++;
    },
  });
  const blob = await new Response(source.pipeThrough(new CompressionStream('gzip'))).blob();
  return { blob, name: `${fileBase(row.name)}.heron` };
}

// Before the first byte is written, for they stand in the header.
async function sumsOf(
  db: HeronDb,
  recordingId: string,
  bytes: number,
  onProgress: (progress: Progress) => void,
): Promise<ReturnType<BlockSummer['end']>> {
  const summer = new BlockSummer(blockBytesFor(bytes));
  for (let sequence = 0, doneBytes = 0; ; sequence++) {
    const chunk = await db.chunks.get([recordingId, sequence]);
    if (chunk === undefined) return summer.end();
    for await (const piece of chunkPieces(chunk)) {
      summer.take(piece);
      doneBytes += piece.length;
      onProgress({ doing: 'Reading what is stored', doneBytes, totalBytes: 2 * bytes });
    }
  }
}
