import type { LineBatch, Letters } from '../../base/line-batch.ts';
import { isTime } from '../../model/domain.ts';
import { snippet } from '../../base/issues.ts';
import { NumberScanner, unitBytes } from '../scan-number.ts';
import { Decorations, findDecorations } from './decorations.ts';
import type { JvmRun } from './jvm-run.ts';
import { readAgeRow, readCpuTimes, readPacingRow, readSafepoint, readStepRow } from './detail-message.ts';
import { isZCycle, readEpsilonUsed, readStall, readZCycle, withoutGeneration } from './cycle-message.ts';
import type { ByteLineSink } from './byte-lines.ts';
import { bytesOfLine, isDetail, mayTell, messageStart, OUT_OF_MEMORY } from './quiet-lines.ts';
import { causeOf, readTimedMessage } from './pause-message.ts';
import { readSpaceMessage } from './space-message.ts';
import { type StepName, takeStepRow } from './step-row.ts';

/** Shenandoah names its concurrent steps in small letters; these begin its cycles, or give memory back. */
const SHENANDOAH_STEP = /^Concurrent (?:reset|cleanup)\b/;

const STEP_NAMES: readonly StepName[] = ['Allocated', 'Used', 'Live', 'Promoted'];
const CYCLE = /^Concurrent (?:Mark |Undo )?Cycle/;

/** What tells lines of a log their time and their run. */
export interface JvmLineOptions {
  readonly run: JvmRun;
  /** Milliseconds of a line on the run's clock, NaN when its decorations do not tell. */
  readonly stampMs: (decorations: Decorations, run: JvmRun) => number;
}

/** Reads lines of a unified log, one after the other, into a run. */
export class JvmLineReader implements ByteLineSink {
  readonly run: JvmRun;
  private readonly options: JvmLineOptions;
  private readonly decorations = new Decorations();
  private readonly scanner = new NumberScanner();
  /**
   * The last line that told no event, '' once an event followed: it may be the log's last clock reading. A program may
   * print lines that look like the collector's, so its stamp counts only where nothing contradicts it.
   */
  private idleLine = '';
  /** The batch in which it still is, and where. */
  private idleBatch: LineBatch | null = null;
  private idleFrom = 0;
  private idleTo = 0;

  constructor(options: JvmLineOptions) {
    this.options = options;
    this.run = options.run;
  }

  /** Takes line `number` (from 1), which begins at byte `offset`. */
  take(line: string, number: number, offset: number): void {
    const letters = bytesOfLine(line);
    const at = Math.max(0, messageStart(letters, 0));
    const glued =
      at > 0 && (line.includes('][', at) || line.includes('] GC(', at)) ? findDecorations(line.slice(at)) : -1;
    if (glued <= 0 && !(at === 0 ? bareMayTell(line, letters) : mayTell(letters, at))) {
      this.sawIdle(line);
      return;
    }
    if (glued > 0) return this.takeGlued(line.slice(at), glued, number, offset);
    this.run.byteOffset = offset;
    if (isDetail(letters, at)) this.takeDetailLine(line, at);
    else this.takeStamped(line, number, offset);
  }

  private takeStamped(line: string, number: number, offset: number): void {
    const from = line.charCodeAt(0) === 91 ? 0 : this.skipForeignText(line);
    if (from < 0) {
      if (line.includes(OUT_OF_MEMORY)) this.run.outOfMemory(NaN);
      return;
    }
    const decorated = this.decorations.read(line, from);
    const stampMs = decorated ? this.stamp() : NaN;
    if (!isTime(stampMs))
      return this.issue(
        'absurd-time',
        number,
        offset,
        `expected a time within ten years of the beginning, found ${snippet(line)}; is the line damaged? It was left out`,
      );
    const message = decorated ? line.slice(this.decorations.messageAt) : line.slice(from);
    if (message.startsWith('GC(')) this.takeEvent(message, stampMs, number, offset);
    else if (message.includes(' Stall (')) this.takeStall(message, stampMs, number, offset);
    else if (message.startsWith('Heap: ')) this.takeUsed(message, stampMs);
    else if (message.startsWith('Safepoint "') || message.startsWith('Total time for which'))
      this.takeSafepoint(message, stampMs, number, offset);
    else if (message.startsWith('Out Of Memory (') || message.includes(OUT_OF_MEMORY)) this.run.outOfMemory(stampMs);
    else if (isHeader(message)) this.takeHeader(message, stampMs);
    else if (message.startsWith(' ')) this.takePacing(message, stampMs, number);
    else {
      if (message.startsWith('Trigger: ')) this.run.triggered(causeOf(message));
      if (message === 'Heap' && this.decorations.tags.includes('exit')) this.run.exited(stampMs);
      this.sawIdle(line);
    }
  }

