import { LineSplitter } from '../../base/line-splitter.ts';
import type { Recording } from '../../model/recording.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { unwrapLine } from '../unwrap-line.ts';
import type { Decorations } from './decorations.ts';
import { JvmLineReader } from './jvm-line-reader.ts';
import { JvmRun } from './jvm-run.ts';

/** OpenJDK unified logging, JDK 9 to 25: Serial, Parallel, G1, ZGC, Shenandoah and Epsilon, any decorations. */
export const jvmUnified: Format = {
  name: 'jvm-unified',
  detect: (headLines) => {
    let signs = 0;
    for (const line of headLines) {
      if (/(?:^|\])\s*(?:Using (?:G1|Parallel|Serial)\b|GC\(\d+\) (?:Pause|Concurrent|(?:Garbage|Major|Minor) Collection) |Using (?:The Z Garbage|Shenandoah|Epsilon)|Heap: \d+[BKMG] reserved)/.test(line)) signs++;
    }
    return headLines.length === 0 ? 0 : signs / headLines.length;
  },
  createParser: () => new JvmUnifiedParser(),
};

class JvmUnifiedParser implements FormatParser {
  private readonly done: JvmRun[] = [];
  private readonly splitter: LineSplitter;
  private readonly reader: JvmLineReader;
  private wallOriginMs = NaN;

  constructor() {
    this.reader = new JvmLineReader({
      run: new JvmRun(),
      nextRun: (finished, lastStampMs) => this.nextRun(finished, lastStampMs),
      stampMs: (decorations, run) => this.stampMs(decorations, run),
    });
    this.splitter = new LineSplitter((line, number, offset) => this.reader.take(unwrapLine(line), number, offset), {
      encoding: 'windows-1252',
      onLong: (line, byteOffset) => this.reader.issue('line-too-long', line, byteOffset, 'expected lines of at most 4 MiB; the rest of this one was dropped'),
    });
  }

  get runs(): readonly Recording[] {
    const runs = this.done.map((run) => run.recording);
    const { run } = this.reader;
    return run.hasEvents || run.recording.collector !== '' ? [...runs, run.recording] : runs;
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.count();
    this.reader.run.finish(this.reader.lastStampMs());
  }

  private count(): void {
    for (const run of [...this.done, this.reader.run]) {
      run.recording.bytes = this.splitter.bytes;
      run.recording.lines = this.splitter.lines;
    }
  }

  private nextRun(finished: JvmRun, lastStampMs: number): JvmRun {
    finished.finish(lastStampMs);
    this.done.push(finished);
    this.wallOriginMs = NaN;
    return new JvmRun();
  }

  private stampMs(decorations: Decorations, run: JvmRun): number {
    const { uptimeMs, epochMs } = decorations;
    const { recording } = run;
    if (Number.isNaN(recording.startEpochMs) && !Number.isNaN(epochMs)) {
      recording.startEpochMs = Number.isNaN(uptimeMs) ? epochMs : epochMs - uptimeMs;
    }
    if (!Number.isNaN(uptimeMs)) {
      decorations.skipWallClock = !Number.isNaN(recording.startEpochMs);
      return uptimeMs;
    }
    if (Number.isNaN(this.wallOriginMs)) this.wallOriginMs = epochMs;
    return epochMs - this.wallOriginMs;
  }
}
