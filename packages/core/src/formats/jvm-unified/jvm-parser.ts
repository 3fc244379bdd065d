import { snippet } from '../../base/issues.ts';
import { LineSplitter } from '../../base/line-splitter.ts';
import type { Recording } from '../../model/recording.ts';
import { JVM } from '../../runtimes/jvm.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { unwrapLine } from '../unwrap-line.ts';
import { JvmByteLines } from './byte-lines.ts';
import { Decorations, findDecorations } from './decorations.ts';
import { JvmLineReader } from './jvm-line-reader.ts';
import { JvmRun } from './jvm-run.ts';
import { areAlike, identityOf, type Program, programOf } from './programs.ts';

/**
 * OpenJDK unified logging, JDK 9 to 25: Serial, Parallel, G1, ZGC, Shenandoah and Epsilon, any decorations, and
 * safepoints.
 */
export const jvmUnified: Format = {
  name: 'jvm-unified',
  words: 'an OpenJDK unified log (-Xlog:gc or -Xlog:gc*, any collector)',
  runtime: JVM,
  detect: (headLines) => {
    let signs = 0;
    for (const line of headLines) {
      if (
        /(?:^|\])\s*(?:Using (?:G1|Parallel|Serial)\b|GC\(\d+\) (?:[YyO]: )?(?:Pause|Concurrent|(?:Garbage|Major|Minor) Collection) |Using (?:The Z Garbage|Shenandoah|Epsilon)|Heap: \d+[BKMG] reserved|Safepoint "\w+", Time since last)/.test(
          line,
        )
      )
        signs++;
    }
    return headLines.length === 0 ? 0 : signs / headLines.length;
  },
  createParser: () => new JvmUnifiedParser(),
};

/** The line in which a JVM names its collector, from its decorations on. */
const HEADER = /(?:^|(?:\[[^\][]+\])+ ?)Using (G1|Parallel|Serial|Shenandoah|Epsilon|The Z Garbage Collector)\s*$/;

/** The runs of one file, one after the other or mixed: a header that names a collector begins each. */
class JvmUnifiedParser implements FormatParser {
  private readonly programs: Program[] = [];
  private readonly splitter: LineSplitter;
  private readonly decorations = new Decorations();
  /** Reads what came before any header, or without one. */
  private first = this.createReader();
  /** Each line is the latest program's; of others each is asked whose it is. */
  private isAlike = true;
  private bytes = new JvmByteLines(this.first);

  constructor() {
    this.splitter = new LineSplitter(
      (raw, number, offset) => {
        let line = unwrapLine(raw);
        if (mayBeHeader(line)) {
          line = this.withoutCutPart(line, number, offset);
          this.openProgram(line);
        }
        this.readerOf(line).take(line, number, offset);
      },
      {
        encoding: 'windows-1252',
        takeWithin: (batch, from, number, offset) => (this.isAlike ? this.bytes.take(batch, from, number, offset) : -1),
        onBatchEnd: () => this.latest.leaveBatch(),
        onLong: (line, byteOffset) =>
          this.latest.issue(
            'line-too-long',
            line,
            byteOffset,
            'expected lines of at most 4 MiB; the rest of this one was dropped',
          ),
      },
    );
  }

  get runs(): readonly Recording[] {
    const runs = this.readers.map((reader) => reader.run);
    const told = runs.filter((run) => run.hasEvents);
    // A live log's header comes before its first event.
    return (told.length > 0 ? told : runs.filter((run) => run.recording.collector !== '')).map((run) => run.recording);
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.count();
    for (const reader of this.readers) reader.run.finish(reader.lastStampMs());
  }

  private get readers(): JvmLineReader[] {
    return this.programs.length === 0 ? [this.first] : this.programs.map((program) => program.reader);
  }

  private get latest(): JvmLineReader {
    return this.programs[this.programs.length - 1]?.reader ?? this.first;
  }

  private createReader(): JvmLineReader {
    return new JvmLineReader({ run: new JvmRun(), stampMs: (decorations, run) => this.stampMs(decorations, run) });
  }

  // A JVM that died in the middle of a line, and the next one's header right behind it.
  private withoutCutPart(line: string, number: number, offset: number): string {
    const header = line.charCodeAt(0) === 91 ? HEADER.exec(line) : null;
    if (header === null || header.index === 0) return line;
    const rest = line.slice(header.index);
    this.latest.issue(
      'cut-line',
      number,
      offset,
      `expected the line to end before ${snippet(rest)}; its first part was left out`,
    );
    return rest;
  }

  private readerOf(line: string): JvmLineReader {
    if (this.isAlike) return this.latest;
    this.readDecorations(line);
    return programOf(this.programs, this.decorations, line).reader;
  }

  // The first header belongs to what came before it, unless that had collections already: then it is another run.
  private openProgram(line: string): void {
    const found = HEADER.exec(line);
    if (found === null) return;
    this.latest.leaveBatch();
    this.readDecorations(line);
    const identity = identityOf(this.decorations, found[1]!);
    if (this.programs.length === 0 && this.first.run.hasEvents)
      this.programs.push({ reader: this.first, identity: { numberId: NaN, startEpochMs: NaN, family: '' } });
    this.programs.push({ reader: this.programs.length === 0 ? this.first : this.createReader(), identity });
    this.isAlike = areAlike(this.programs) || this.programs.length < 2;
    this.bytes = new JvmByteLines(this.latest);
  }

  private readDecorations(line: string): void {
    const from = line.charCodeAt(0) === 91 ? 0 : findDecorations(line);
    this.decorations.read(line, Math.max(0, from));
  }

  private count(): void {
    for (const { run } of this.readers) {
      run.recording.bytes = this.splitter.bytes;
      run.recording.lines = this.splitter.lines;
    }
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
    return epochMs - recording.startEpochMs;
  }
}

// By the line's last letter first: a detailed log has millions of lines, and few names of collectors.
function mayBeHeader(line: string): boolean {
  switch (line.charCodeAt(line.length - 1)) {
    case 49:
    case 108:
    case 104:
    case 110:
    case 114:
    case 32:
    case 9:
      return line.includes('Using '); // G1, Parallel and Serial, Shenandoah, Epsilon, Collector
    default:
      return false;
  }
}
