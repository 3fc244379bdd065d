import { type FrameId, type HeapId, NONE, type OriginId, type PathId, type StringId } from '../base/ids.ts';
import { IssueLog } from '../base/issues.ts';
import { StringTable } from '../base/string-table.ts';
import type { Inventory } from './heap-graph.ts';
import { OriginIndex } from './origin-index.ts';
import { type CollectorTraits, type RuntimeTraits, UNKNOWN_RUNTIME } from './runtime-traits.ts';
import { createTables, type RecordingTables } from './tables.ts';

/** Formats a recording may come from; new ones are added, none renamed. */
export type SourceFormat =
  | 'jvm-unified'
  | 'v8-trace'
  | 'recording'
  | 'go-trace'
  | 'cpython-gc'
  | 'ruby-profiler'
  | 'jvm-printed'
  | 'jvm-inventory'
  | 'v8-inventory';

/** One garbage-collected heap: a process, or one worker isolate of it. */
export interface Heap {
  name: string;
  /** What the words of its runtime mean. */
  readonly traits: RuntimeTraits;
  /** Interval of the source's sampling in bytes; NaN when the source does not sample. */
  samplingIntervalBytes: number;
  /** Most the heap may grow to, in bytes; NaN when the source does not tell. */
  limitBytes: number;
  /**
   * False when the recording began in the middle of the heap's life, so that its first reading says nothing of
   * allocation.
   */
  startsEmpty: boolean;
  /** Followed objects that the recorder counted in the heap at its end; NaN when it did not. */
  liveAtEnd: number;
  /** When the source said that the heap ended, in milliseconds; NaN while it did not. */
  endMs: number;
  /** When the source said that the heap could get no more memory; NaN when it did not. */
  outOfMemoryMs: number;
  /**
   * True when births are seen all the time, one by one as far as they are sampled; false when the rest is inferred, or
   * nobody says.
   */
  seesAllBirths: boolean;
  /** True when optimised code may book what a function allocates under its caller. */
  mayInline: boolean;
}

/** Heaps that end within this of each other end together, as the threads of a process do. */
export const TOGETHER_MS = 2000;

/** A remark of the source about what it cannot see, what it costs, or what went wrong. */
export interface SourceNote {
  readonly tMs: number;
  readonly code: string;
  readonly message: string;
}

/** What was left out at once of a recording of more objects than are held (model/thin-objects.ts). */
export interface Thinning {
  /** Objects born before it, dead when it was done, were thinned. */
  readonly beforeMs: number;
  readonly removed: number;
  /** One in 2^level of them was kept. */
  readonly level: number;
}

/** A piece of a source file: `lines[0]` is line `firstLine`. */
export interface SourceExcerpt {
  readonly firstLine: number;
  readonly lines: readonly string[];
}

const ID_ROOM = 2 ** 26;

/**
 * Everything captured from one run of one program, or read from one log, as columns.
 *
 * Grown by appending only, except that an object row gets its death and a phase row its end later. Times are
 * milliseconds from the recording's start.
 */
export class Recording {
  readonly tables: RecordingTables = createTables();
  readonly strings = new StringTable();
  readonly heaps: Heap[] = [];
  readonly issues = new IssueLog();
  readonly notes: SourceNote[] = [];
  /**
   * What was left out of a recording of more objects than are held, in the order it was done (model/thin-objects.ts).
   */
  readonly thinnings: Thinning[] = [];
  /** Excerpts by file and line of the frame: key `file:line`. */
  readonly excerpts = new Map<string, SourceExcerpt>();

  /** Beginnings of the files that hold the engineer's own code; empty when nobody said, and the default rules hold. */
  readonly ownPrefixes: string[] = [];
  /** String ids of types whose objects lie outside the collected heap, as the stores of buffers do. */
  readonly outsideTypes = new Set<number>();
  /** Rules for own code that the engineer gave; null to take what the source said. */
  givenOwnRules: readonly string[] | null = null;

  format: SourceFormat;
  program = '';
  /** True when `program` is a name that the recording was given. Told by a stream's first reading only. */
  isNamed = false;
  runtime = '';
  collector = '';
  /** Wall clock of time 0; NaN when unknown. */
  startEpochMs = NaN;
  /** Time of the last thing known. */
  durationMs = 0;
  /** What the process may have in memory at most, as its container says; NaN when the source does not tell. */
  containerLimitBytes = NaN;
  /** A settle time that the engineer gave, in milliseconds; NaN for none. */
  givenSettleMs = NaN;
  /** A limit that the engineer gave, as of a container; NaN for none. */
  givenLimitBytes = NaN;
  /** Heaps that this recording is cut down to, by heap id; null for all (model/recording-part.ts). */
  chosenHeaps: readonly number[] | null = null;
  /** What of the input is not here, in words; '' where all is. */
  missing = '';
  /** True once the source said that it ended. */
  ended = false;
  /** False when the source prints no clock: times then only order the events, and no rate can be had. */
  hasClock = true;
  /** True when before − after figures miss what was freed concurrently, so rates from them are lower bounds. */
  freesConcurrently = false;
  /** Every object at some instants, where the input tells that; the earlier ones first. */
  readonly inventories: Inventory[] = [];
  bytes = 0;
  lines = 0;

