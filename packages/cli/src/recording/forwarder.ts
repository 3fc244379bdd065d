import { appendFileSync } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import { runIdentity } from '@brisk-heron/server';
import { z } from 'zod';
import { askServer, type ServerAccess } from './server-access.ts';

const BATCH_BYTES = 1024 * 1024;
/** A line may be as long; of a longer one the bytes are passed on as they are, so that what comes after it arrives. */
const LONGEST_LINE_BYTES = 4 * 1024 * 1024;
const IDLE_MS = 250;
/** Even without lines the server hears this often that the program is there, and may answer with commands. */
const HEARTBEAT_MS = 1000;
const RETRY_MS = 1000;
const ANSWER_WITHIN_MS = 30_000;

const answerSchema = z.object({ bytes: z.number(), commands: z.array(z.record(z.string(), z.unknown())).default([]) });
const refusalSchema = z.object({
  bytes: z.number().optional(),
  code: z.string().optional(),
  message: z.string().optional(),
});

/** What is sent where, and who is told of trouble. */
export interface ForwarderOptions {
  /** Spool file that the recorder appends to. */
  readonly spool: string;
  /** File that commands are passed on in. */
  readonly control: string;
  readonly server: ServerAccess;
  readonly streamId: string;
  /** Name of a log that is sent as it is; '' for a stream. */
  readonly log?: string;
  /** Told once for each trouble, in a sentence for people. */
  readonly onTrouble: (message: string) => void;
}

/** How far a drained spool got. */
export type Drained =
  { readonly whole: true; readonly bytes: number } | { readonly whole: false; readonly why: string };

/**
 * Sends a growing spool file to the server in batches that begin where the last acknowledged one ended, and passes the
 * server's commands to the recorder. Trouble is waited out: the file keeps everything meanwhile. The file is held open,
 * so that what is written into it arrives even when it is removed.
 */
export class Forwarder {
  private readonly options: ForwarderOptions;
  private file: FileHandle | null = null;
  private identity = '';
  private offset = 0;
  private lastSentMs = 0;
  private lastTrouble = '';
  /** Why the server will never take this run; '' while it may. */
  private refusal = '';
  private stopped = false;
  private isRemoved = false;
  private leftTail = false;

  constructor(options: ForwarderOptions) {
    this.options = options;
  }

  /** Forwards until `stop` is called. */
  async run(): Promise<void> {
    while (!this.stopped) {
      const moved = await this.step();
      if (!moved) await wait(IDLE_MS);
    }
  }

  stop(): void {
    this.stopped = true;
  }

  /**
   * Sends what is left. Whole only when the server has acknowledged the file's last byte: of a program that has ended,
   * a line that was cut off is ended first; of one that goes on, the line that it is writing is left.
   */
  async drain(timeoutMs: number, hasEnded = true): Promise<Drained> {
    if (hasEnded) await this.endLastLine();
    // Asked at least once, so that commands which were left at the server meanwhile are fetched.
    for (let asked = false, until = Date.now() + timeoutMs; ; asked = true) {
      if (this.refusal !== '') return { whole: false, why: this.refusal };
      const size = (await this.opened())?.size ?? 0;
      if (this.offset === size && (asked || size === 0)) return { whole: true, bytes: size };
      const batch = await this.read();
      if (batch.length === 0 && asked && (!hasEnded || this.isRemoved || this.leftTail))
        return { whole: true, bytes: this.offset };
      if (!(await this.send(batch))) {
        if (Date.now() > until) return { whole: false, why: this.lastTrouble };
        await wait(Math.min(RETRY_MS, Math.max(0, until - Date.now())));
      }
    }
  }

  async close(): Promise<void> {
    await this.file?.close();
    this.file = null;
  }

  private async step(): Promise<boolean> {
    const batch = await this.read();
    if (
      this.refusal !== '' ||
      (batch.length === 0 && (this.offset === 0 || Date.now() - this.lastSentMs < HEARTBEAT_MS))
    )
      return false;
    const sent = await this.send(batch);
    if (!sent) await wait(RETRY_MS);
    return sent && batch.length > 0;
  }

