import { GrowableTable } from '../base/growable-table.ts';

/** What a collection covered; the runtime's own label is kept beside it. */
export const Scope = { young: 1, mixed: 2, whole: 3 } as const;
export type ScopeCode = (typeof Scope)[keyof typeof Scope];

/** Bit flags of a collection row. */
export const CollectionFlag = {
  /** Forced by the recorder itself: left out of the program's pauses, but its used-after is a floor point. */
  own: 1,
  /** A concurrent cycle: its pauses are rows of their own, its concurrent time is no pause. */
  concurrentCycle: 2,
  /** Asked for by the program. */
  explicit: 4,
  /** Begun and not finished in the input. */
  unfinished: 8,
  /** Its sizes are its own, of what it gave back while the program ran, not those of its pauses. */
  ownSizes: 16,
  /** A concurrent collection that had to stop the program to get done. */
  degenerated: 32,
  /** The log prints the end of such a cycle: until then it is under way, and no count has it. */
  endPrinted: 64,
  /** Survivors found no room to be copied to, so some stayed where they were. */
  evacuationFailed: 128,
} as const;

/** Bit flags of a pause row. */
export const PauseFlag = { own: 1 } as const;

/** Who set a mark. */
export const MarkOrigin = { program: 1, page: 2, recorder: 3 } as const;
/** What a recorder saw during a phase. */
export const PhaseKind = { births: 1, survivors: 2, objects: 3, deaths: 4, blind: 5 } as const;

/**
 * Where objects come from: the call path that allocates, what is allocated, by which thread, in which heap. NONE for
 * what the source does not tell. Whatever an object is counted under is a function of its origin.
 */
export const originSchema = { pathId: 'u32', typeId: 'u32', threadId: 'u32', heapId: 'u16' } as const;

/**
 * Objects seen one by one. A birth lies in `[bornMs − bornEarlyMs, bornMs + bornLateMs]`. `endMs` is when the object
 * left the view, NaN while it is followed: it was noticed dead, having died in `(endMs − diedSlackMs, endMs]`; or, with
 * `lost` 1, the source no longer followed it from then on (right-censored).
 *
 * `thinned`: the row stands for 2^thinned that were read (model/thin-objects.ts), which its probability or size tells
 * already.
 *
 * `sourceId`: the id that the source gave it, unique in its heap while it lives: what other files are joined by. NaN
 * for none.
 *
 * Weight: with `probability` p, `sizeBytes` is one object's size and it stands for 1/p objects; with p = NaN,
 * `sizeBytes` is already the source's scaled estimate of bytes and the count it stands for is unknown.
 */
const objectSchema = {
  bornMs: 'f64',
  bornEarlyMs: 'f32',
  bornLateMs: 'f32',
  endMs: 'f64',
  diedSlackMs: 'f32',
  lost: 'u8',
  sizeBytes: 'f64',
  probability: 'f32',
  originId: 'u32',
  thinned: 'u8',
  sourceId: 'f64',
} as const;

/**
 * Bytes of an origin over an interval whose single objects were not seen; `seBytes` is the standard error; `inferred` 1
 * when they were not measured but worked out.
 */
const flowSchema = {
  fromMs: 'f64',
  toMs: 'f64',
  bytes: 'f64',
  seBytes: 'f64',
  count: 'f64',
  originId: 'u32',
  inferred: 'u8',
} as const;

/**
 * One garbage collection. Sizes in bytes; `resolutionBytes` is the step in which the source printed them. `line` (from
 * 1) and
 * `byteOffset` are where the input told it; `liveBytes` is what marking found alive, where the source tells it, without
 * what was allocated meanwhile; processor time of collecting (`userMs`, `sysMs`) is beside the real time it took.
 */
const collectionSchema = {
  startMs: 'f64',
  endMs: 'f64',
  gcId: 'u32',
  usedBeforeBytes: 'f64',
  usedAfterBytes: 'f64',
  capacityBytes: 'f64',
  resolutionBytes: 'f64',
  promotedBytes: 'f64',
  allocatedBytes: 'f64',
  liveBytes: 'f64',
  concurrentMs: 'f64',
  userMs: 'f32',
  sysMs: 'f32',
  realMs: 'f32',
  labelId: 'u32',
  causeId: 'u32',
  line: 'u32',
  byteOffset: 'f64',
  heapId: 'u16',
  scope: 'u8',
  flags: 'u16',
} as const;

/**
 * One interval in which the program was stopped, with the heap's use at its two ends where the source tells it.
 * `collectionRow` is NONE when the source tells no collection.
 */
const pauseSchema = {
  startMs: 'f64',
  durationMs: 'f64',
  usedBeforeBytes: 'f64',
  usedAfterBytes: 'f64',
  resolutionBytes: 'f64',
  collectionRow: 'u32',
  labelId: 'u32',
  causeId: 'u32',
  line: 'u32',
  heapId: 'u16',
  scope: 'u8',
  flags: 'u8',
} as const;

/**
 * Size of one space across one collection, where the source tells it; `beforeBytes` NaN where it tells the end alone,
 * `capacityBytes` where it does not say how large the space was then.
 */
