import { snippet } from '../../base/issues.ts';
import { LineSplitter, MAX_LINE_BYTES } from '../../base/line-splitter.ts';
import { Recording, TOGETHER_MS } from '../../model/recording.ts';
import { MOST_OBJECTS, thinObjects } from '../../model/thin-objects.ts';
import { runtimeOf } from '../../runtimes/registry.ts';
import { JvmLog } from '../jvm-unified/jvm-log.ts';
import { appendLine, endFollowed } from './append-line.ts';
import { HeapScope, SURELY_ONE_INTERVALS } from './heap-scope.ts';
import type { HelloLine, StreamLine } from './layout.ts';
import { StreamLineBytes } from './line-bytes.ts';
import { checkStreamLine, checkStreamValue } from './schema.ts';

declare const TextDecoder: new (label: string) => { decode(bytes: Uint8Array): string };

/**
 * Fills a recording from the open stream, line by line. A line that breaks the contract costs that line and is
 * counted in the recording's issues; lines of a heap that never said hello likewise.
 */
export class StreamParser {
  readonly recording = new Recording('recording');
  private readonly scopes = new Map<string, HeapScope>();
  private readonly ended = new Set<string>();
  /** Heaps that ended, of which nothing is known to go on after them. */
  private unsettled: HeapScope[] = [];
  private readonly splitter: LineSplitter;
  private readonly lines = new StreamLineBytes();
  private readonly mostObjects: number;

  /** `mostObjects`: of more the older ones are thinned. */
  constructor(mostObjects = MOST_OBJECTS) {
    this.mostObjects = mostObjects;
    this.splitter = new LineSplitter((line, number, offset) => this.take(line, number, offset), {
      encoding: 'utf-8',
      takeBytes: (bytes, from, number, offset) => this.takeBytes(bytes, from, number, offset),
      onLong: (line, byteOffset) =>
        this.issue(
          'line-too-long',
          line,
          byteOffset,
          'expected lines of at most 4 MiB; the rest of this one was dropped',
        ),
    });
  }

  write(chunk: Uint8Array): void {
    this.splitter.write(chunk);
    this.count();
  }

  /** Ends the input: a last line without its newline is read if it is whole. */
  end(): void {
    this.splitter.end();
    this.count();
  }

  private count(): void {
    this.recording.bytes = this.splitter.bytes;
    this.recording.lines = this.splitter.lines;
  }

  // What is refused here is told of the text.
  private takeBytes(bytes: Uint8Array, from: number, number: number, offset: number): number {
    const value = this.lines.read(bytes, from);
    const { end } = this.lines;
    const check = value === null || end - from > MAX_LINE_BYTES ? null : checkStreamValue(value);
    if (check?.ok !== true) return -1;
    const text = (): string => new TextDecoder('utf-8').decode(bytes.subarray(from, end));
    this.takeLine(check.line, { number, offset, text });
    return end;
  }

  private take(text: string, number: number, offset: number): void {
    if (text.trim() === '') return;
    const check = checkStreamLine(text);
    if (check.ok) this.takeLine(check.line, { number, offset, text: () => text });
    else this.issue('not-a-stream-line', number, offset, `${check.why}, found ${snippet(text)}`);
  }

  private takeLine(
    line: StreamLine,
    { number, offset, text }: { readonly number: number; readonly offset: number; readonly text: () => string },
  ): void {
    const problem = this.apply(line, offset);
    if (this.recording.tables.objects.length > this.mostObjects) this.thin();
    if (problem !== null) this.issue('unknown-reference', number, offset, `${problem}, found ${snippet(text())}`);
  }

  private apply(line: StreamLine, offset: number): string | null {
    if (line.k === 'hello') return this.open(line);
    const scope = this.scopes.get(line.h);
    if (scope === undefined) return `expected a hello of heap "${line.h}" before its lines`;
    if (line.k !== 'bye') this.settleEnds(line.h);
    else {
      this.ended.add(line.h);
      this.unsettled.push(scope);
      this.recording.ended = this.ended.size === this.scopes.size;
    }
    scope.log?.placeAt(offset);
    return appendLine(this.recording, scope, line);
  }

  private thin(): void {
    const places = thinObjects(this.recording);
    for (const { liveRows } of this.scopes.values()) liveRows.moveRows(places);
  }

  private open(hello: HelloLine): string | null {
    const { recording } = this;
    if (this.scopes.has(hello.h)) return `expected heap "${hello.h}" to say hello once`;
    if (this.scopes.size === 0) {
      recording.startEpochMs = hello.epochMs;
      recording.program = hello.program;
      recording.isNamed = hello.named === true;
      recording.runtime = hello.runtime;
      recording.collector = hello.collector ?? '';
    }
    const heapId = recording.addHeap(hello.heapName ?? hello.h, runtimeOf(hello.runtime));
    const heap = recording.heaps[heapId]!;
    heap.samplingIntervalBytes = hello.interval ?? NaN;
    heap.limitBytes = hello.limit ?? NaN;
    if (hello.container !== undefined && !(hello.container >= recording.containerLimitBytes))
      recording.containerLimitBytes = hello.container;
    heap.startsEmpty = hello.attached !== true;
    heap.seesAllBirths = hello.births === 'all';
    heap.mayInline = hello.inlined === true;
    for (const prefix of hello.own ?? [])
      if (!recording.ownPrefixes.includes(prefix)) recording.ownPrefixes.push(prefix);
    recording.ended = false;
    const offsetMs = hello.epochMs - recording.startEpochMs;
    const log =
      hello.log === undefined || hello.clockMs === undefined
        ? null
        : new JvmLog(recording, heapId, hello.clockMs - offsetMs);
    const scope = new HeapScope(heapId, offsetMs, log);
    if (hello.collector === 'V8' && hello.interval !== undefined)
      scope.surelyOneBytes = SURELY_ONE_INTERVALS * hello.interval;
    this.scopes.set(hello.h, scope);
    return null;
  }

  // What lived in a heap as it ended went with it, where another heap goes on. Of the last one it is what was kept.
  private settleEnds(heap: string): void {
    if (this.unsettled.length === 0 || this.ended.has(heap)) return;
    const gone = this.unsettled.filter(
      (scope) => this.recording.durationMs > this.recording.heaps[scope.heapId]!.endMs + TOGETHER_MS,
    );
    if (gone.length === 0) return;
    for (const scope of gone) endFollowed(this.recording, scope, this.recording.heaps[scope.heapId]!.endMs);
    this.unsettled = this.unsettled.filter((scope) => !gone.includes(scope));
  }

  private issue(code: string, line: number, byteOffset: number, message: string): void {
    this.recording.issues.add({ code, line, byteOffset, message: `stream line ${line}: ${message}` });
  }
}