  private async opened(): Promise<{ file: FileHandle; size: number } | null> {
    this.file ??= await open(this.options.spool, 'r').catch(() => null);
    if (this.file === null) return null;
    const { size, nlink } = await this.file.stat();
    if (nlink === 0 && !this.isRemoved) {
      this.isRemoved = true;
      this.options.onTrouble(
        `${this.options.spool} was removed while it is recorded into; what the programs that run write into it is still sent, and programs that are started from now on are not recorded`,
      );
    }
    return { file: this.file, size };
  }

  // Whole lines only: the recorder may be in the middle of writing one.
  private async read(): Promise<Buffer> {
    const opened = await this.opened();
    if (opened === null) return Buffer.alloc(0);
    for (let length = BATCH_BYTES; ; length = LONGEST_LINE_BYTES) {
      const { buffer, bytesRead } = await opened.file.read(Buffer.alloc(length), 0, length, this.offset);
      const got = buffer.subarray(0, bytesRead);
      const whole = got.lastIndexOf(10) + 1;
      if (whole > 0 || bytesRead < length) return got.subarray(0, whole);
      if (length === LONGEST_LINE_BYTES) return got;
    }
  }

  // The program that was writing a line has ended.
  private async endLastLine(): Promise<void> {
    const opened = await this.opened();
    if (opened === null || opened.size === 0) return;
    const { buffer } = await opened.file.read(Buffer.alloc(1), 0, 1, opened.size - 1);
    if (buffer[0] === 10 || this.isRemoved) return;
    try {
      appendFileSync(this.options.spool, '\n');
    } catch {
      // A disk that is full takes no line's end either: what there is of the line is left.
      this.leftTail = true;
    }
  }

  private async send(batch: Buffer): Promise<boolean> {
    const { server, streamId, log = '' } = this.options;
    try {
      if (this.identity === '' && this.file !== null) this.identity = runIdentity(await beginningOf(this.file));
      const query = new URLSearchParams({ offset: String(this.offset), run: this.identity, log });
      const response = await askServer(server, `/api/streams/${streamId}/lines?${query.toString()}`, {
        method: 'POST',
        headers: { 'content-type': 'application/x-ndjson' },
        body: new Uint8Array(batch),
        signal: AbortSignal.timeout(ANSWER_WITHIN_MS),
      });
      this.lastSentMs = Date.now();
      const body: unknown = await response.json();
      if (!response.ok) return this.refused(refusalSchema.parse(body), response.status);
      const answer = answerSchema.parse(body);
      this.offset = answer.bytes;
      this.lastTrouble = '';
      if (answer.commands.length > 0)
        appendFileSync(this.options.control, answer.commands.map((command) => `${JSON.stringify(command)}\n`).join(''));
      return true;
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      return this.trouble(why, `the server cannot be reached (${why}); recording goes on in ${this.options.spool}`);
    }
  }

  private refused(body: z.infer<typeof refusalSchema>, status: number): boolean {
    const message = body.message ?? `status ${status}`;
    const told = `the server does not take the recording (${message}); it goes on in ${this.options.spool}`;
    if (body.code === 'other-run') {
      this.refusal = message;
      return this.trouble(message, told);
    }
    // The server knows better how far it got: after its restart, say.
    if (status === 409 && body.bytes !== undefined && body.bytes !== this.offset) {
      this.offset = body.bytes;
      return true;
    }
    return this.trouble(message, told);
  }

  private trouble(why: string, told: string): false {
    if (this.lastTrouble === '') this.options.onTrouble(told);
    this.lastTrouble = why;
    return false;
  }
}

async function beginningOf(file: FileHandle): Promise<Buffer> {
  const { buffer, bytesRead } = await file.read(Buffer.alloc(4096), 0, 4096, 0);
  return buffer.subarray(0, bytesRead);
}
