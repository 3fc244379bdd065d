import { z } from 'zod';
import { joined } from '../db/chunk-bytes.ts';
import { type HeronDb, isQuotaError, RecordingGone, StoreConflict } from '../db/heron-db.ts';
import type { LinkState } from './protocol.ts';
import type { RecordingSession } from './recording-session.ts';

const stateSchema = z.object({
  bytes: z.number(),
  connected: z.boolean(),
  ended: z.object({ exitCode: z.number().nullable(), signal: z.string().nullable() }).nullable(),
});

const RETRY_MS = 1500;
const CLAIM_MS = 2000;
/** Close code with which the server says that it has no such stream. */
const UNKNOWN_STREAM = 4404;
/** More than this on its way is told. */
const BEHIND_BYTES = 8 * 1024 * 1024;
/** Bytes are stored when this many wait or the stream pauses. */
const STORE_BYTES = 512 * 1024;

/** Which stream is followed, and into what. */
export interface LiveLinkOptions {
  readonly db: HeronDb;
  readonly session: RecordingSession;
  /** Address of the server, `ws://…`. */
  readonly server: string;
  readonly streamId: string;
  readonly onChange: () => void;
}

/**
 * Follows a stream on the server from the byte up to which it is stored here. Frames are read at once and stored in
 * their order; a lost link is taken up again where it broke.
 */
export class LiveLink {
  state: LinkState = 'connecting';
  /** How the program ended, in words; '' while it has not. */
  endedHow = '';
  /** What the server has and this end does not yet, where that is much. */
  behindBytes = 0;
  /** Why what arrives is not kept; '' while it is. */
  warning = '';
  private readonly options: LiveLinkOptions;
  private waiting: Uint8Array[] = [];
  private waitingBytes = 0;
  private storing: Promise<void> = Promise.resolve();
  /** Whether this tab is the one that stores: two that did would mix their chunks. */
  private isKeeper = false;

  constructor(options: LiveLinkOptions) {
    this.options = options;
  }

  /** Becomes the one that stores this recording, unless another tab stays so; waits for one that is about to close. */
  async claim(): Promise<boolean> {
    const { session } = this.options;
    await new Promise<void>((claimed) => {
      navigator.locks
        .request(`brisk-heron ${session.recordingId}`, { signal: AbortSignal.timeout(CLAIM_MS) }, () => {
          this.isKeeper = true;
          claimed();
          // Held for as long as the worker lives.
          return new Promise<void>(() => undefined);
        })
        .catch(() => claimed());
    });
    return this.isKeeper;
  }

  /** Connects; comes back to life by itself until the stream ends. */
  connect(): void {
    const { server, streamId, session } = this.options;
    const socket = new WebSocket(`${server}/api/streams/${encodeURIComponent(streamId)}/live?offset=${session.bytes}`);
    socket.binaryType = 'arraybuffer';
    socket.onmessage = (event: MessageEvent<ArrayBuffer | string>) => this.take(event.data);
    socket.onclose = (event) => this.closed(event.code);
  }

  /** Stores what has arrived; resolves when it is in the browser's store. */
  async flush(): Promise<void> {
    this.store();
    await this.storing;
  }

  private take(data: ArrayBuffer | string): void {
    if (typeof data === 'string') this.told(data);
    else {
      const bytes = new Uint8Array(data);
      this.options.session.take(bytes);
      this.waiting.push(bytes);
      this.waitingBytes += bytes.length;
      if (this.waitingBytes >= STORE_BYTES) this.store();
    }
    this.options.onChange();
  }

  private told(text: string): void {
    const state = stateSchema.safeParse(JSON.parse(text));
    if (!state.success) return;
    this.options.session.look();
    const isBehind = state.data.bytes - this.options.session.bytes > BEHIND_BYTES;
    this.state = isBehind ? 'behind' : state.data.ended !== null ? 'ended' : state.data.connected ? 'live' : 'waiting';
    if (state.data.ended !== null) this.endedHow = endedHow(state.data.ended);
    this.behindBytes = isBehind ? state.data.bytes - this.options.session.bytes : 0;
    this.store();
  }

  private closed(code: number): void {
    this.store();
    if (this.state === 'ended') return;
    // An address may be opened before its program has said hello.
    const unknown = code === UNKNOWN_STREAM;
    const awaited = unknown && this.options.session.bytes === 0;
    this.state = awaited ? 'waiting' : 'disconnected';
    if (unknown && !awaited) this.warning = 'the server no longer has this stream: what had arrived is shown';
    else setTimeout(() => this.connect(), RETRY_MS);
    this.options.onChange();
  }

  // One chunk after another: the stored bytes are always a beginning of the stream.
  private store(): void {
    if (!this.isKeeper) {
      this.waiting = [];
      this.waitingBytes = 0;
    }
    if (this.waitingBytes === 0) return;
    if (this.warning !== '') {
      this.waiting = [];
      this.waitingBytes = 0;
      return;
    }
    const chunk = joined(this.waiting);
    this.waiting = [];
    this.waitingBytes = 0;
    const { db, session } = this.options;
    const sequence = session.nextChunk(chunk.length);
    this.storing = this.storing
      .then(() => (this.warning === '' ? db.appendChunk(session.recordingId, sequence, chunk) : undefined))
      .catch((error: unknown) => {
        this.warning = storeTrouble(error);
        this.options.onChange();
      });
  }
}

function endedHow({ exitCode, signal }: { exitCode: number | null; signal: string | null }): string {
  if (signal !== null) return `was ended by ${signal}`;
  return exitCode === null ? 'ended' : `ended with exit code ${exitCode}`;
}

function storeTrouble(error: unknown): string {
  if (error instanceof RecordingGone || error instanceof StoreConflict) return error.message;
  return isQuotaError(error)
    ? 'the browser has no room left: what arrives is shown but not kept. Delete or export recordings on the first page, and open this one again: it goes on from what is stored'
    : 'what arrives is shown but could not be stored';
}
