import type { Notebook } from '@brisk-heron/core';
import Dexie, { type EntityTable, type Table } from 'dexie';

/** One recording as the list shows it. Everything else is worked out again from its chunks. */
export interface RecordingRow {
  readonly id: string;
  name: string;
  program: string;
  runtime: string;
  /** Wall clock of its beginning, or of its import when the source tells none. */
  startedEpochMs: number;
  addedEpochMs: number;
  durationMs: number;
  /** Bytes of its chunks. */
  bytes: number;
  verdictKind: string;
  sentence: string;
  /** Used memory in equal slices of its time, in bytes. */
  strip: number[];
  /** Stream on the server that it comes from; '' for an imported file. */
  streamId: string;
  /** Files it was made of. */
  parts: { name: string; bytes: number }[];
  /** What the engineer noted; absent until something was. */
  notebook?: Notebook;
}

/** Raw bytes of a recording, in order; the source as it came, so that nothing is lost to a parser's mistake. */
export interface ChunkRow {
  readonly recordingId: string;
  readonly sequence: number;
  readonly bytes: Uint8Array;
}

export interface SettingRow {
  readonly key: string;
  readonly value: string;
}

/** The browser's own store. Versions are only ever added. */
export class HeronDb extends Dexie {
  readonly recordings!: EntityTable<RecordingRow, 'id'>;
  readonly chunks!: Table<ChunkRow, [string, number]>;
  readonly settings!: EntityTable<SettingRow, 'key'>;

  constructor(name = 'brisk-heron') {
    super(name);
    this.version(1).stores({
      recordings: 'id, addedEpochMs',
      chunks: '[recordingId+sequence], recordingId',
      settings: 'key',
    });
  }

  /** Removes a recording with its chunks. */
  async removeRecording(id: string): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, async () => {
      await this.chunks.where('recordingId').equals(id).delete();
      await this.recordings.delete(id);
    });
  }

  /** Appends a chunk and counts its bytes in one transaction, so that the row always tells what is there. */
  async appendChunk(recordingId: string, sequence: number, bytes: Uint8Array): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, async () => {
      await this.chunks.put({ recordingId, sequence, bytes });
      await this.recordings.where('id').equals(recordingId).modify((row) => {
        row.bytes += bytes.length;
      });
    });
  }
}

/** True when the browser refused to store more. */
export function isQuotaError(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const inner = (error as Error & { inner?: { name?: string } }).inner;
  return error.name === 'QuotaExceededError' || inner?.name === 'QuotaExceededError';
}
