/**
 * The open stream: one JSON object a line, `docs/formats.md` describes it. Types only, so that a recorder can share
 * them without depending on anything at run time. Times `t`, `from`, `to` are milliseconds from the heap's hello;
 * sizes are bytes. `h` names the heap that the line speaks of.
 */
export const STREAM_SCHEMA = 'brisk-heron/stream@1';

/** Scope of a collection, as lines of a stream call it. */
export type ScopeName = 'young' | 'mixed' | 'whole';

/** First line of every heap. */
export interface HelloLine {
  k: 'hello';
  schema: typeof STREAM_SCHEMA;
  h: string;
  /** Wall clock at t = 0 in milliseconds. */
  epochMs: number;
  program: string;
  runtime: string;
  collector?: string;
  heapName?: string;
  pid?: number;
  /** Mean sampling interval in bytes. */
  interval?: number;
  /** Most the heap may grow to. */
  limit?: number;
  /** Most that the process's container lets it have in memory, all of it together. */
  container?: number;
  /** The program ran already: its heap was not empty at t = 0. */
  attached?: boolean;
  /** The runtime's own monotonic clock at t = 0 in milliseconds, which the lines of its log carry too. */
  clockMs?: number;
  /**
   * Format of the collector's own log, which comes in `log` lines and tells the collections; `gc` lines then only
   * witness them.
   */
  log?: 'jvm-unified';
  /** Beginnings of the files that hold the engineer's own code, when the recorder knows or was told. */
  own?: string[];
  /**
   * How births are seen: `all` the time, one by one as far as they are sampled, or `some` of the time, the rest
   * inferred.
   */
  births?: 'all' | 'some';
  /** Optimised code may book what a function allocates under its caller. */
  inlined?: boolean;
  /** The program's name is one that the recording was given, not what runs. */
  named?: boolean;
}

/** What the heap is called, where that is known later than its hello. */
export interface NameLine {
  k: 'name';
  h: string;
  name: string;
}

/** New frames with ids `first`, `first + 1`, … Line and column count from 1; 0 when unknown. */
export interface FramesLine {
  k: 'frames';
  h: string;
  first: number;
  fn: string[];
  file: string[];
  line: number[];
  col: number[];
}

/** New call paths; `parent` is a path id, or −1 at the entry. A parent comes before its children. */
export interface PathsLine {
  k: 'paths';
  h: string;
  first: number;
  parent: number[];
  frame: number[];
}

/** Frames told before lie elsewhere in the source than in the running code: `frame` are their ids. */
export interface PlacesLine {
  k: 'places';
  h: string;
  frame: number[];
  file: string[];
  line: number[];
  col: number[];
}

/** New types; `outside` 1 for those that lie outside the collected heap. */
export interface TypesLine {
  k: 'types';
  h: string;
  first: number;
  name: string[];
  outside?: number[];
}
/** Names of threads, by number from `first` on. */
export interface ThreadsLine {
  k: 'threads';
  h: string;
  first: number;
  name: string[];
}

/**
 * Objects seen singly. Born in [from, to], or exactly at `at`. With `p`, `size` is the object's own size and p the
 * probability with which it was seen; with `interval`, the mean sampling interval in bytes under which all of the line
 * were drawn, it is p = 1 − exp(−size / interval). Without either, `size` is the source's estimate of the bytes it
 * stands for.
 */
export interface BornLine {
  k: 'born';
  h: string;
  from: number;
  to: number;
  id: ArrayLike<number>;
  path: ArrayLike<number>;
  size: ArrayLike<number>;
  at?: ArrayLike<number>;
  p?: ArrayLike<number>;
  interval?: number;
  type?: ArrayLike<number>;
  thread?: ArrayLike<number>;
}

/** Objects noticed dead at `to`, and not at `from`: alive then, or out of reach of the collections in between. */
export interface DiedLine {
  k: 'died';
  h: string;
  from: number;
  to: number;
  id: ArrayLike<number>;
}

/**
 * Bytes by path over an interval whose objects were not seen singly; `se` their standard errors; `inferred` when not
 * measured but worked out.
 */
