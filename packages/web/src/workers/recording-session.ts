import { InputReader, type Recording } from '@brisk-heron/core';
import type { HeronDb } from '../db/heron-db.ts';
import type { Progress } from './protocol.ts';

/** Chunks read in one go while a recording is loaded. */
const READ_AHEAD = 8;

/** One recording open in the worker: its bytes go in, its columns are asked. */
export class RecordingSession {
  readonly recordingId: string;
  private readonly reader = new InputReader();
  /** Chunks stored so far. */
  chunks = 0;
  /** Bytes read so far. */
  bytes = 0;

  constructor(recordingId: string) {
    this.recordingId = recordingId;
  }

  /** The run that is shown: the last of the input. @throws when nothing readable has come yet. */
  recording(): Recording {
    const { runs } = this.reader;
    const last = runs[runs.length - 1];
    if (last === undefined) throw new Error('nothing of this recording has arrived yet');
    return last;
  }

  /** Runs found in the input. */
  get runs(): number {
    return this.reader.runs.length;
  }

  hasRecording(): boolean {
    return this.reader.runs.length > 0;
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
