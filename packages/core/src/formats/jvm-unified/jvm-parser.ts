import { snippet } from '../../base/issues.ts';
import { LineSplitter } from '../../base/line-splitter.ts';
import type { Recording } from '../../model/recording.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { NumberScanner, unitBytes } from '../scan-number.ts';
import { Decorations, findDecorations } from './decorations.ts';
import { JvmRun } from './jvm-run.ts';
import { readTimedMessage } from './pause-message.ts';
import { readSpaceMessage } from './space-message.ts';

/** OpenJDK unified logging, JDK 9 to 25: Serial, Parallel and G1 at `gc` and `gc*`, any decorations. */
export const jvmUnified: Format = {
  name: 'jvm-unified',
  detect: (headLines) => {
    let signs = 0;
    for (const line of headLines) {
      if (/(?:^|\])\s*(?:Using (?:G1|Parallel|Serial)\b|GC\(\d+\) (?:Pause|Concurrent) )/.test(line)) signs++;
    }
    return headLines.length === 0 ? 0 : signs / headLines.length;
  },
  createParser: () => new JvmUnifiedParser(),
};

/** Collectors whose pauses are read like any other, but whose cycles and sizes are printed in ways not read yet. */
const PARTLY_READ = /^Using (?:The Z Garbage Collector|Shenandoah|Epsilon)/;

const CYCLE = /^Concurrent (?:Mark |Undo )?Cycle/;

class JvmUnifiedParser implements FormatParser {
  private readonly done: JvmRun[] = [];
  private run = new JvmRun();
  private readonly splitter: LineSplitter;
  private readonly decorations = new Decorations();
  private readonly scanner = new NumberScanner();
  private wallOriginMs = NaN;
  /**
   * The last line that told no event, '' once an event followed: it may be the log's last clock reading. A program may
   * print lines that look like the collector's, so its stamp counts only where nothing contradicts it.
   */
  private idleLine = '';

  constructor() {
    this.splitter = new LineSplitter((line, number, offset) => this.take(line, number, offset), {
      encoding: 'windows-1252',
      onLong: (line, byteOffset) => this.issue('line-too-long', line, byteOffset, 'expected lines of at most 4 MiB; the rest of this one was dropped'),
    });
  }

  get runs(): readonly Recording[] {
    const runs = this.done.map((run) => run.recording);
    return this.run.hasEvents || this.run.recording.collector !== '' ? [...runs, this.run.recording] : runs;
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.count();
    this.run.finish(this.lastStampMs());
  }

  private count(): void {
    for (const run of [...this.done, this.run]) {
      run.recording.bytes = this.splitter.bytes;
      run.recording.lines = this.splitter.lines;
    }
  }

  private take(line: string, number: number, offset: number): void {
    if (!mayTell(line)) {
      this.idleLine = line;
      return;
    }
    let from = 0;
    if (line.charCodeAt(0) !== 91) from = this.skipForeignText(line);
    if (from < 0) return;
    const decorated = this.decorations.read(line, from);
    const stampMs = decorated ? this.stamp() : NaN;
    const message = decorated ? line.slice(this.decorations.messageAt) : line.slice(from);
    const glued = message.indexOf('][') > 0 ? findDecorations(message) : -1;
    if (glued > 0) return this.takeGlued(message, glued, number, offset);
    if (message.startsWith('GC(')) this.takeEvent(message, stampMs, number, offset);
    else if (isHeader(message)) this.takeHeader(message, stampMs, number, offset);
    else this.idleLine = line;
  }

  private lastStampMs(): number {
    const line = this.idleLine;
    const told = line.startsWith('[') && this.decorations.read(line, 0) && /^(?:gc,|safepoint|$)/.test(this.decorations.tags);
    return told ? this.stamp() : NaN;
  }

  // A JVM that died in the middle of a line, and the next one's first line right behind it.
  private takeGlued(message: string, at: number, number: number, offset: number): void {
    this.issue('cut-line', number, offset, `expected the line to end before ${snippet(message.slice(at))}; its first part was left out`);
    this.take(message.slice(at), number, offset);
  }

  // Application text may stand before a JVM line when it ended without a newline.
  private skipForeignText(line: string): number {
    if (line.startsWith('GC(') || isHeader(line)) return 0;
    return line.indexOf('][') >= 0 || line.indexOf('] GC(') >= 0 ? findDecorations(line) : -1;
  }

