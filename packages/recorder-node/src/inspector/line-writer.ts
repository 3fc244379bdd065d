import { closeSync, openSync, writeSync } from 'node:fs';
import type { LineSink, OwnLine } from '../line-sink.ts';

/** Memory that lines may wait in; when the disk cannot take them, later ones are dropped and counted. */
const MOST_WAITING = 16 * 1024 * 1024;

/**
 * Appends whole lines to the spool with single writes in append mode, so that several isolates and processes can share
 * the file. Writing never throws.
 */
export class LineWriter implements LineSink {
  private readonly fd: number;
  private readonly heap: string;
  private waiting: string[] = [];
  private waitingChars = 0;
  private dropped = 0;

  constructor(file: string, heap: string) {
    this.fd = openSync(file, 'a');
    this.heap = heap;
  }

  add(line: OwnLine): void {
    if (this.waitingChars > MOST_WAITING) {
      this.dropped++;
      return;
    }
    const { k, ...rest } = line;
    const text = JSON.stringify({ k, h: this.heap, ...rest });
    this.waiting.push(text);
    this.waitingChars += text.length;
  }

  /** Writes everything that waits; on failure it goes on waiting. */
  flush(): void {
    if (this.waiting.length === 0) return;
    const bytes = Buffer.from(`${this.waiting.join('\n')}\n`);
    try {
      for (let at = 0; at < bytes.length;) at += writeSync(this.fd, bytes, at);
      this.waiting = [];
      this.waitingChars = 0;
    } catch {
      return;
    }
    if (this.dropped === 0) return;
    const message = `${this.dropped} lines were dropped because the file could not be written to`;
    this.dropped = 0;
    this.add({ k: 'note', t: 0, code: 'lines-dropped', message });
  }

  close(): void {
    this.flush();
    closeSync(this.fd);
  }
}
