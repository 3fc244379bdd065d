import type { Notebook } from '@brisk-heron/core';
import Dexie, { type EntityTable, type Table } from 'dexie';
import { z } from 'zod';

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

/** Where the sources of a recording's program lie on the user's disk. */
export interface FolderRow {
  readonly recordingId: string;
  readonly handle: FileSystemDirectoryHandle;
}

/** The browser's own store. Versions are only ever added. */
export class HeronDb extends Dexie {
  readonly recordings!: EntityTable<RecordingRow, 'id'>;
  readonly chunks!: Table<ChunkRow, [string, number]>;
  readonly settings!: EntityTable<SettingRow, 'key'>;
  readonly folders!: EntityTable<FolderRow, 'recordingId'>;

  constructor(name = 'brisk-heron') {
    super(name);
    this.version(1).stores({
      recordings: 'id, addedEpochMs',
      chunks: '[recordingId+sequence], recordingId',
      settings: 'key',
    });
    this.version(2).stores({ folders: 'recordingId' });
  }

  /** Removes a recording with its chunks. */
  async removeRecording(id: string): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, this.folders, async () => {
      await this.chunks.where('recordingId').equals(id).delete();
      await this.folders.delete(id);
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

const FINDS_KEY = 'saved finds';
const findsSchema = z.array(z.string()).max(200);

/** Finds that the engineer saved in this browser, the last saved first; none where what is stored cannot be read. */
export async function savedFinds(db: HeronDb): Promise<readonly string[]> {
  const stored = await db.settings.get(FINDS_KEY);
  if (stored === undefined) return [];
  try {
    return findsSchema.parse(JSON.parse(stored.value));
  } catch {
    return [];
  }
}

/** Stores the finds in place of those before. */
export async function saveFinds(db: HeronDb, finds: readonly string[]): Promise<void> {
  await db.settings.put({ key: FINDS_KEY, value: JSON.stringify(finds.slice(0, 200)) });
}

/** True when the browser refused to store more. */
export function isQuotaError(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const inner = (error as Error & { inner?: { name?: string } }).inner;
  return error.name === 'QuotaExceededError' || inner?.name === 'QuotaExceededError';
}
