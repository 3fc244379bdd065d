import { InputReader, SourceText, type Recording, type SourceShape, type StoredColumns } from '@brisk-heron/core';
import { chunkBytes, chunkLength, chunkPieces, joined } from '../db/chunk-bytes.ts';
import type { HeronDb } from '../db/heron-db.ts';
import type { Progress } from './progress.ts';
import { ReadSoFar } from './read-so-far.ts';

/** Chunks read in one go while a recording is loaded. */
const READ_AHEAD = 8;

/** One recording open in the worker: its bytes go in, its columns are asked. */
export class RecordingSession {
  readonly recordingId: string;
  private readonly reader = new InputReader();
  private restored: StoredColumns | null = null;
  /** Offset behind each chunk that is stored or on its way into the store. */
  private readonly ends: number[] = [];
  /** Bytes read so far. */
  bytes = 0;

  constructor(recordingId: string) {
    this.recordingId = recordingId;
  }

  /** How many bytes will come, where that is known. */
  expect(bytes: number): void {
    this.reader.expectedBytes = bytes;
  }

  /** Chunks stored so far. */
  get chunks(): number {
    return this.ends.length;
  }

  /** Offset behind each of them. */
  get chunkEnds(): readonly number[] {
    return this.ends;
  }

  /** Counts the next chunk, of so many bytes: its number. */
  nextChunk(bytes: number): number {
    return this.ends.push(this.storedBytes + bytes) - 1;
  }

  /** Runs found in the input. */
  get runs(): readonly Recording[] {
    return this.restored?.runs ?? this.reader.runs;
  }

  /** How the text lies in the stored bytes. */
  get shape(): SourceShape {
    return this.restored?.source ?? this.reader.shape;
  }

  /** True where its columns were kept, and nothing had to be read. */
  get isRestored(): boolean {
    return this.restored !== null;
  }

  /** Takes columns that were kept in place of reading the bytes; `chunkEnds` where that was kept too. */
  restore(columns: StoredColumns, chunkEnds: readonly number[] = []): void {
    this.restored = columns;
    this.bytes = columns.source.bytes;
    this.ends.push(...chunkEnds);
  }

  /**
   * Lines around the byte that a parser calls `textOffset`, out of the stored source: as many bytes before and after as
   * given, whole lines only;
   * `at` is the line that begins there.
   */
  async textAround(
    db: HeronDb,
    textOffset: number,
    beforeBytes: number,
    afterBytes: number,
  ): Promise<{ readonly lines: readonly string[]; readonly at: number }> {
    const source = new SourceText(this.shape);
    const offset = source.inputOffset(textOffset);
    const [from, to] = [Math.max(0, offset - beforeBytes), offset + afterBytes];
    if (to > this.storedBytes) await this.findChunks(db);
    const before: Uint8Array[] = [];
    const after: Uint8Array[] = [];
    const first = this.ends.findIndex((end) => end > from);
    for (let sequence = Math.max(0, first); sequence < this.chunks; sequence++) {
      const start = sequence === 0 ? 0 : this.ends[sequence - 1]!;
      const chunk = start < to ? await db.chunks.get([this.recordingId, sequence]) : undefined;
      if (chunk === undefined) break;
      before.push(await chunkBytes(chunk, from - start, offset - start));
      after.push(await chunkBytes(chunk, offset - start, to - start));
    }
    const head = source.linesOf(joined(before));
    const tail = source.linesOf(joined(after));
    // The first line is cut where the bytes begin, and the last where they end.
    if (from > 0) head.shift();
    if (to < this.storedBytes) tail.pop();
    if (head[head.length - 1] === '') head.pop();
    return { lines: [...head, ...tail], at: head.length };
  }

  private get storedBytes(): number {
    return this.ends[this.chunks - 1] ?? 0;
  }

  // Columns that an older page kept do not tell where the chunks end, and another tab may have stored more of them.
  private async findChunks(db: HeronDb): Promise<void> {
    for (let sequence = this.chunks; ; sequence++) {
      const chunk = await db.chunks.get([this.recordingId, sequence]);
      if (chunk === undefined) return;
      this.nextChunk(chunkLength(chunk));
    }
  }

  hasRecording(): boolean {
    return this.runs.length > 0;
  }

  /** Takes the next bytes, which the session then owns. */
  take(bytes: Uint8Array): void {
    this.reader.write(bytes);
    this.bytes += bytes.length;
  }

  /** Looks at a live input before much of it came. */
  look(): void {
    this.reader.lookNow();
  }

  /** Loads what the browser has stored, telling how far it is. */
  async load(db: HeronDb, onProgress: (progress: Progress) => void): Promise<void> {
    const row = await db.recordings.get(this.recordingId);
    const totalBytes = row?.bytes ?? NaN;
    const soFar = new ReadSoFar(this);
    for (;;) {
      const from = [this.recordingId, this.chunks];
      const to = [this.recordingId, this.chunks + READ_AHEAD];
      const rows = await db.chunks.where('[recordingId+sequence]').between(from, to, true, false).sortBy('sequence');
      if (rows.length === 0) break;
      for (const chunk of rows) {
        this.nextChunk(chunkLength(chunk));
        for await (const piece of chunkPieces(chunk)) {
          this.take(piece);
          onProgress({ doing: 'Reading the recording', doneBytes: this.bytes, totalBytes, soFar: soFar.told });
        }
      }
    }
  }

  /** Ends a finished input, so that its last line is read. */
  end(): void {
    const result = this.reader.end();
    if (!result.ok) throw new Error(result.message);
  }
}
