import { NONE } from '../../base/ids.ts';
import type { FrameId } from '../../base/ids.ts';
import type { Heap, Recording } from '../../model/recording.ts';
import { addOriginNotSeen } from '../../model/not-seen.ts';
import { CollectionFlag, MarkOrigin, PauseFlag, PhaseKind, Scope } from '../../model/tables.ts';
import type {
  FlowLine,
  FramesLine,
  GcLine,
  HelloLine,
  IntervalLine,
  LookLine,
  MarkLine,
  NoteLine,
  PathsLine,
  PauseLine,
  PhaseLine,
  PlacesLine,
  PollLine,
  SilenceLine,
  SizeLine,
  StreamLine,
  TypesLine,
} from './layout.ts';
import { appendInventory } from './inventory-pieces.ts';
import { appendBorn, appendDied } from './append-objects.ts';
import type { HeapScope } from './heap-scope.ts';

/**
 * Appends one checked line to the recording. Answers null, or what was expected when it refers to something unknown.
 */
// eslint-disable-next-line complexity -- a dispatch over the kinds of lines
export function appendLine(
  recording: Recording,
  scope: HeapScope,
  line: Exclude<StreamLine, HelloLine>,
): string | null {
  switch (line.k) {
    case 'name':
      recording.renameHeap(scope.heapId, line.name);
      return null;
    case 'frames':
      return appendFrames(recording, scope, line);
    case 'paths':
      return appendPaths(recording, scope, line);
    case 'places':
      return placeFrames(recording, scope, line);
    case 'types':
      return internTypes(recording, scope, line);
    case 'threads':
      return internNames(recording, scope.threads, line.first, line.name);
    case 'born':
      return appendBorn(recording, scope, line);
    case 'died':
      return appendDied(recording, scope, line);
    case 'flow':
      return appendFlow(recording, scope, line);
    case 'gc':
      return scope.log === null ? appendGc(recording, scope, line) : appendWitness(recording, scope, line);
    case 'pause':
      if (scope.log !== null) return appendWitness(recording, scope, line);
      appendPause(recording, scope, line, NONE);
      return null;
    case 'size':
      return appendSize(recording, scope, line);
    case 'mark':
      return appendMark(recording, scope, line);
    case 'phase':
      return beginPhase(recording, scope, line);
    case 'interval':
      return appendInterval(recording, scope, line);
    case 'log': {
      if (scope.log === null) return 'expected a hello that promises a log';
      scope.log.takeText(line.text);
      return null;
    }
    case 'poll':
      return appendPoll(recording, scope, line);
    case 'look':
      return appendLook(recording, scope, line);
    case 'silence':
      return appendSilence(recording, scope, line);
    case 'src':
      recording.excerpts.set(`${line.file}:${line.line}`, { firstLine: line.first, lines: line.text });
      return null;
    case 'inventory':
      return appendInventory(recording, scope, line);
    case 'note':
      return appendNote(recording, scope, line);
    case 'bye':
      recording.heaps[scope.heapId]!.liveAtEnd = line.live ?? NaN;
      endHeap(recording.heaps[scope.heapId]!, scope, line.t + scope.offsetMs);
      recording.reach(line.t + scope.offsetMs);
      return null;
  }
}

function appendPoll(recording: Recording, scope: HeapScope, line: PollLine): null {
  const { polls } = recording.tables;
  const row = polls.addRow();
  polls.col.tMs[row] = line.t + scope.offsetMs;
  polls.col.durationMs[row] = line.ms;
  polls.col.samplesTaken[row] = line.taken ?? NaN;
  polls.col.heapId[row] = scope.heapId;
  return null;
}

function appendNote(recording: Recording, scope: HeapScope, line: NoteLine): null {
  const tMs = line.t + scope.offsetMs;
  if (line.code === 'out-of-memory' || line.code === 'heap-limit') recording.heaps[scope.heapId]!.outOfMemoryMs = tMs;
  scope.reachedLimit = line.code === 'heap-limit' || (scope.reachedLimit && line.code !== 'out-of-memory');
  recording.notes.push({ tMs: Math.max(0, tMs), code: line.code, message: line.message });
  recording.reach(tMs);
  return null;
}

/** What a heap that had reached its limit lived on for, if it was not to end of that. */
const SURVIVED_MS = 2000;

function endHeap(heap: Heap, scope: HeapScope, tMs: number): void {
  heap.endMs = tMs;
  // It reached its limit once and got by.
  if (scope.reachedLimit && tMs - heap.outOfMemoryMs > SURVIVED_MS) heap.outOfMemoryMs = NaN;
}

