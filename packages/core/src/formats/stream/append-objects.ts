import { NONE } from '../../base/ids.ts';
import { NO_ROW } from '../../base/row-index.ts';
import type { Recording } from '../../model/recording.ts';
import { type HeapScope, SURELY_ONE_INTERVALS } from './heap-scope.ts';
import type { BornLine, DiedLine } from './layout.ts';

/** Threads read their clocks and hand on what they saw at different times: a line's own time may be off by so much. */
const CLOCK_MS = 1000;

/** Appends the objects that a line tells of. Answers null, or what was expected of those that were left out. */
export function appendBorn(recording: Recording, scope: HeapScope, line: BornLine): string | null {
  const { objects } = recording.tables;
  const { id, size, at, from, to } = line;
  const { liveRows, offsetMs } = scope;
  const origins = originsOf(recording, scope, line);
  const probabilityOf = probabilitiesOf(scope, line);
  const first = objects.addRows(id.length);
  const { bornMs, bornEarlyMs, bornLateMs, sizeBytes, sourceId, probability, originId } = objects.col;
  // Ids rise with allocation, so within a poll the rank of an object estimates when it was born.
  const step = (to - from) / id.length;
  let [row, unknown, untrue] = [first, 0, 0];
  for (let i = 0; i < id.length; i++) {
    const origin = origins[i]!;
    if (origin === NONE) {
      unknown++;
      continue;
    }
    // One that lives already, or is born outside the line's own time: whatever it is, it is not this.
    const born = at === undefined ? from + (i + 0.5) * step : at[i]!;
    const isOfLine = at === undefined || (born >= from - CLOCK_MS && born <= to + CLOCK_MS);
    if (!isOfLine || !liveRows.add(id[i]!, row)) {
      untrue++;
      continue;
    }
    bornMs[row] = born + offsetMs;
    bornEarlyMs[row] = at === undefined ? born - from : 0;
    bornLateMs[row] = at === undefined ? to - born : 0;
    sizeBytes[row] = size[i]!;
    sourceId[row] = id[i]!;
    probability[row] = probabilityOf(size[i]!, i);
    originId[row] = origin;
    row++;
  }
  objects.takeBack(first + id.length - row);
  recording.reach(to + offsetMs);
  if (untrue > 0)
    return `expected each object once, born between the line's "from" and "to": ${untrue} objects left out`;
  return unknown === 0 ? null : `expected paths told before, ${unknown} objects left out`;
}

// NONE for a path that was not told. Where neither type nor thread is told an origin is its path, and looked up once.
// A loop of its own: what one look-up waits for is fetched beside the next one's.
function originsOf(recording: Recording, scope: HeapScope, { path, type, thread }: BornLine): Uint32Array {
  const { paths, types, threads, heapId } = scope;
  const origins = scope.roomForOrigins(path.length);
  if (type === undefined && thread === undefined) {
    const known = scope.originsOfPaths();
    for (let at = 0; at < path.length; at++) {
      const id = path[at]!;
      const pathId = paths[id];
      if (pathId !== undefined && known[id] === NONE) known[id] = recording.internOrigin(pathId, NONE, NONE, heapId);
      origins[at] = pathId === undefined ? NONE : known[id]!;
    }
    return origins;
  }
  for (let at = 0; at < path.length; at++) {
    const pathId = paths[path[at]!];
    const typeId = type === undefined ? NONE : (types[type[at]!] ?? NONE);
    const threadId = thread === undefined ? NONE : (threads[thread[at]!] ?? NONE);
    origins[at] = pathId === undefined ? NONE : recording.internOrigin(pathId, typeId, threadId, heapId);
  }
  return origins;
}

// NaN where nothing tells with what probability the object was sampled.
function probabilitiesOf(scope: HeapScope, { p, interval }: BornLine): (size: number, at: number) => number {
  if (p !== undefined) return (_, at) => p[at]!;
  const { surelyOneBytes, inclusion } = scope;
  if (interval !== undefined) return (size) => inclusion.of(size, interval);
  return (size) => (size > surelyOneBytes ? inclusion.of(size, surelyOneBytes / SURELY_ONE_INTERVALS) : NaN);
}

/** Ends the objects that a line tells of. Answers null, or what was expected of those that are not known. */
export function appendDied(recording: Recording, scope: HeapScope, line: DiedLine): string | null {
  const { col } = recording.tables.objects;
  let unknown = 0;
  const diedMs = line.to + scope.offsetMs;
  for (let i = 0; i < line.id.length; i++) {
    const id = line.id[i]!;
    const row = scope.liveRows.get(id);
    if (row === NO_ROW || diedMs < col.bornMs[row]! - col.bornEarlyMs[row]! - CLOCK_MS) {
      unknown++;
      continue;
    }
    col.endMs[row] = diedMs;
    col.diedSlackMs[row] = Math.max(
      0,
      Math.min(line.to - line.from, diedMs - (col.bornMs[row]! - col.bornEarlyMs[row]!)),
    );
    scope.liveRows.delete(id);
  }
  recording.reach(line.to + scope.offsetMs);
  return unknown === 0 ? null : `expected births before deaths, ${unknown} deaths left out`;
}