  private readonly frameIds = new Map<string, number>();
  private readonly pathIds = new Map<number, number>();
  private readonly originIndex = new OriginIndex(this.tables.origins);

  constructor(format: SourceFormat) {
    this.format = format;
  }

  /** Moves the end of the recording forward to `tMs`. NaN is ignored. */
  reach(tMs: number): void {
    if (tMs > this.durationMs) this.durationMs = tMs;
  }

  addHeap(given: string, traits: RuntimeTraits = UNKNOWN_RUNTIME): HeapId {
    const name = this.freeHeapName(given);
    return (this.heaps.push({
      name,
      traits,
      samplingIntervalBytes: NaN,
      limitBytes: NaN,
      startsEmpty: true,
      liveAtEnd: NaN,
      endMs: NaN,
      outOfMemoryMs: NaN,
      seesAllBirths: false,
      mayInline: false,
    }) - 1) as HeapId;
  }

  /** What the words of the runtime mean: of the first heap that is looked at. */
  get traits(): RuntimeTraits {
    return this.heaps[this.chosenHeaps?.[0] ?? 0]?.traits ?? UNKNOWN_RUNTIME;
  }

  /** What is known of the collector, by what the source calls it. */
  get collectorTraits(): CollectorTraits {
    return this.traits.collectors.find(({ fits }) => fits.test(this.collector))!;
  }

  /** Gives a heap another name. */
  renameHeap(heapId: HeapId, given: string): void {
    const heap = this.heaps[heapId];
    if (heap !== undefined && heap.name !== given) heap.name = this.freeHeapName(given);
  }

  // A name that is taken already gets a number.
  private freeHeapName(given: string): string {
    let name = given;
    for (let n = 2; this.heaps.some((heap) => heap.name === name); n++) name = `${given} (${n})`;
    return name;
  }

  /** Id of a frame, adding it when new. Line and column count from 1; 0 when unknown. */
  internFrame(functionName: string, file: string, line: number, column: number): FrameId {
    const functionId = this.strings.intern(functionName);
    const fileId = this.strings.intern(file);
    const key = `${functionId}:${fileId}:${line}:${column}`;
    const known = this.frameIds.get(key);
    if (known !== undefined) return known as FrameId;
    const row = this.tables.frames.addRow();
    const { col } = this.tables.frames;
    col.functionId[row] = functionId;
    col.fileId[row] = fileId;
    col.line[row] = line;
    col.column[row] = column;
    this.frameIds.set(key, row);
    return row as FrameId;
  }

  /**
   * Says where in the source a frame lies that was told as it runs. Frames told later by their running place are still
   * this one.
   */
  placeFrame(frameId: number, file: string, line: number, column: number): void {
    const { col } = this.tables.frames;
    col.fileId[frameId] = this.strings.intern(file);
    col.line[frameId] = line;
    col.column[frameId] = column;
  }

  /** Id of the path that adds one frame to its parent (NONE for the entry frame). */
  internPath(parentId: number, frameId: FrameId): PathId {
    // Two ids in one number, exact below 2^53: of each there is room for 67 million, more than a Map can hold.
    if (parentId !== NONE && parentId + 1 >= ID_ROOM) throw new RangeError(`expected fewer than ${ID_ROOM} call paths`);
    if (frameId >= ID_ROOM) throw new RangeError(`expected fewer than ${ID_ROOM} frames`);
    const key = (parentId === NONE ? 0 : parentId + 1) * ID_ROOM + frameId;
    const known = this.pathIds.get(key);
    if (known !== undefined) return known as PathId;
    const row = this.tables.paths.addRow();
    this.tables.paths.col.parentId[row] = parentId;
    this.tables.paths.col.frameId[row] = frameId;
    this.pathIds.set(key, row);
    return row as PathId;
  }

  /** Id of an origin, adding it when new; NONE for what is not known of it. */
  internOrigin(pathId: number, typeId: number, threadId: number, heapId: number): OriginId {
    return this.originIndex.intern(pathId, typeId, threadId, heapId) as OriginId;
  }

  intern(text: string): StringId {
    return this.strings.intern(text);
  }

  /** Rules for own code in force (model/own-frame.ts). */
  get ownRules(): readonly string[] {
    return this.givenOwnRules ?? this.ownPrefixes;
  }

  /**
   * The limit that growth is held against, in bytes: the one that was given, else that of the heap; NaN when none is
   * known.
   */
  limitBytes(): number {
    return Number.isNaN(this.givenLimitBytes) ? this.heapLimitBytes() : this.givenLimitBytes;
  }

  /** The lowest limit any heap has, in bytes; NaN when none is known. */
  heapLimitBytes(): number {
    let lowest = NaN;
    const heaps = this.chosenHeaps?.map((heapId) => this.heaps[heapId]!) ?? this.heaps;
    for (const heap of heaps) if (!(heap.limitBytes >= lowest)) lowest = heap.limitBytes;
    return lowest;
  }
}
