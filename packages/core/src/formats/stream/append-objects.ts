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
  const { id, path, size, at, type, thread, from, to } = line;
  const { paths, types, threads, liveRows, offsetMs, heapId } = scope;
  let [unknown, untrue] = [0, 0];
  for (let i = 0; i < id.length; i++) {
    const pathId = paths[path[i]!];
    if (pathId === undefined) {
      unknown++;
      continue;
    }
    // One that lives already, or is born outside the line's own time: whatever it is, it is not this.
    const toldMs = at === undefined ? to : at[i]!;
    const isOfLine = toldMs >= from - CLOCK_MS && toldMs <= to + CLOCK_MS;
    if (!isOfLine || !liveRows.add(id[i]!, objects.length)) {
      untrue++;
      continue;
    }
    const row = objects.addRow();
    const { col } = objects;
    // Ids rise with allocation, so within a poll the rank of an object estimates when it was born.
    const bornMs = at === undefined ? from + ((i + 0.5) / id.length) * (to - from) : toldMs;
    col.bornMs[row] = bornMs + offsetMs;
    col.bornEarlyMs[row] = at === undefined ? bornMs - from : 0;
    col.bornLateMs[row] = at === undefined ? to - bornMs : 0;
    col.sizeBytes[row] = size[i]!;
    col.sourceId[row] = id[i]!;
    const probability = probabilityOf(scope, line, i);
    if (!Number.isNaN(probability)) col.probability[row] = probability;
    const typeId = type === undefined ? NONE : (types[type[i]!] ?? NONE);
    const threadId = thread === undefined ? NONE : (threads[thread[i]!] ?? NONE);
    col.originId[row] = recording.internOrigin(pathId, typeId, threadId, heapId);
  }
  recording.reach(to + offsetMs);
  if (untrue > 0)
    return `expected each object once, born between the line's "from" and "to": ${untrue} objects left out`;
  return unknown === 0 ? null : `expected paths told before, ${unknown} objects left out`;
}

// NaN where nothing tells with what probability the object was sampled.
function probabilityOf(scope: HeapScope, line: BornLine, at: number): number {
  if (line.p !== undefined) return line.p[at]!;
  const size = line.size[at]!;
  if (line.interval !== undefined) return -Math.expm1(-size / line.interval);
  if (size > scope.surelyOneBytes) return -Math.expm1((-size * SURELY_ONE_INTERVALS) / scope.surelyOneBytes);
  return NaN;
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
