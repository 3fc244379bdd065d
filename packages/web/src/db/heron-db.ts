import type { Notebook, RunPoint } from '@brisk-heron/core';
import Dexie, { type EntityTable, type Table } from 'dexie';
import { z } from 'zod';
import { chunkLength } from './chunk-bytes.ts';

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
  /**
   * Chunks stored, numbered from 0 without a gap. Absent in rows of an older page, whose chunks are counted at opening.
   */
  chunks?: number;
  /** Its runs on the time line of their program. Absent in rows of an older page. */
  runs?: RunPoint[];
  /** Set while files are read into it; whoever reads holds the lock `importLock(id)`. */
  importing?: boolean;
  /** What of its source is not here, in words; absent where all is. */
  missing?: string;
  /** What the engineer noted; absent until something was. */
  notebook?: Notebook;
}

/** Raw bytes of a recording, in order; the source as it came, so that nothing is lost to a parser's mistake. */
export interface ChunkRow {
  readonly recordingId: string;
  readonly sequence: number;
  /** A plain file's parts are parts of it: the browser copies them itself. Read through `db/chunk-bytes.ts`. */
  readonly bytes: Uint8Array<ArrayBuffer> | Blob;
}

/** A setting of this browser. */
export interface SettingRow {
  readonly key: string;
  readonly value: string;
}

/** Where the sources of a recording's program lie on the user's disk. */
export interface FolderRow {
  readonly recordingId: string;
  readonly handle: FileSystemDirectoryHandle;
}

/** A recording's columns as they were read out of its chunks: dropped and made anew whenever they do not fit. */
export interface ColumnsRow {
  readonly recordingId: string;
  readonly file: Blob;
  /** How the program of a stream ended, in words; null where nothing says that no more will come. */
  readonly endedHow: string | null;
  /** Offset behind each chunk of the source. Absent in rows of an older page. */
  readonly chunkEnds?: readonly number[];
}

/** The browser's own store. Versions are only ever added. */
export class HeronDb extends Dexie {
  readonly recordings!: EntityTable<RecordingRow, 'id'>;
  readonly chunks!: Table<ChunkRow, [string, number]>;
  readonly settings!: EntityTable<SettingRow, 'key'>;
  readonly folders!: EntityTable<FolderRow, 'recordingId'>;
  readonly columns!: EntityTable<ColumnsRow, 'recordingId'>;

  constructor(name = 'brisk-heron') {
    super(name);
    this.version(1).stores({
      recordings: 'id, addedEpochMs',
      chunks: '[recordingId+sequence], recordingId',
      settings: 'key',
    });
    this.version(2).stores({ folders: 'recordingId' });
    this.version(3).stores({ columns: 'recordingId' });
  }

  /** Removes a recording with its chunks. */
  async removeRecording(id: string): Promise<void> {
    await this.transaction('rw', [this.recordings, this.chunks, this.folders, this.columns], async () => {
      await this.chunks.where('recordingId').equals(id).delete();
      await this.folders.delete(id);
      await this.columns.delete(id);
      await this.recordings.delete(id);
    });
  }

  /**
   * Appends a chunk and counts its bytes in one transaction, so that the row always tells what is there, and no chunk
   * is there without a row.
   * @throws RecordingGone when the recording was deleted, StoreConflict when another has stored a chunk of that number.
   */
  async appendChunk(recordingId: string, sequence: number, bytes: ChunkRow['bytes']): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, async () => {
      const row = await this.recordings.get(recordingId);
      if (row === undefined) throw new RecordingGone();
      if (row.chunks !== undefined && row.chunks !== sequence) throw new StoreConflict();
      await this.chunks.put({ recordingId, sequence, bytes });
      await this.recordings.update(recordingId, { bytes: row.bytes + chunkLength({ bytes }), chunks: sequence + 1 });
    });
  }

  /**
   * Makes a recording's row tell what is stored of it: chunks without a gap before them. What lies behind a gap is
   * removed; of a stream it is fetched again. Nobody may be storing to it meanwhile.
   */
  async mendRecording(recordingId: string): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, async () => {
      const row = await this.recordings.get(recordingId);
      if (row === undefined) return;
      const between = (from: number, to: number) =>
        this.chunks.where('[recordingId+sequence]').between([recordingId, from], [recordingId, to], true, false);
      const keys = await between(0, Infinity).primaryKeys();
      const gap = keys.findIndex(([, sequence], place) => sequence !== place);
      const chunks = gap < 0 ? keys.length : gap;
      if (gap < 0 && (row.chunks ?? chunks) === chunks) {
        if (row.chunks === undefined) await this.recordings.update(recordingId, { chunks });
        return;
      }
      // The chunks themselves are read only where something is amiss.
      let bytes = 0;
      await between(0, chunks).each((chunk) => {
        bytes += chunkLength(chunk);
      });
      await between(chunks, Infinity).delete();
      const lacks =
        row.streamId === '' && row.importing !== true && bytes < row.bytes
          ? {
              missing: `Of ${row.bytes} bytes that were stored here ${row.bytes - bytes} are gone: every figure is of the part before them.`,
            }
          : {};
      await this.recordings.update(recordingId, { bytes, chunks, ...lacks });
    });
  }

  /** Removes chunks that belong to no recording, as an older page could leave them. */
  async removeOrphans(): Promise<void> {
    await this.transaction('rw', this.recordings, this.chunks, async () => {
      const known = new Set(await this.recordings.toCollection().primaryKeys());
      for (const id of await this.chunks.orderBy('recordingId').uniqueKeys())
        if (!known.has(String(id))) await this.chunks.where('recordingId').equals(String(id)).delete();
    });
  }
}

/** The recording was deleted, in another tab perhaps. */
export class RecordingGone extends Error {
  constructor() {
    super('this recording was deleted: what arrives is shown and not kept');
  }
}

/** Another tab has stored what this one was about to. */
export class StoreConflict extends Error {
  constructor() {
    super('another tab stores this recording: what arrives here is shown and kept there');
  }
}

/** Name of the lock that whoever reads files into a recording holds. */
export function importLock(recordingId: string): string {
  return `brisk-heron import ${recordingId}`;
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
