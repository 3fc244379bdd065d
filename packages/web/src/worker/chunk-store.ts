import { joined } from '../db/chunk-bytes.ts';
import { type ChunkRow, type HeronDb, isQuotaError, RecordingGone, StoreConflict } from '../db/heron-db.ts';
import type { RecordingSession } from './recording-session.ts';

const CHUNK_BYTES = 1024 * 1024;
/**
 * What is stored at once of a plain file: each part costs the store a few turns, which wait for what is read meanwhile.
 * The first are small, so that little is lost of an import that dies early.
 */
const LEAST_PART_BYTES = 4 * CHUNK_BYTES;
const MOST_PART_BYTES = 32 * CHUNK_BYTES;
const STORED_A_PART = 4;
/** Chunks that are on their way into the store at once: reading goes on meanwhile, and memory stays bounded. */
const MOST_STORING = 8;

/** Gathers bytes into chunks of about a megabyte, stores each and passes it to the session. */
export class ChunkStore {
  private readonly db: HeronDb;
  private readonly session: RecordingSession;
  private waiting: Uint8Array[] = [];
  private waitingBytes = 0;
  private readonly storing: Promise<void>[] = [];
  /** How much of the plain file that is read is stored or on its way. */
  private storedOfFile = 0;
  /** Bytes added so far, stored or not. */
  addedBytes = 0;

  constructor(db: HeronDb, session: RecordingSession) {
    this.db = db;
    this.session = session;
  }

  async add(bytes: Uint8Array): Promise<void> {
    this.waiting.push(bytes);
    this.waitingBytes += bytes.length;
    this.addedBytes += bytes.length;
    if (this.waitingBytes >= CHUNK_BYTES) await this.pass();
  }

  /** Resolves when everything that was passed on is in the store. */
  async flush(): Promise<void> {
    await this.waitFor(0);
  }

  /**
   * Passes the bytes of a plain file at an offset, null at its end, to the session; the file's parts are stored as they
   * are complete.
   */
  async addOfFile(file: File, offset: number, bytes: Uint8Array | null): Promise<void> {
    if (offset === 0) this.storedOfFile = 0;
    const readBytes = offset + (bytes?.length ?? 0);
    this.addedBytes += readBytes - offset;
    while (readBytes - this.storedOfFile >= this.partBytes || (bytes === null && readBytes > this.storedOfFile)) {
      const to = Math.min(readBytes, this.storedOfFile + this.partBytes);
      this.store(file.slice(this.storedOfFile, to), to - this.storedOfFile, file.name);
      this.storedOfFile = to;
    }
    if (bytes !== null) this.session.take(bytes);
    await this.waitFor(MOST_STORING);
  }

  private get partBytes(): number {
    return Math.max(LEAST_PART_BYTES, Math.min(MOST_PART_BYTES, Math.floor(this.storedOfFile / STORED_A_PART)));
  }

  /** Stores what waits. */
  async pass(): Promise<void> {
    if (this.waitingBytes === 0) return;
    const chunk = joined(this.waiting);
    this.waiting = [];
    this.waitingBytes = 0;
    this.store(chunk, chunk.length, '');
    this.session.take(chunk);
    await this.waitFor(MOST_STORING);
  }

  private store(bytes: ChunkRow['bytes'], length: number, fileName: string): void {
    const last = this.storing[this.storing.length - 1] ?? Promise.resolve();
    const sequence = this.session.nextChunk(length);
    const stored = last.then(() => this.append(sequence, bytes, fileName));
    // Whoever waits for it is told.
    stored.catch(() => undefined);
    this.storing.push(stored);
  }

  private async append(sequence: number, bytes: ChunkRow['bytes'], fileName: string): Promise<void> {
    const { recordingId } = this.session;
    try {
      await this.db.appendChunk(recordingId, sequence, bytes);
    } catch (error) {
      const isOurs = error instanceof RecordingGone || error instanceof StoreConflict || isQuotaError(error);
      if (!(bytes instanceof Blob) || isOurs) throw error;
      // A browser that keeps no parts of files keeps their bytes.
      const copy = await bytes.arrayBuffer().catch((cause: unknown) => {
        throw cannotBeRead(fileName, cause);
      });
      await this.db.appendChunk(recordingId, sequence, new Uint8Array(copy));
    }
  }

  private async waitFor(most: number): Promise<void> {
    while (this.storing.length > most) await this.storing.shift();
  }
}

/** Said of a file that was there when it was chosen. */
export function cannotBeRead(name: string, cause: unknown): Error {
  return new Error(`${name} can no longer be read: was it moved or changed?`, { cause });
}