  /** A line that tells nothing, which stands in [from, to) of a batch. */
  sawIdleBytes(batch: LineBatch, from: number, to: number): void {
    this.idleBatch = batch;
    this.idleFrom = from;
    this.idleTo = to;
  }

  stampOf(uptimeMs: number, epochMs: number): number {
    this.decorations.uptimeMs = uptimeMs;
    this.decorations.epochMs = epochMs;
    return this.stamp();
  }

  /** The batch is about to go: what is still needed of it is made a text. */
  leaveBatch(): void {
    if (this.idleBatch !== null) this.sawIdle(this.idleBatch.slice(this.idleFrom, this.idleTo));
  }

  /** An event followed whatever told nothing. */
  sawEvent(): void {
    this.sawIdle('');
  }

  private sawIdle(line: string): void {
    this.idleLine = line;
    this.idleBatch = null;
  }

  /** A pause was told that had been told before. */
  tookRepeated(number: number, offset: number): void {
    this.issue(
      'repeated-line',
      number,
      offset,
      'a pause that was told before, in a block of lines that is there twice, was left out',
    );
  }

  // What is told of a collection in lines of its own needs no stamp.
  private takeDetailLine(line: string, at: number): void {
    const gcId = this.scanner.read(line, at + 3);
    if (Number.isNaN(gcId) || !line.startsWith(') ', this.scanner.end)) return;
    const message = line.slice(this.scanner.end + 2);
    // What follows a pause was printed later than it: it may be the last clock reading.
    this.sawIdle(line);
    this.takeDetail(gcId, withoutGeneration(message), message.charAt(0));
  }

  /** Stamp of what was printed after the last event; NaN when nothing was. */
  lastStampMs(): number {
    this.leaveBatch();
    const line = this.idleLine;
    const told =
      line.startsWith('[') && this.decorations.read(line, 0) && /^(?:gc,|safepoint|$)/.test(this.decorations.tags);
    const stampMs = told ? this.stamp() : NaN;
    return isTime(stampMs) ? stampMs : NaN;
  }

  // A JVM that died in the middle of a line, and the next one's first line right behind it.
  private takeGlued(message: string, at: number, number: number, offset: number): void {
    this.issue(
      'cut-line',
      number,
      offset,
      `expected the line to end before ${snippet(message.slice(at))}; its first part was left out`,
    );
    this.take(message.slice(at), number, offset);
  }

  // Application text may stand before a JVM line when it ended without a newline.
  private skipForeignText(line: string): number {
    if (line.startsWith('GC(') || isHeader(line)) return 0;
    return line.indexOf('][') >= 0 || line.indexOf('] GC(') >= 0 ? findDecorations(line) : -1;
  }

  private stamp(): number {
    return this.options.stampMs(this.decorations, this.run);
  }

  private takeEvent(message: string, stampMs: number, number: number, offset: number): void {
    this.sawEvent();
    const gcId = this.scanner.read(message, 3);
    const at = this.scanner.end + 2;
    if (Number.isNaN(gcId) || !message.startsWith(') ', this.scanner.end)) {
      return this.issue(
        'cut-line',
        number,
        offset,
        `expected "GC(number) …", found ${snippet(message)}; is the line cut off?`,
      );
    }
    const text = withoutGeneration(message.slice(at));
    if (text.startsWith('Pause ')) this.takePause(gcId, message.slice(at), stampMs, number, offset);
    else if (isZCycle(text)) this.run.zCycle(gcId, readZCycle(text), stampMs, number);
    else if (message.startsWith('Concurrent ', at)) this.takeConcurrent(gcId, message.slice(at), stampMs, number);
    else this.takeDetail(gcId, text, message.charAt(at));
  }

  // What is told of a collection in lines of its own, before its pause or after it.
  private takeDetail(gcId: number, text: string, generation: string): void {
    if (text.includes('->')) {
      const change = readSpaceMessage(text, this.run.regionBytes);
      if (change !== null) this.run.addSpace(gcId, change);
    } else if (text.startsWith('User=')) {
      const times = readCpuTimes(text);
      if (times !== null) this.run.addCpuTimes(gcId, times);
    } else if (text.includes('- age')) {
      const row = readAgeRow(text);
      if (row !== null) this.run.addAge(gcId, row);
    } else if (text.startsWith('To-space exhausted')) this.run.evacuationFailed(gcId);
    else this.takeStepRow(gcId, text, generation);
  }

