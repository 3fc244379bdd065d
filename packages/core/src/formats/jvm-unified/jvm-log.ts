import type { Recording } from '../../model/recording.ts';
import type { HeapId } from '../../base/ids.ts';
import { JvmLineReader } from './jvm-line-reader.ts';
import { JvmRun } from './jvm-run.ts';

/**
 * The collector's own log inside a recording of a JVM: its lines carry the JVM's monotonic clock (`timenanos`), which
 * the recorder read at its hello, so that both tell the same time. `clockAtZeroMs` is that clock at time 0 of the
 * recording.
 */
export class JvmLog {
  private readonly reader: JvmLineReader;
  private lines = 0;
  private byteOffset = NaN;

  constructor(recording: Recording, heapId: HeapId, clockAtZeroMs: number) {
    const run = new JvmRun({ recording, heapId });
    this.reader = new JvmLineReader({ run, stampMs: (decorations) => decorations.clockMs - clockAtZeroMs });
  }

  /** Says where in the input the next text stands. */
  placeAt(byteOffset: number): void {
    this.byteOffset = byteOffset;
  }

  /** Takes whole lines, as printed. */
  takeText(text: string): void {
    for (const line of text.split('\n')) {
      this.lines++;
      if (line !== '') this.reader.take(line, this.lines, this.byteOffset);
    }
  }
}
