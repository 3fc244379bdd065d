import { InputReader, SourceText, type Recording, type SourceShape, type StoredColumns } from '@brisk-heron/core';
import type { HeronDb } from '../db/heron-db.ts';
import type { Progress } from './progress.ts';

/** Chunks read in one go while a recording is loaded. */
const READ_AHEAD = 8;

/** One recording open in the worker: its bytes go in, its columns are asked. */
export class RecordingSession {
  readonly recordingId: string;
  private readonly reader = new InputReader();
  private restored: StoredColumns | null = null;
  /** Chunks stored so far. */
  chunks = 0;
  /** Bytes read so far. */
  bytes = 0;

  constructor(recordingId: string) {
    this.recordingId = recordingId;
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

  /** Takes columns that were kept in place of reading the bytes, of which so many are stored. */
  restore(columns: StoredColumns, chunks: number): void {
    this.restored = columns;
    this.bytes = columns.source.bytes;
    this.chunks = chunks;
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
    const before: Uint8Array[] = [];
    const after: Uint8Array[] = [];
    let start = 0;
    // Chunks are of about a megabyte, and only their lengths are not known beforehand: those far before are passed over
    // one by one.
    for (let sequence = 0; start < to; sequence++) {
      const chunk = await db.chunks.get([this.recordingId, sequence]);
      if (chunk === undefined) break;
      const part = (lowest: number, highest: number): Uint8Array =>
        chunk.bytes.subarray(Math.max(0, lowest - start), Math.max(0, Math.min(chunk.bytes.length, highest - start)));
      before.push(part(from, offset));
      after.push(part(offset, to));
      start += chunk.bytes.length;
    }
    const head = source.linesOf(joined(before));
    const tail = source.linesOf(joined(after));
    // The first line is cut where the bytes begin, and the last where they end.
    if (from > 0) head.shift();
    if (start > to) tail.pop();
    if (head[head.length - 1] === '') head.pop();
    return { lines: [...head, ...tail], at: head.length };
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
    for (;;) {
      const from = [this.recordingId, this.chunks];
      const to = [this.recordingId, this.chunks + READ_AHEAD];
      const rows = await db.chunks.where('[recordingId+sequence]').between(from, to, true, false).sortBy('sequence');
      if (rows.length === 0) break;
      for (const chunk of rows) this.take(chunk.bytes);
      this.chunks += rows.length;
      onProgress({ doing: 'Reading the recording', doneBytes: this.bytes, totalBytes });
    }
  }

  /** Ends a finished input, so that its last line is read. */
  end(): void {
    const result = this.reader.end();
    if (!result.ok) throw new Error(result.message);
  }
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