function appendLook(recording: Recording, scope: HeapScope, line: LookLine): null {
  const { looks } = recording.tables;
  const row = looks.addRow();
  const { col } = looks;
  col.fromMs[row] = line.from + scope.offsetMs;
  col.toMs[row] = line.to + scope.offsetMs;
  col.taken[row] = line.taken;
  col.seen[row] = line.seen;
  col.reads[row] = line.reads;
  col.cpuMs[row] = line.ms;
  col.heapId[row] = scope.heapId;
  return null;
}

function appendSilence(recording: Recording, scope: HeapScope, line: SilenceLine): null {
  const { silences } = recording.tables;
  const row = silences.addRow();
  silences.col.fromMs[row] = line.from + scope.offsetMs;
  silences.col.toMs[row] = line.to + scope.offsetMs;
  silences.col.heapId[row] = scope.heapId;
  recording.reach(line.to + scope.offsetMs);
  return null;
}

function appendMark(recording: Recording, scope: HeapScope, line: MarkLine): null {
  const { marks } = recording.tables;
  const row = marks.addRow();
  marks.col.tMs[row] = line.t + scope.offsetMs;
  marks.col.labelId[row] = recording.intern(line.label);
  marks.col.heapId[row] = scope.heapId;
  marks.col.origin[row] = MarkOrigin[line.by];
  recording.reach(line.t + scope.offsetMs);
  return null;
}

function appendInterval(recording: Recording, scope: HeapScope, line: IntervalLine): null {
  const { intervals } = recording.tables;
  const row = intervals.addRow();
  intervals.col.tMs[row] = line.t + scope.offsetMs;
  intervals.col.bytes[row] = line.bytes;
  intervals.col.heapId[row] = scope.heapId;
  return null;
}

function internTypes(recording: Recording, scope: HeapScope, line: TypesLine): string | null {
  const first = scope.types.length;
  const problem = internNames(recording, scope.types, line.first, line.name);
  if (problem === null)
    line.outside?.forEach((outside, at) => {
      if (outside === 1) recording.outsideTypes.add(scope.types[first + at]!);
    });
  return problem;
}

function appendFrames(recording: Recording, scope: HeapScope, line: FramesLine): string | null {
  if (line.first !== scope.frames.length) return `expected frames to go on at ${scope.frames.length}`;
  for (let i = 0; i < line.fn.length; i++) {
    scope.frames.push(recording.internFrame(line.fn[i]!, line.file[i]!, line.line[i]!, line.col[i]!));
  }
  return null;
}

function placeFrames(recording: Recording, scope: HeapScope, line: PlacesLine): string | null {
  for (let at = 0; at < line.frame.length; at++) {
    const frameId = scope.frames[line.frame[at]!];
    if (frameId === undefined) return 'expected frames told before';
    recording.placeFrame(frameId, line.file[at]!, line.line[at]!, line.col[at]!);
  }
  return null;
}

function appendPaths(recording: Recording, scope: HeapScope, line: PathsLine): string | null {
  if (line.first !== scope.paths.length) return `expected paths to go on at ${scope.paths.length}`;
  for (let i = 0; i < line.parent.length; i++) {
    const parent = line.parent[i]! < 0 ? NONE : scope.paths[line.parent[i]!];
    const frame = scope.frames[line.frame[i]!];
    if (parent === undefined || frame === undefined) return 'expected a parent and a frame told before';
    scope.paths.push(recording.internPath(parent, frame as FrameId));
  }
  return null;
}

function internNames(recording: Recording, ids: number[], first: number, names: readonly string[]): string | null {
  if (first !== ids.length) return `expected ids to go on at ${ids.length}`;
  for (const name of names) ids.push(recording.intern(name));
  return null;
}

function appendFlow(recording: Recording, scope: HeapScope, line: FlowLine): string | null {
  const { flows } = recording.tables;
  for (let i = 0; i < line.path.length; i++) {
    const pathId = scope.paths[line.path[i]!];
    if (pathId === undefined) return 'expected paths told before';
    const row = flows.addRow();
    const { col } = flows;
    col.fromMs[row] = line.from + scope.offsetMs;
    col.toMs[row] = line.to + scope.offsetMs;
    col.originId[row] = recording.internOrigin(pathId, NONE, NONE, scope.heapId);
    col.bytes[row] = line.bytes[i]!;
    col.seBytes[row] = line.se?.[i] ?? 0;
    if (line.count) col.count[row] = line.count[i]!;
    col.inferred[row] = line.inferred ? 1 : 0;
  }
  recording.reach(line.to + scope.offsetMs);
  return null;
}

function appendWitness(recording: Recording, scope: HeapScope, line: GcLine | PauseLine): null {
  const { witnesses } = recording.tables;
  const row = witnesses.addRow();
  witnesses.col.startMs[row] = line.t + scope.offsetMs;
  witnesses.col.endMs[row] = line.t + line.ms + scope.offsetMs;
  witnesses.col.heapId[row] = scope.heapId;
  recording.reach(line.t + line.ms + scope.offsetMs);
  return null;
}

