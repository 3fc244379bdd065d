import { CollectionFlag, NONE, type Recording, unwrapLine } from '@brisk-heron/core';
import type { HeronDb } from '../db/heron-db.ts';
import type { RecordingSession } from './recording-session.ts';

/** How far around a collection's own line the lines that tell of it are looked for. */
const AROUND_BYTES = 96 * 1024;
const MOST_LINES = 160;

/** Lines of the source that tell of a collection, as they were printed. */
export interface CollectionLines {
  readonly lines: readonly string[];
  readonly leftOut: number;
}

/** Reads a collection's lines out of the stored source; none when the source has no text for it. */
export async function collectionLines(
  db: HeronDb,
  session: RecordingSession,
  recording: Recording,
  pauseRow: number,
): Promise<CollectionLines> {
  const row = recording.tables.pauses.col.collectionRow[pauseRow]!;
  const { collections } = recording.tables;
  const offset = row === NONE ? NaN : collections.col.byteOffset[row]!;
  if (Number.isNaN(offset)) return { lines: [], leftOut: 0 };
  const cycle = (collections.col.flags[row]! & CollectionFlag.concurrentCycle) !== 0;
  // A cycle's line is its first, a pause's its last.
  const text = await session.textAround(db, offset, AROUND_BYTES, cycle ? AROUND_BYTES * 4 : AROUND_BYTES);
  const all = text.lines.flatMap((line) => linesWithin(line));
  const how = recording.traits.linesOfCollection;
  if (how !== null && 'named' in how) {
    const name = how.named(collections.col.gcId[row]!);
    const named = all.filter((line) => line.includes(name));
    if (named.length > 0) return { lines: named.slice(0, MOST_LINES), leftOut: Math.max(0, named.length - MOST_LINES) };
  }
  const before = how !== null && 'before' in how ? how.before : 0;
  return { lines: text.lines.slice(Math.max(0, text.at - before), text.at + 1), leftOut: 0 };
}

// A recording's stream carries lines of the log inside lines of its own.
function linesWithin(line: string): string[] {
  if (!line.startsWith('{"k":"log"')) return [unwrapLine(line)];
  try {
    return (JSON.parse(line) as { text: string }).text.split('\n');
  } catch {
    return [];
  }
}
