import { EventEmitter, once } from 'node:events';
import { mkdir, open, readdir, readFile, rename, stat, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { streamMetaSchema, type RecorderCommand, type StreamMeta } from '../schemas/contracts.ts';
import { checkBatch, type BatchCheck } from './line-check.ts';

/** One stream as the list shows it. */
export interface StreamState extends StreamMeta {
  readonly bytes: number;
  /** Lines came within the last seconds and the program has not ended. */
  readonly connected: boolean;
}

export type AppendResult =
  | { readonly ok: true; readonly bytes: number; readonly check: BatchCheck; readonly commands: readonly RecorderCommand[] }
  | { readonly ok: false; readonly code: 'wrong-offset' | 'no-hello'; readonly bytes: number; readonly message: string };

interface Entry {
  meta: StreamMeta;
  bytes: number;
  lastSeenMs: number;
  commands: RecorderCommand[];
  readonly grown: EventEmitter;
  writing: Promise<unknown>;
}

/** A recorder that said nothing for this long is taken to be gone. */
const GONE_AFTER_MS = 6000;

/**
 * Streams as append-only files, one a recording, with a small description beside each. Appending names the offset it
 * begins at, so that a batch sent twice is stored once; what was acknowledged is on the disk.
 */
export class StreamStore {
  private readonly directory: string;
  private readonly now: () => number;
  private readonly entries = new Map<string, Entry>();

  private constructor(directory: string, now: () => number) {
    this.directory = directory;
    this.now = now;
  }

  /** Opens a directory, making it when it is missing, with every stream that is in it. */
  static async open(directory: string, now: () => number = Date.now): Promise<StreamStore> {
    await mkdir(directory, { recursive: true });
    const store = new StreamStore(directory, now);
    for (const name of await readdir(directory)) if (name.endsWith('.json')) await store.load(name.slice(0, -5));
    return store;
  }

  list(): StreamState[] {
    return [...this.entries.values()].map((entry) => this.stateOf(entry)).sort((a, b) => b.startedEpochMs - a.startedEpochMs);
  }

  find(id: string): StreamState | null {
    const entry = this.entries.get(id);
    return entry === undefined ? null : this.stateOf(entry);
  }

  /** File that holds the stream's lines. */
  file(id: string): string {
    return join(this.directory, `${id}.ndjson`);
  }

  /** Appends the whole lines of a batch that begins at `offset`; batches of one stream wait for each other. */
  async append(id: string, offset: number, batch: Buffer): Promise<AppendResult> {
    const entry = this.entries.get(id);
    if (entry === undefined) return this.begin(id, offset, batch);
    const turn = entry.writing.then(() => this.appendTo(entry, offset, batch));
    entry.writing = turn.catch(() => undefined);
    return turn;
  }

  /** Leaves a command for the recorder, which fetches it with its next batch. False when there is no such stream. */
  command(id: string, command: RecorderCommand): boolean {
    const entry = this.entries.get(id);
    if (entry === undefined || !this.stateOf(entry).connected) return false;
    entry.commands.push(command);
    return true;
  }

  async end(id: string, ended: NonNullable<StreamMeta['ended']>): Promise<boolean> {
    const entry = this.entries.get(id);
    if (entry === undefined) return false;
    entry.meta = { ...entry.meta, ended };
    await this.saveMeta(entry.meta);
    entry.grown.emit('grown');
    return true;
  }

  /** Waits until the stream has grown or ended, or the time is over. */
  async waitForGrowth(id: string, timeoutMs: number): Promise<void> {
    const entry = this.entries.get(id);
    if (entry === undefined) return;
    await once(entry.grown, 'grown', { signal: AbortSignal.timeout(timeoutMs) }).catch(() => undefined);
  }

  private async load(id: string): Promise<void> {
    try {
      const meta = streamMetaSchema.parse(JSON.parse(await readFile(join(this.directory, `${id}.json`), 'utf8')));
      const { size } = await stat(this.file(id));
      this.entries.set(id, this.entryOf(meta, size, 0));
    } catch {
      // A description without its lines, or half written: its lines, if any, stay on the disk.
    }
  }

  private async begin(id: string, offset: number, batch: Buffer): Promise<AppendResult> {
    if (offset !== 0) return { ok: false, code: 'wrong-offset', bytes: 0, message: 'this stream is not known here: send it from its beginning (offset 0)' };
    const { hello } = checkBatch(batch);
    if (hello === null) {
      return { ok: false, code: 'no-hello', bytes: 0, message: 'expected the first batch to hold a hello line; see docs/formats.md' };
    }
    const meta: StreamMeta = { id, name: hello.program, program: hello.program, runtime: hello.runtime, startedEpochMs: hello.epochMs, ended: null };
    const entry = this.entryOf(meta, 0, this.now());
    // Whoever appends meanwhile waits until the file is there.
    entry.writing = writeFile(this.file(id), '').then(() => this.saveMeta(meta));
    this.entries.set(id, entry);
    return this.append(id, 0, batch);
  }

  private async appendTo(entry: Entry, offset: number, batch: Buffer): Promise<AppendResult> {
    entry.lastSeenMs = this.now();
    if (offset !== entry.bytes) {
      return { ok: false, code: 'wrong-offset', bytes: entry.bytes, message: `expected the batch to begin at byte ${entry.bytes}` };
    }
    const check = checkBatch(batch);
    if (check.wholeBytes > 0) await this.write(entry, batch.subarray(0, check.wholeBytes));
    const commands = entry.commands;
    entry.commands = [];
    return { ok: true, bytes: entry.bytes, check, commands };
  }

  private async write(entry: Entry, bytes: Buffer): Promise<void> {
    const file = this.file(entry.meta.id);
    const handle = await open(file, 'a');
    try {
      await handle.appendFile(bytes);
      await handle.datasync();
    } catch (error) {
      // Part of a batch may be on the disk: it was not acknowledged and will come again.
      await truncate(file, entry.bytes).catch(() => undefined);
      throw error;
    } finally {
      await handle.close();
    }
    entry.bytes += bytes.length;
    entry.grown.emit('grown');
  }

  private async saveMeta(meta: StreamMeta): Promise<void> {
    const file = join(this.directory, `${meta.id}.json`);
    await writeFile(`${file}.new`, JSON.stringify(meta));
    await rename(`${file}.new`, file);
  }

  private entryOf(meta: StreamMeta, bytes: number, lastSeenMs: number): Entry {
    const grown = new EventEmitter();
    grown.setMaxListeners(0);
    return { meta, bytes, lastSeenMs, commands: [], grown, writing: Promise.resolve() };
  }

  private stateOf(entry: Entry): StreamState {
    const connected = entry.meta.ended === null && this.now() - entry.lastSeenMs < GONE_AFTER_MS;
    return { ...entry.meta, bytes: entry.bytes, connected };
  }
}