export interface FlowLine {
  k: 'flow';
  h: string;
  from: number;
  to: number;
  path: ArrayLike<number>;
  bytes: ArrayLike<number>;
  se?: ArrayLike<number>;
  count?: ArrayLike<number>;
  inferred?: boolean;
}

/** One collection with its pause; `own` when the recorder forced it. */
export interface GcLine {
  k: 'gc';
  h: string;
  t: number;
  ms: number;
  scope: ScopeName;
  label: string;
  cause?: string;
  before?: number;
  after?: number;
  capacity?: number;
  own?: boolean;
  explicit?: boolean;
  /** Name, size before and after. */
  spaces?: [string, number, number][];
  /** Name and size after, where nobody tells the size before. */
  pools?: [string, number][];
}

/** A pause that is part of no collection line: a step of a concurrent cycle, say. */
export interface PauseLine {
  k: 'pause';
  h: string;
  t: number;
  ms: number;
  scope: ScopeName;
  label: string;
  own?: boolean;
}

/** How much was used at an instant. */
export interface SizeLine {
  k: 'size';
  h: string;
  t: number;
  used: number;
  committed?: number;
  external?: number;
  resident?: number;
}

/** A mark that the program, the page or the recorder set. */
export interface MarkLine {
  k: 'mark';
  h: string;
  t: number;
  label: string;
  by: 'program' | 'page' | 'recorder';
}

/**
 * A way of observing begins; the one before ends. Objects of a survivors phase are not followed past its end. Between
 * `objects` (births and deaths) and `deaths` (no births, deaths of those known) objects stay followed. `blind`: nothing
 * is seen of objects, and none is followed any further.
 */
export interface PhaseLine {
  k: 'phase';
  h: string;
  t: number;
  kind: 'births' | 'survivors' | 'objects' | 'deaths' | 'blind';
}

/**
 * Of the samples `taken` in [from, to], `seen` were looked at one by one, in `reads` that took `ms` of processor time.
 */
export interface LookLine {
  k: 'look';
  h: string;
  from: number;
  to: number;
  taken: number;
  seen: number;
  reads: number;
  ms: number;
}

/** Nothing was heard of the heap's collections in [from, to]: there may have been any number. */
export interface SilenceLine {
  k: 'silence';
  h: string;
  from: number;
  to: number;
}

/** From `t` on, births are drawn with another mean sampling interval in bytes. */
export interface IntervalLine {
  k: 'interval';
  h: string;
  t: number;
  bytes: number;
}

/** Whole lines of the collector's own log, as printed, up to byte `upto` of its file. */
export interface LogLine {
  k: 'log';
  h: string;
  upto: number;
  text: string;
}

/** One poll: samples taken since the last, seen or not, and what the poll cost. */
export interface PollLine {
  k: 'poll';
  h: string;
  t: number;
  ms: number;
  taken?: number;
}

/** Lines of a source file, for the screen; the file is named as in its frames. */
export interface SourceLine {
  k: 'src';
  h: string;
  file: string;
  line: number;
  first: number;
  text: string[];
}

/**
 * A piece of an inventory of the heap, taken at `t`, for which the program stood still for `ms`: bytes of
 * inventory-file/layout.ts in base64. `n` counts the pieces from 0, and the last says so.
 */
export interface InventoryLine {
  k: 'inventory';
  h: string;
  t: number;
  ms?: number;
  n: number;
  data: string;
  last?: boolean;
}

/** What the source cannot see, costs, or failed at. */
export interface NoteLine {
  k: 'note';
  h: string;
  t: number;
  code: string;
  message: string;
}

/** The heap ended; `live` counts the followed objects that were in it then, where the recorder looked. */
export interface ByeLine {
  k: 'bye';
  h: string;
  t: number;
  reason: string;
  live?: number;
}

/** Any line of a stream. */
export type StreamLine =
  | HelloLine
  | NameLine
  | FramesLine
  | PathsLine
  | PlacesLine
  | TypesLine
  | ThreadsLine
  | BornLine
  | DiedLine
  | FlowLine
  | GcLine
  | PauseLine
  | SizeLine
  | MarkLine
  | PhaseLine
  | IntervalLine
  | LogLine
  | PollLine
  | LookLine
  | SilenceLine
  | SourceLine
  | InventoryLine
  | NoteLine
  | ByeLine;
