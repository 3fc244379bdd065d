import { EventEmitter, once } from 'node:events';
import { join } from 'node:path';
import type { RecorderCommand, StreamMeta } from '../schemas/contracts.ts';
import { claim, type Claim } from './claim.ts';
import { checkBatch, type BatchCheck } from './line-check.ts';
import { privateFolder } from './private-folder.ts';
import { runIdentity, runIdentityOf } from './run-identity.ts';
import { StreamFolder } from './stream-folder.ts';

/** One stream as the list shows it. */
export interface StreamState extends StreamMeta {
  readonly bytes: number;
  /** Lines came within the last seconds and the program has not ended. */
  readonly connected: boolean;
}

/** What came of bytes that were sent. */
export type AppendResult =
  | {
      readonly ok: true;
      readonly bytes: number;
      readonly check: BatchCheck;
      readonly commands: readonly RecorderCommand[];
    }
  | {
      readonly ok: false;
      readonly code: 'wrong-offset' | 'no-hello' | 'other-run' | 'too-many';
      readonly bytes: number;
      readonly message: string;
    };

interface Entry {
  meta: StreamMeta;
  bytes: number;
  lastSeenMs: number;
  commands: RecorderCommand[];
  readonly grown: EventEmitter;
  writing: Promise<unknown>;
  /** Identity of its run; '' until it was asked for. */
  run: string;
}

/** Where a batch belongs. */
export interface BatchPlace {
  /** Byte of the stream that it begins at. */
  readonly offset: number;
  /** Identity of the run that it is of, as its sender sees it; '' where that does not tell. */
  readonly run?: string;
  /** Name of a log that is sent as it is; '' for a stream of lines, which begins with a hello. */
  readonly log?: string;
}

/** More streams than this are more than anyone looks through. */
const MOST_STREAMS = 20_000;
/** A recorder that said nothing for this long is taken to be gone. */
const GONE_AFTER_MS = 6000;

/**
 * Streams as append-only files, one a recording, with a small description beside each. Appending names the offset it
 * begins at, so that a batch sent twice is stored once; what was acknowledged is on the disk with all that is needed to
 * find it again.
 */
export class StreamStore {
  private readonly folder: StreamFolder;
  private readonly held: Claim;
  private readonly now: () => number;
  private readonly entries = new Map<string, Entry>();
  /** Ends that were told of streams that never said a word: a command in which no recorder spoke. */
  private readonly silent = new Map<string, NonNullable<StreamMeta['ended']>>();

  private constructor(folder: StreamFolder, held: Claim, now: () => number) {
    this.folder = folder;
    this.held = held;
    this.now = now;
  }

  /**
   * Opens a directory, making it when it is missing, with every stream that is in it.
   * @throws with a message for people when another server holds it, or it cannot be written to.
   */
  static async open(directory: string, now: () => number = Date.now): Promise<StreamStore> {
    privateFolder(directory);
    const held = claim(join(directory, 'server'));
    if ('heldBy' in held)
      throw new Error(
        `another server (process ${held.heldBy}) keeps its recordings in ${directory}: end that one, or name another folder with BRISK_HERON_DATA`,
      );
    const folder = new StreamFolder(directory);
    const store = new StreamStore(folder, held, now);
    for (const { meta, bytes } of folder.read()) store.entries.set(meta.id, store.entryOf(meta, bytes, 0));
    return store;
  }

  /** Lets go of the directory once everything that was taken is written. */
  async close(): Promise<void> {
    await Promise.all([...this.entries.values()].map((entry) => entry.writing));
    this.held.release();
  }

  list(): StreamState[] {
    return [...this.entries.values()]
      .map((entry) => this.stateOf(entry))
      .sort((a, b) => b.startedEpochMs - a.startedEpochMs);
  }

  find(id: string): StreamState | null {
    const entry = this.entries.get(id);
    return entry === undefined ? null : this.stateOf(entry);
  }

  /** How a command ended in which no recorder spoke; null for any other. */
  silentEnd(id: string): NonNullable<StreamMeta['ended']> | null {
    return this.silent.get(id) ?? null;
  }

  /** File that holds the stream's lines. */
  file(id: string): string {
    return this.folder.lines(id);
  }