  private stamp(): number {
    const { uptimeMs, epochMs } = this.decorations;
    if (Number.isNaN(this.run.recording.startEpochMs) && !Number.isNaN(epochMs)) {
      this.run.recording.startEpochMs = Number.isNaN(uptimeMs) ? epochMs : epochMs - uptimeMs;
    }
    if (!Number.isNaN(uptimeMs)) {
      this.decorations.skipWallClock = !Number.isNaN(this.run.recording.startEpochMs);
      return uptimeMs;
    }
    if (Number.isNaN(this.wallOriginMs)) this.wallOriginMs = epochMs;
    return epochMs - this.wallOriginMs;
  }

  private takeEvent(message: string, stampMs: number, number: number, offset: number): void {
    this.idleLine = '';
    const gcId = this.scanner.read(message, 3);
    const at = this.scanner.end + 2;
    if (Number.isNaN(gcId) || !message.startsWith(') ', this.scanner.end)) {
      return this.issue('cut-line', number, offset, `expected "GC(number) …", found ${snippet(message)}; is the line cut off?`);
    }
    if (message.startsWith('Pause ', at)) this.takePause(gcId, message.slice(at), stampMs, number, offset);
    else if (message.startsWith('Concurrent ', at)) this.takeConcurrent(gcId, message.slice(at), stampMs, number);
    else if (message.indexOf('->', at) > 0) {
      const change = readSpaceMessage(message.slice(at), this.run.regionBytes);
      if (change !== null) this.run.addSpace(gcId, change);
    }
  }

  private takePause(gcId: number, text: string, stampMs: number, number: number, offset: number): void {
    const timed = readTimedMessage(text);
    if (timed !== null) this.run.addPause(gcId, timed, stampMs, number);
    else if (text.includes('->') || this.decorations.tags === 'gc' || /\s\d+[BKMG]?-?$/.test(text)) {
      this.issue('cut-line', number, offset, `expected a duration in ms at the end, found ${snippet(text)}; is the line cut off? The line was left out`);
    }
  }

  private takeConcurrent(gcId: number, text: string, stampMs: number, number: number): void {
    if (!CYCLE.test(text)) return;
    const timed = readTimedMessage(text);
    if (timed === null) this.run.beginCycle(gcId, stampMs, number);
    else this.run.endCycle(gcId, timed.label, timed.durationMs, stampMs, number);
  }

  private takeHeader(message: string, stampMs: number, number: number, offset: number): void {
    if (message.startsWith('Using ')) {
      if (this.run.hasEvents) this.startRun();
      this.run.recording.collector = message.slice(6).trim();
      this.run.sawHead();
      if (PARTLY_READ.test(message)) {
        this.issue('collector-partly-read', number, offset, `expected G1, Parallel or Serial, found ${snippet(message)}: its pauses are read, its cycles and heap sizes are not yet, so counts of collections and the verdict are not to be relied on`);
      }
    } else if (message.startsWith('Version: ')) this.run.recording.runtime = `OpenJDK ${message.slice(9).trim()}`;
    else if (message.startsWith('Heap Max Capacity: ')) this.run.setLimit(this.readBytes(message, 19));
    else if (message.startsWith('Heap Region Size: ')) this.run.regionBytes = this.readBytes(message, 18);
    if (!Number.isNaN(stampMs)) this.run.sawHead();
  }

  private startRun(): void {
    this.run.finish(this.lastStampMs());
    this.idleLine = '';
    this.decorations.skipWallClock = false;
    this.done.push(this.run);
    this.run = new JvmRun();
    this.wallOriginMs = NaN;
  }

  private readBytes(message: string, from: number): number {
    return this.scanner.read(message, from) * unitBytes(message.charCodeAt(this.scanner.end));
  }

  private issue(code: string, line: number, byteOffset: number, message: string): void {
    this.run.recording.issues.add({ code, line, byteOffset, message: `gc log line ${line}: ${message}` });
  }
}

// Most lines of a detailed log tell nothing that is read: they are passed over before anything of them is taken apart.
function mayTell(line: string): boolean {
  return line.includes('->') || line.includes('Pause ') || line.includes('Concurrent ') || line.includes('Using ')
    || line.includes('Heap ') || line.includes('Version: ');
}

function isHeader(message: string): boolean {
  return /^(?:Using (?:G1|Parallel|Serial|Shenandoah|Epsilon|The Z Garbage Collector)\s*$|Version: \d|Heap (?:Max Capacity|Region Size): \d)/.test(message);
}