function appendGc(recording: Recording, scope: HeapScope, line: GcLine): string | null {
  const { collections, spaces } = recording.tables;
  const row = collections.addRow();
  const { col } = collections;
  col.startMs[row] = line.t + scope.offsetMs;
  col.endMs[row] = line.t + line.ms + scope.offsetMs;
  col.usedBeforeBytes[row] = line.before ?? NaN;
  col.usedAfterBytes[row] = line.after ?? NaN;
  col.capacityBytes[row] = line.capacity ?? NaN;
  col.resolutionBytes[row] = 1;
  col.labelId[row] = recording.intern(line.label);
  if (line.cause !== undefined) col.causeId[row] = recording.intern(line.cause);
  col.heapId[row] = scope.heapId;
  col.scope[row] = Scope[line.scope];
  col.flags[row] = (line.own ? CollectionFlag.own : 0) | (line.explicit ? CollectionFlag.explicit : 0);
  let oldGrowth = NaN;
  for (const [name, before, after] of line.spaces ?? []) {
    const spaceRow = spaces.addRow();
    spaces.col.collectionRow[spaceRow] = row;
    spaces.col.nameId[spaceRow] = recording.intern(name);
    spaces.col.beforeBytes[spaceRow] = before;
    spaces.col.afterBytes[spaceRow] = after;
    if (/^old/.test(name)) oldGrowth = Math.max(0, after - before);
  }
  for (const [name, after] of line.pools ?? []) {
    const spaceRow = spaces.addRow();
    spaces.col.collectionRow[spaceRow] = row;
    spaces.col.nameId[spaceRow] = recording.intern(name);
    spaces.col.afterBytes[spaceRow] = after;
  }
  if (line.scope !== 'whole') col.promotedBytes[row] = oldGrowth;
  appendPause(recording, scope, line, row);
  return null;
}

function appendPause(recording: Recording, scope: HeapScope, line: PauseLine | GcLine, collectionRow: number): void {
  const { pauses } = recording.tables;
  const row = pauses.addRow();
  const { col } = pauses;
  col.startMs[row] = line.t + scope.offsetMs;
  col.durationMs[row] = line.ms;
  col.collectionRow[row] = collectionRow;
  col.labelId[row] = recording.intern(line.label);
  if (line.k === 'gc') {
    col.usedBeforeBytes[row] = line.before ?? NaN;
    col.usedAfterBytes[row] = line.after ?? NaN;
    col.resolutionBytes[row] = 1;
    if (line.cause !== undefined) col.causeId[row] = recording.intern(line.cause);
  }
  col.heapId[row] = scope.heapId;
  col.scope[row] = Scope[line.scope];
  col.flags[row] = line.own ? PauseFlag.own : 0;
  recording.reach(line.t + line.ms + scope.offsetMs);
}

function appendSize(recording: Recording, scope: HeapScope, line: SizeLine): string | null {
  const { sizes } = recording.tables;
  const row = sizes.addRow();
  const { col } = sizes;
  col.tMs[row] = line.t + scope.offsetMs;
  col.usedBytes[row] = line.used;
  col.committedBytes[row] = line.committed ?? NaN;
  col.externalBytes[row] = line.external ?? NaN;
  col.residentBytes[row] = line.resident ?? NaN;
  col.heapId[row] = scope.heapId;
  recording.reach(line.t + scope.offsetMs);
  return null;
}

/** Phases that go on following the objects of the one before. */
const FOLLOWS_ON: ReadonlySet<PhaseLine['kind']> = new Set<PhaseLine['kind']>(['objects', 'deaths']);

function beginPhase(recording: Recording, scope: HeapScope, line: PhaseLine): string | null {
  const { phases } = recording.tables;
  const tMs = line.t + scope.offsetMs;
  if (scope.phaseRow !== NONE) phases.col.toMs[scope.phaseRow] = tMs;
  if (!FOLLOWS_ON.has(line.kind)) endFollowed(recording, scope, tMs);
  scope.phaseRow = phases.addRow();
  phases.col.fromMs[scope.phaseRow] = tMs;
  phases.col.heapId[scope.phaseRow] = scope.heapId;
  phases.col.kind[scope.phaseRow] = PhaseKind[line.kind];
  // What is allocated while survivors alone are seen may be nobody's who is known.
  if (line.kind === 'survivors') addOriginNotSeen(recording, scope.heapId);
  return null;
}

/** From an instant on the objects of a heap that are followed are lost from sight. */
export function endFollowed(recording: Recording, scope: HeapScope, tMs: number): void {
  const { col } = recording.tables.objects;
  scope.liveRows.forEachRow((row) => {
    col.endMs[row] = tMs;
    col.lost[row] = 1;
  });
  scope.liveRows.clear();
}