  /** Appends the whole lines of a batch; batches of one stream wait for each other. */
  async append(id: string, place: BatchPlace, batch: Buffer): Promise<AppendResult> {
    const whole = wholeLines(batch, place);
    const check = await checkBatch(place.log === undefined || place.log === '' ? whole : Buffer.alloc(0));
    const entry = this.entries.get(id);
    if (entry === undefined) return this.begin(id, place, whole, check);
    const turn = entry.writing.then(() => this.appendTo(entry, place, whole, check));
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

  /** Keeps how a program ended; false for a stream of which nothing is known, whose end is kept until the server's. */
  async end(id: string, ended: NonNullable<StreamMeta['ended']>): Promise<boolean> {
    const entry = this.entries.get(id);
    if (entry === undefined) {
      if (this.silent.size < MOST_STREAMS) this.silent.set(id, ended);
      return false;
    }
    const turn = entry.writing.then(async () => {
      await this.folder.save({ ...entry.meta, ended });
      entry.meta = { ...entry.meta, ended };
      entry.grown.emit('grown');
    });
    entry.writing = turn.catch(() => undefined);
    await turn;
    return true;
  }

  /** Waits until the stream has grown or ended, or the time is over. */
  async waitForGrowth(id: string, timeoutMs: number): Promise<void> {
    const entry = this.entries.get(id);
    if (entry === undefined) return;
    await once(entry.grown, 'grown', { signal: AbortSignal.timeout(timeoutMs) }).catch(() => undefined);
  }

  private async begin(id: string, place: BatchPlace, whole: Buffer, check: BatchCheck): Promise<AppendResult> {
    if (place.offset !== 0)
      return {
        ok: false,
        code: 'wrong-offset',
        bytes: 0,
        message: 'this stream is not known here: send it from its beginning (offset 0)',
      };
    const { hello } = check;
    const log = place.log ?? '';
    if (hello === null && (log === '' || whole.length === 0)) {
      return {
        ok: false,
        code: 'no-hello',
        bytes: 0,
        message: 'expected the first batch to hold a hello line; see docs/formats.md',
      };
    }
    if (this.entries.size >= MOST_STREAMS)
      return {
        ok: false,
        code: 'too-many',
        bytes: 0,
        message: `expected fewer than ${MOST_STREAMS} recordings in the data folder: remove old ones there`,
      };
    const { program, runtime, epochMs } = hello ?? { program: log, runtime: '', epochMs: this.now() };
    const meta: StreamMeta = { id, name: program, program, runtime, startedEpochMs: epochMs, ended: null };
    const entry = this.entryOf(meta, 0, this.now());
    this.entries.set(id, entry);
    // Whoever appends meanwhile waits, and finds it gone where the disk did not take it.
    const turn = this.folder
      .save(meta)
      .then(() => this.appendTo(entry, place, whole, check))
      .catch((error: unknown) => {
        this.entries.delete(id);
        this.folder.discard(id);
        throw error;
      });
    entry.writing = turn.catch(() => undefined);
    this.silent.delete(id);
    return turn;
  }

  private async appendTo(
    entry: Entry,
    { offset, run = '' }: BatchPlace,
    whole: Buffer,
    check: BatchCheck,
  ): Promise<AppendResult> {
    if (this.entries.get(entry.meta.id) !== entry)
      return {
        ok: false,
        code: 'wrong-offset',
        bytes: 0,
        message: 'this stream could not be begun: send it from its beginning (offset 0)',
      };
    entry.lastSeenMs = this.now();
    if (entry.run === '')
      entry.run = entry.bytes > 0 ? await runIdentityOf(this.folder.lines(entry.meta.id)) : runIdentity(whole);
    if (run !== '' && entry.run !== '' && run !== entry.run) {
      return {
        ok: false,
        code: 'other-run',
        bytes: entry.bytes,
        message: `the recording ${entry.meta.id} is of another run (${entry.meta.program}): choose another id`,
      };
    }
    if (offset !== entry.bytes) {
      return {
        ok: false,
        code: 'wrong-offset',
        bytes: entry.bytes,
        message: `expected the batch to begin at byte ${entry.bytes}`,
      };
    }
    if (whole.length > 0) {
      await this.folder.append(entry.meta.id, entry.bytes, whole);
      entry.bytes += whole.length;
      // A sender that was ended and goes on with the same run.
      if (entry.meta.ended !== null) await this.folder.save((entry.meta = { ...entry.meta, ended: null }));
      entry.grown.emit('grown');
    }
    const commands = entry.commands;
    entry.commands = [];
    return { ok: true, bytes: entry.bytes, check, commands };
  }

  private entryOf(meta: StreamMeta, bytes: number, lastSeenMs: number): Entry {
    const grown = new EventEmitter();
    grown.setMaxListeners(0);
    return { meta, bytes, lastSeenMs, commands: [], grown, writing: Promise.resolve(), run: '' };
  }

  private stateOf(entry: Entry): StreamState {
    const connected = entry.meta.ended === null && this.now() - entry.lastSeenMs < GONE_AFTER_MS;
    return { ...entry.meta, bytes: entry.bytes, connected };
  }
}

/**
 * A sender passes on so much without a line's end: it is a line that no reader can use, and stored so that what comes
 * after it arrives.
 */
const LONGEST_LINE_BYTES = 4 * 1024 * 1024;

function wholeLines(batch: Buffer, { log = '' }: BatchPlace): Buffer {
  const whole = batch.lastIndexOf(10) + 1;
  return whole === 0 && (log !== '' || batch.length >= LONGEST_LINE_BYTES) ? batch : batch.subarray(0, whole);
}