  private takeStepRow(gcId: number, text: string, generation: string): void {
    for (const name of STEP_NAMES) {
      const row = readStepRow(text, name);
      if (row !== null) takeStepRow(this.run, gcId, { name, row, generation });
    }
  }

  private takePacing(message: string, stampMs: number, number: number): void {
    const row = readPacingRow(message);
    if (row !== null) this.run.addPacing(row, stampMs, number);
  }

  private takeSafepoint(message: string, stampMs: number, number: number, offset: number): void {
    const safepoint = readSafepoint(message);
    if (safepoint !== null) this.run.addSafepoint(safepoint, stampMs, number);
    else
      this.issue(
        'cut-line',
        number,
        offset,
        `expected a safepoint's times to its total, found ${snippet(message)}; is the line cut off? The line was left out`,
      );
    this.sawEvent();
  }

  private takePause(gcId: number, text: string, stampMs: number, number: number, offset: number): void {
    const timed = readTimedMessage(text);
    if (timed !== null) {
      if (!this.run.addPause(gcId, timed, stampMs, number)) this.tookRepeated(number, offset);
    } else if (text.includes('->') || this.decorations.tags === 'gc' || /\s\d+[BKMG]?-?$/.test(text)) {
      this.issue(
        'cut-line',
        number,
        offset,
        `expected a duration in ms, of at most a day, at the end, found ${snippet(text)}; is the line cut off? The line was left out`,
      );
    }
  }

  private takeStall(message: string, stampMs: number, number: number, offset: number): void {
    const stall = readStall(message);
    if (stall !== null) this.run.addStall(stall, stampMs, number);
    else if (/^(?:Allocation|Relocation) Stall \(/.test(message))
      this.issue(
        'cut-line',
        number,
        offset,
        `expected a duration in ms, of at most a day, at the end, found ${snippet(message)}; is the line cut off? The line was left out`,
      );
    this.sawEvent();
  }

  private takeUsed(message: string, stampMs: number): void {
    const usedBytes = readEpsilonUsed(message);
    if (Number.isNaN(usedBytes)) return;
    this.run.addUsed(usedBytes, stampMs);
    this.sawEvent();
  }

  private takeConcurrent(gcId: number, text: string, stampMs: number, number: number): void {
    if (SHENANDOAH_STEP.test(text)) {
      const step = readTimedMessage(text);
      this.run.shenandoahStep(gcId, step, step?.label ?? text, stampMs, number);
      return;
    }
    if (!CYCLE.test(text)) return;
    const timed = readTimedMessage(text);
    if (timed === null) this.run.beginCycle(gcId, stampMs, number);
    else this.run.endCycle(gcId, timed.label, timed.durationMs, stampMs, number);
  }

  private takeHeader(message: string, stampMs: number): void {
    if (message.startsWith('Using ')) {
      this.run.recording.collector = message.slice(6).trim();
      this.run.sawHead();
    } else if (message.startsWith('Version: ')) this.run.recording.runtime = `OpenJDK ${message.slice(9).trim()}`;
    else if (message.startsWith('Heap Max Capacity: ')) this.run.setLimit(this.readBytes(message, 19));
    else if (message.startsWith('Max Capacity: ')) this.run.setLimit(this.readBytes(message, 14));
    else if (message.startsWith('Heap Region Size: ')) this.run.regionBytes = this.readBytes(message, 18);
    if (!Number.isNaN(stampMs)) this.run.sawHead();
  }

  private readBytes(message: string, from: number): number {
    return this.scanner.read(message, from) * unitBytes(message.charCodeAt(this.scanner.end));
  }

  /** Counts a problem of the input. */
  issue(code: string, line: number, byteOffset: number, message: string): void {
    this.run.recording.issues.add({ code, line, byteOffset, message: `gc log line ${line}: ${message}` });
  }
}

// Without decorations a line may be the program's own, in which a decorated one stands.
function bareMayTell(line: string, letters: Letters): boolean {
  return line.includes(OUT_OF_MEMORY) || line.includes('] GC(') || line.includes('][') || mayTell(letters, 0);
}

function isHeader(message: string): boolean {
  return /^(?:Using (?:G1|Parallel|Serial|Shenandoah|Epsilon|The Z Garbage Collector)\s*$|Version: \d|(?:Heap )?Max Capacity: \d|Heap Region Size: \d)/.test(
    message,
  );
}
