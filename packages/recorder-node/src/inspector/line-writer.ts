import { closeSync, openSync, writeSync } from 'node:fs';
import type { LineSink, OwnLine } from '../line-sink.ts';
import { splitLine } from './split-line.ts';

/** Memory that lines may wait in; when the disk cannot take them, later ones are dropped and counted. */
const MOST_WAITING = 16 * 1024 * 1024;

/**
 * Appends whole lines to the spool in append mode, so that several isolates and processes can share the file. Writing
 * never throws.
 */
export class LineWriter implements LineSink {
  private readonly fd: number;
  private readonly heap: string;
  private waiting: string[] = [];
  private waitingChars = 0;
  /** What was handed to the disk and is not all there yet. */
  private writing: Buffer = Buffer.alloc(0);
  private dropped = 0;

  constructor(file: string, heap: string) {
    this.fd = openSync(file, 'a', 0o600);
    this.heap = heap;
  }

  add(line: OwnLine): void {
    for (const each of splitLine(line)) this.addOne(each);
  }

  private addOne(line: OwnLine): void {
    if (this.waitingChars > MOST_WAITING) {
      this.dropped++;
      return;
    }
    this.keep(line);
  }

  private keep({ k, ...rest }: OwnLine): void {
    const text = JSON.stringify({ k, h: this.heap, ...rest });
    this.waiting.push(text);
    this.waitingChars += text.length;
  }

  /**
   * Writes everything that waits; what the disk does not take goes on waiting, from the byte that it stopped at. False
   * when something does.
   */
  flush(): boolean {
    while (this.write()) {
      if (this.waiting.length === 0 && this.dropped === 0) return true;
      this.tellDropped();
      this.writing = Buffer.from(`${this.waiting.join('\n')}\n`);
      this.waiting = [];
      this.waitingChars = 0;
    }
    return false;
  }

  private tellDropped(): void {
    if (this.dropped === 0) return;
    const message = `${this.dropped} lines were dropped because the file could not be written to`;
    this.dropped = 0;
    this.keep({ k: 'note', t: 0, code: 'lines-dropped', message });
  }

  private write(): boolean {
    try {
      while (this.writing.length > 0) this.writing = this.writing.subarray(writeSync(this.fd, this.writing));
      return true;
    } catch {
      return false;
    }
  }

  /** Writes a last time; what the disk does not take is told on the standard error. */
  close(): void {
    if (!this.flush()) {
      const lines = this.dropped + this.waiting.length + this.writing.filter((byte) => byte === 10).length;
      process.stderr.write(
        `brisk-heron: the end of the recording is missing: the disk did not take its last ${lines} lines\n`,
      );
    }
    closeSync(this.fd);
  }
}