const spaceSchema = {
  collectionRow: 'u32',
  nameId: 'u32',
  beforeBytes: 'f64',
  afterBytes: 'f64',
  capacityBytes: 'f64',
} as const;

/**
 * Used memory around a step that gave some back while the program ran; `collectionRow` is its cycle. `allocatedBytes`
 * is what the program allocated meanwhile, NaN where the source does not print it.
 */
const releaseSchema = {
  startMs: 'f64',
  endMs: 'f64',
  usedBeforeBytes: 'f64',
  usedAfterBytes: 'f64',
  resolutionBytes: 'f64',
  allocatedBytes: 'f64',
  collectionRow: 'u32',
  heapId: 'u16',
} as const;

/** A thread of the program that waited for the collector to give memory back; no pause, for others ran on. */
const stallSchema = {
  startMs: 'f64',
  durationMs: 'f64',
  labelId: 'u32',
  threadId: 'u32',
  line: 'u32',
  heapId: 'u16',
} as const;

/**
 * How long a thread of the program was slowed down, in many small waits, to leave the collector time: `pacedMs` of the
 * stretch.
 */
const pacingSchema = {
  fromMs: 'f64',
  toMs: 'f64',
  pacedMs: 'f64',
  threadId: 'u32',
  line: 'u32',
  heapId: 'u16',
} as const;

/**
 * Bytes in the survivor space that had outlived `age` collections, after a collection whose source prints its age
 * table.
 */
const ageSchema = { collectionRow: 'u32', age: 'u8', bytes: 'f64' } as const;

/**
 * One stop of every thread, for whatever reason: how long it took until the last thread had stopped, and until all ran
 * again. A pause lies within one; those of the recording are not pauses of their own, but where the source tells no
 * others.
 */
const safepointSchema = {
  startMs: 'f64',
  reachMs: 'f64',
  totalMs: 'f64',
  operationId: 'u32',
  line: 'u32',
  heapId: 'u16',
} as const;

/** Sizes read at an instant, in bytes. `externalBytes` lie outside the heap but are held by it. */
const sizeSchema = {
  tMs: 'f64',
  usedBytes: 'f64',
  committedBytes: 'f64',
  externalBytes: 'f64',
  residentBytes: 'f64',
  heapId: 'u16',
} as const;

/** A labelled instant. */
export const markSchema = { tMs: 'f64', labelId: 'u32', heapId: 'u16', origin: 'u8' } as const;

/** How the source observed allocation over an interval; `toMs` is NaN while the phase runs. */
const phaseSchema = { fromMs: 'f64', toMs: 'f64', heapId: 'u16', kind: 'u8' } as const;

/** A mean sampling interval in bytes, in force from `tMs` on. */
const intervalSchema = { tMs: 'f64', bytes: 'f64', heapId: 'u16' } as const;

/** A collection as the recorder's own callbacks saw it, beside the log that tells what it was. */
const witnessSchema = { startMs: 'f64', endMs: 'f64', heapId: 'u16' } as const;

/** One poll of a source that samples: samples it took since the last poll, seen or not, and what the poll cost. */
const pollSchema = { tMs: 'f64', durationMs: 'f64', samplesTaken: 'f64', heapId: 'u16' } as const;

/**
 * Of the samples a source took in an interval, how many were looked at one by one, and what looking cost in processor
 * time.
 */
const lookSchema = {
  fromMs: 'f64',
  toMs: 'f64',
  taken: 'f64',
  seen: 'f64',
  reads: 'f64',
  cpuMs: 'f64',
  heapId: 'u16',
} as const;

/** A stretch in which nothing was heard of a heap's collections, though it ran. */
const silenceSchema = { fromMs: 'f64', toMs: 'f64', heapId: 'u16' } as const;

const frameSchema = { functionId: 'u32', fileId: 'u32', line: 'u32', column: 'u32' } as const;

/** A call path is its parent (towards the entry, NONE at the root) and one frame more. Parents come before children. */
const pathSchema = { parentId: 'u32', frameId: 'u32' } as const;

/** All tables of a recording, empty. */
export function createTables() {
  return {
    origins: new GrowableTable(originSchema),
    objects: new GrowableTable(objectSchema),
    flows: new GrowableTable(flowSchema),
    collections: new GrowableTable(collectionSchema),
    pauses: new GrowableTable(pauseSchema),
    spaces: new GrowableTable(spaceSchema),
    releases: new GrowableTable(releaseSchema),
    stalls: new GrowableTable(stallSchema),
    pacing: new GrowableTable(pacingSchema),
    ages: new GrowableTable(ageSchema),
    safepoints: new GrowableTable(safepointSchema),
    sizes: new GrowableTable(sizeSchema),
    marks: new GrowableTable(markSchema),
    phases: new GrowableTable(phaseSchema),
    intervals: new GrowableTable(intervalSchema),
    witnesses: new GrowableTable(witnessSchema),
    polls: new GrowableTable(pollSchema),
    looks: new GrowableTable(lookSchema),
    silences: new GrowableTable(silenceSchema),
    frames: new GrowableTable(frameSchema),
    paths: new GrowableTable(pathSchema),
  };
}

/** Every table of a recording. */
export type RecordingTables = ReturnType<typeof createTables>;
