import { appendFile, open } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import { z } from 'zod';

const BATCH_BYTES = 1024 * 1024;
const IDLE_MS = 250;
/** Even without lines the server hears this often that the program is there, and may answer with commands. */
const HEARTBEAT_MS = 1000;
const RETRY_MS = 1000;

const answerSchema = z.object({ bytes: z.number(), commands: z.array(z.record(z.string(), z.unknown())).default([]) });
const refusalSchema = z.object({ bytes: z.number().optional(), message: z.string().optional() });

export interface ForwarderOptions {
  /** Spool file that the recorder appends to. */
  readonly spool: string;
  /** File that commands are passed on in. */
  readonly control: string;
  readonly server: string;
  readonly streamId: string;
  readonly onTrouble: (message: string) => void;
}

/**
 * Sends a growing spool file to the server in batches that begin where the last acknowledged one ended, and passes the
 * server's commands to the recorder. Trouble is waited out: the file keeps everything meanwhile.
 */
export class Forwarder {
  private readonly options: ForwarderOptions;
  private offset = 0;
  private lastSentMs = 0;
  private troubled = false;
  private stopped = false;

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

  /** Sends what is left; false when the server did not take it all in time. */
  async drain(timeoutMs: number): Promise<boolean> {
    const until = Date.now() + timeoutMs;
    while (Date.now() < until) {
      const batch = await this.read();
      if (batch.length === 0 && this.offset > 0) return true;
      if (!(await this.send(batch))) await wait(RETRY_MS);
    }
    return false;
  }

  private async step(): Promise<boolean> {
    const batch = await this.read();
    if (batch.length === 0 && (this.offset === 0 || Date.now() - this.lastSentMs < HEARTBEAT_MS)) return false;
    const sent = await this.send(batch);
    if (!sent) await wait(RETRY_MS);
    return sent && batch.length > 0;
  }

  // Whole lines only: the recorder may be in the middle of writing one.
  private async read(): Promise<Buffer> {
    const handle = await open(this.options.spool, 'r').catch(() => null);
    if (handle === null) return Buffer.alloc(0);
    try {
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(BATCH_BYTES), 0, BATCH_BYTES, this.offset);
      return buffer.subarray(0, buffer.subarray(0, bytesRead).lastIndexOf(10) + 1);
    } finally {
      await handle.close();
    }
  }

  private async send(batch: Buffer): Promise<boolean> {
    const { server, streamId } = this.options;
    try {
      const response = await fetch(`${server}/api/streams/${streamId}/lines?offset=${this.offset}`, {
        method: 'POST', headers: { 'content-type': 'application/x-ndjson' }, body: new Uint8Array(batch), signal: AbortSignal.timeout(10_000),
      });
      this.lastSentMs = Date.now();
      const body: unknown = await response.json();
      if (!response.ok) return this.refused(refusalSchema.parse(body), response.status);
      const answer = answerSchema.parse(body);
      this.offset = answer.bytes;
      this.troubled = false;
      if (answer.commands.length > 0) await appendFile(this.options.control, answer.commands.map((command) => `${JSON.stringify(command)}\n`).join(''));
      return true;
    } catch (error) {
      return this.trouble(error instanceof Error ? error.message : String(error));
    }
  }

  private refused(body: z.infer<typeof refusalSchema>, status: number): boolean {
    // The server knows better how far it got: after its restart, say.
    if (status === 409 && body.bytes !== undefined) {
      this.offset = body.bytes;
      return true;
    }
    return this.trouble(body.message ?? `status ${status}`);
  }

  private trouble(message: string): false {
    if (!this.troubled) this.options.onTrouble(message);
    this.troubled = true;
    return false;
  }
}
