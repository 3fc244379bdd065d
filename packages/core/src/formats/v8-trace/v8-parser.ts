import { type HeapId, NONE } from '../../base/ids.ts';
import { snippet } from '../../base/issues.ts';
import { type LineBatch, plainEnd } from '../../base/line-batch.ts';
import { LineSplitter } from '../../base/line-splitter.ts';
import { MIB } from '../../base/units.ts';
import { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { V8 } from '../../runtimes/v8.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { unwrapLine } from '../unwrap-line.ts';
import { TraceBytes } from './trace-bytes.ts';
import { looksLikeTrace, readSpaceLine, readTraceLine, type TraceLine } from './trace-line.ts';

/** Lines of Node's `--trace-gc`, of the main isolate and of workers. */
export const v8Trace: Format = {
  name: 'v8-trace',
  words: 'Node --trace-gc output',
  runtime: V8,
  detect: (headLines) =>
    headLines.filter((line) => readTraceLine(line) !== null).length / Math.max(1, headLines.length),
  createParser: () => new V8TraceParser(),
};

/** V8 prints no header: a log that begins within the isolate's first second is taken to be whole. */
const WHOLE_IF_BEFORE_MS = 1000;
/** What the runtime prints as it ends a program that can get no more memory. */
const OUT_OF_MEMORY = 'JavaScript heap out of memory';
const REPEATED_FROM = '<--- Last few GCs --->';
const REPEATED_TO = '<--- JS stacktrace --->';

interface Isolate {
  readonly heapId: HeapId;
  /** Milliseconds to add to the isolate's own clock. */
  readonly offsetMs: number;
  /** Its last collection: spaces are told after it. */
  lastRow: number;
}

class V8TraceParser implements FormatParser {
  private readonly recording = new Recording('v8-trace');
  private readonly isolates = new Map<string, Isolate>();
  private readonly splitter: LineSplitter;
  private readonly bytes = new TraceBytes();
  private inRepeatedBlock = false;
  /** The isolate that collected last. */
  private last: Isolate | null = null;

  constructor() {
    this.recording.runtime = 'Node.js (V8)';
    this.recording.collector = 'V8';
    this.splitter = new LineSplitter((line, number, offset) => this.take(unwrapLine(line), number, offset), {
      encoding: 'windows-1252',
      takeWithin: (batch, from, number, offset) => this.takeBytes(batch, from, number, offset),
      onLong: (line, byteOffset) =>
        this.issue(
          'line-too-long',
          line,
          byteOffset,
          'expected lines of at most 4 MiB; the rest of this one was dropped',
        ),
    });
  }

  get runs(): readonly Recording[] {
    return this.isolates.size > 0 ? [this.recording] : [];
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  end(): void {
    this.splitter.end();
    this.count();
    this.recording.ended = true;
  }

  private count(): void {
    this.recording.bytes = this.splitter.bytes;
    this.recording.lines = this.splitter.lines;
  }

  private takeBytes(batch: LineBatch, from: number, number: number, offset: number): number {
    if (this.inRepeatedBlock) return -1;
    const stop = plainEnd(batch, from);
    if (stop < 0) return -1;
    const trace = this.bytes.read(batch, from, stop);
    if (trace === null) return -1;
    this.add(trace, number, offset);
    return stop;
  }

  private take(line: string, number: number, offset: number): void {
    if (line.includes('<--- ')) {
      if (line.includes(REPEATED_FROM)) this.inRepeatedBlock = true;
      else if (line.includes(REPEATED_TO)) this.inRepeatedBlock = false;
    }
    const trace = readTraceLine(line);
    if (trace === null) {
      if (line.includes(OUT_OF_MEMORY)) this.outOfMemory();
      if (line.includes(' space, ')) this.addSpace(line);
      else if (looksLikeTrace(line) && (line.includes('->') || line.includes(' pause=')))
        this.issue(
          'cut-line',
          number,
          offset,
          `expected "… -> … MB, … / … ms" or "pause=… … total_size_after=…", found ${snippet(line)}; is the line cut off? The line was left out`,
        );
    } else if (this.inRepeatedBlock)
      this.issue(
        'repeated-line',
        number,
        offset,
        'a collection told before, repeated by the crash report, was left out',
      );
    else this.add(trace, number, offset);
  }

  private add(trace: TraceLine, line: number, offset: number): void {
    const isolate = this.isolates.get(trace.isolate) ?? this.open(trace);
    const endMs = trace.stampMs + isolate.offsetMs;
    const whole = trace.label.startsWith('Mark');
    const { collections, pauses } = this.recording.tables;
    const row = collections.addRow();
    isolate.lastRow = row;
    this.last = isolate;
    const { col } = collections;
    col.promotedBytes[row] = trace.promotedBytes;
    col.byteOffset[row] = offset;
    col.startMs[row] = endMs - trace.pauseMs;
    col.endMs[row] = endMs;
    col.usedBeforeBytes[row] = trace.usedBeforeMb * MIB;
    col.usedAfterBytes[row] = trace.usedAfterMb * MIB;
    col.capacityBytes[row] = trace.committedMb * MIB;
    col.resolutionBytes[row] = trace.resolutionBytes;
    col.labelId[row] = this.recording.intern(trace.label);
    col.causeId[row] = this.recording.intern(trace.reason);
    col.line[row] = line;
    col.heapId[row] = isolate.heapId;
    col.scope[row] = whole ? Scope.whole : Scope.young;
    col.flags[row] = trace.reason.includes('testing') ? CollectionFlag.explicit : 0;
    const pauseRow = pauses.addRow();
    pauses.col.startMs[pauseRow] = endMs - trace.pauseMs;
    pauses.col.durationMs[pauseRow] = trace.pauseMs;
    pauses.col.usedBeforeBytes[pauseRow] = col.usedBeforeBytes[row]!;
    pauses.col.usedAfterBytes[pauseRow] = col.usedAfterBytes[row]!;
    pauses.col.resolutionBytes[pauseRow] = trace.resolutionBytes;
    pauses.col.collectionRow[pauseRow] = row;
    pauses.col.labelId[pauseRow] = col.labelId[row]!;
    pauses.col.causeId[pauseRow] = col.causeId[row]!;
    pauses.col.line[pauseRow] = line;
    pauses.col.heapId[pauseRow] = isolate.heapId;
    pauses.col.scope[pauseRow] = col.scope[row]!;
    this.recording.reach(endMs);
  }

  private addSpace(line: string): void {
    const told = readSpaceLine(line);
    const isolate = told === null ? undefined : this.isolates.get(told.isolate);
    if (told === null || isolate === undefined || this.inRepeatedBlock) return;
    const { spaces } = this.recording.tables;
    const row = spaces.addRow();
    spaces.col.collectionRow[row] = isolate.lastRow;
    spaces.col.nameId[row] = this.recording.intern(told.name);
    spaces.col.afterBytes[row] = told.usedBytes;
  }

  private outOfMemory(): void {
    const heap = this.recording.heaps[this.last?.heapId ?? 0];
    if (heap === undefined) return;
    heap.outOfMemoryMs = this.recording.durationMs;
    heap.endMs = this.recording.durationMs;
  }

  // A worker's clock starts with its isolate: its first line is placed no earlier than what was printed before it.
  private open(trace: TraceLine): Isolate {
    const first = this.isolates.size === 0;
    const firstOffset = trace.stampMs < WHOLE_IF_BEFORE_MS ? 0 : trace.pauseMs - trace.stampMs;
    const offsetMs = first ? firstOffset : Math.max(0, this.recording.durationMs - trace.stampMs);
    const name = first ? 'main' : `isolate ${this.isolates.size + 1}`;
    const isolate = { heapId: this.recording.addHeap(name, V8), offsetMs, lastRow: NONE };
    this.isolates.set(trace.isolate, isolate);
    return isolate;
  }

  private issue(code: string, line: number, byteOffset: number, message: string): void {
    this.recording.issues.add({ code, line, byteOffset, message: `gc log line ${line}: ${message}` });
  }
}
