import { closeSync, openSync, readdirSync, readFileSync, readSync, rmSync, statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { checkStreamLine } from '@brisk-heron/core';
import { streamIdSchema, streamMetaSchema, type StreamMeta } from '../schemas/contracts.ts';
import { appendDurably, replaceDurably } from './durable-file.ts';

/** Looked at for a hello, where a stream's description is missing. */
const HEAD_BYTES = 256 * 1024;
const TAIL_BYTES = 64 * 1024;

/** Streams as files: `ID.ndjson` with the lines as they came, `ID.json` with what describes them. */
export class StreamFolder {
  private readonly directory: string;

  constructor(directory: string) {
    this.directory = directory;
  }

  /** File that holds a stream's lines. */
  lines(id: string): string {
    return join(this.directory, `${id}.ndjson`);
  }

  /**
   * Every stream with the length of its lines. What a fault left is mended: a description that is missing is made again
   * from the stream's own hello, and a last line that was never acknowledged is cut off.
   */
  *read(): Generator<{ readonly meta: StreamMeta; readonly bytes: number }> {
    const names = readdirSync(this.directory);
    const described = new Set(names.filter((name) => name.endsWith('.json')).map((name) => name.slice(0, -5)));
    for (const name of names) {
      if (name.endsWith('.json.new')) rmSync(join(this.directory, name), { force: true });
      if (!name.endsWith('.ndjson')) continue;
      const id = name.slice(0, -7);
      if (!streamIdSchema.safeParse(id).success) continue;
      const bytes = this.wholeBytes(id);
      const meta = (described.has(id) ? this.describedBy(id) : null) ?? this.describedByHello(id);
      if (meta !== null && bytes > 0) yield { meta, bytes };
    }
  }

  /** Keeps a stream's description. It is there before the first line is. */
  save(meta: StreamMeta): Promise<void> {
    return replaceDurably(join(this.directory, `${meta.id}.json`), JSON.stringify(meta));
  }

  append(id: string, length: number, bytes: Buffer): Promise<void> {
    return appendDurably(this.lines(id), length, bytes);
  }

  /** Removes a stream of which nothing was acknowledged. */
  discard(id: string): void {
    for (const file of [this.lines(id), join(this.directory, `${id}.json`)]) rmSync(file, { force: true });
  }

  // Length up to the last whole line; longer lines than are looked at stay as they are.
  private wholeBytes(id: string): number {
    const { size } = statSync(this.lines(id));
    const tail = this.bytes(id, Math.max(0, size - TAIL_BYTES), TAIL_BYTES);
    if (size === 0 || tail[tail.length - 1] === 10 || tail.lastIndexOf(10) < 0) return size;
    const whole = size - (tail.length - 1 - tail.lastIndexOf(10));
    truncateSync(this.lines(id), whole);
    return whole;
  }

  private describedBy(id: string): StreamMeta | null {
    try {
      return streamMetaSchema.parse(JSON.parse(readFileSync(join(this.directory, `${id}.json`), 'utf8')));
    } catch {
      return null;
    }
  }

  private describedByHello(id: string): StreamMeta | null {
    for (const text of this.bytes(id, 0, HEAD_BYTES).toString('utf8').split('\n')) {
      const check = checkStreamLine(text);
      if (check.ok && check.line.k === 'hello') {
        const { program, runtime, epochMs } = check.line;
        return { id, name: program, program, runtime, startedEpochMs: epochMs, ended: null };
      }
    }
    return null;
  }

  private bytes(id: string, from: number, length: number): Buffer {
    const file = openSync(this.lines(id), 'r');
    try {
      const buffer = Buffer.alloc(length);
      return buffer.subarray(0, readSync(file, buffer, 0, length, from));
    } finally {
      closeSync(file);
    }
  }
}
