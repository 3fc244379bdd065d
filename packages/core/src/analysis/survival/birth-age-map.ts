import type { Span } from '../../base/span.ts';
import type { OriginChoice } from '../../model/charge.ts';
import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, Scope } from '../../model/tables.ts';
import { estimatedBytes } from '../../stats/horvitz-thompson.ts';
import { lastKnownAlive } from '../last-known-alive.ts';

/**
 * Deaths by time of birth and age, and what still lives: a Lexis diagram. `died[row · columns + column]` are bytes, rows
 * from the youngest up, columns in equal steps of the span; `alive[column]` is what was born there and lives at its end.
 */
export interface BirthAgeMap {
  readonly span: Span;
  readonly columns: number;
  readonly rows: number;
  /** Lower edges of the rows in milliseconds, and the upper edge of the last. */
  readonly edgesMs: Float64Array;
  readonly died: Float64Array;
  readonly alive: Float64Array;
  /** Samples seen to die and alive at the end. */
  readonly deaths: number;
  readonly living: number;
  /** Ends of the whole collections of the span, in order of time, at most some hundreds. */
  readonly wholeMs: Float64Array;
}

/** How the map is cut up. */
export interface MapShape {
  readonly columns: number;
  readonly rows: number;
  /** Ages on a scale of logarithms, from `LEAST_AGE_MS`; else in equal steps. */
  readonly isLog: boolean;
}

/** Younger than this nothing is told apart. */
const LEAST_AGE_MS = 1;
const MOST_COLLECTIONS = 400;
const MOST_OBJECTS = 500_000;

/**
 * The map of a span's births: a death stands at the middle of when it can have happened. One pass over the objects, at
 * equal strides where there are more than half a million.
 */
export function birthAgeMap(
  recording: Recording,
  span: Span,
  chosen: OriginChoice,
  { columns, rows, isLog }: MapShape,
): BirthAgeMap {
  const { objects } = recording.tables;
  const { bornMs, endMs, lost, sizeBytes, probability, originId } = objects.col;
  const aliveMs = lastKnownAlive(recording);
  const lengthMs = Math.max(1e-6, span.toMs - span.fromMs);
  const edgesMs = edgesOf(lengthMs, rows, isLog);
  const scale = isLog ? rows / Math.log(lengthMs / LEAST_AGE_MS) : rows / lengthMs;
  const rowOf = (ageMs: number): number => {
    const at = isLog ? Math.log(Math.max(LEAST_AGE_MS, ageMs) / LEAST_AGE_MS) * scale : ageMs * scale;
    return Math.max(0, Math.min(rows - 1, Math.floor(at)));
  };
  const died = new Float64Array(columns * rows);
  const alive = new Float64Array(columns);
  const stride = Math.max(1, Math.ceil(objects.length / MOST_OBJECTS));
  let [deaths, living] = [0, 0];
  for (let row = 0; row < objects.length; row += stride) {
    const born = bornMs[row]!;
    if (!(born >= span.fromMs && born < span.toMs) || (chosen !== null && chosen[originId[row]!] !== 1)) continue;
    const column = Math.min(columns - 1, Math.floor(((born - span.fromMs) / lengthMs) * columns));
    const bytes = stride * estimatedBytes(sizeBytes[row]!, probability[row]!);
    const end = endMs[row]!;
    if (end < span.toMs && lost[row] === 0) {
      const ageMs = Math.max(0, (end + Math.max(born, aliveMs(row))) / 2 - born);
      died[rowOf(ageMs) * columns + column]! += bytes;
      deaths++;
    } else if (!(end < span.toMs)) {
      alive[column]! += bytes;
      living++;
    }
  }
  return { span, columns, rows, edgesMs, died, alive, deaths, living, wholeMs: wholeEnds(recording, span) };
}

function edgesOf(lengthMs: number, rows: number, isLog: boolean): Float64Array {
  return Float64Array.from({ length: rows + 1 }, (_, at) =>
    isLog ? (at === 0 ? 0 : LEAST_AGE_MS * (lengthMs / LEAST_AGE_MS) ** (at / rows)) : (lengthMs * at) / rows,
  );
}

function wholeEnds(recording: Recording, span: Span): Float64Array {
  const { length, col } = recording.tables.collections;
  const ends: number[] = [];
  for (let row = 0; row < length && ends.length < MOST_COLLECTIONS; row++)
    if (
      col.scope[row] === Scope.whole &&
      !(col.flags[row]! & CollectionFlag.unfinished) &&
      col.endMs[row]! > span.fromMs &&
      col.endMs[row]! < span.toMs
    )
      ends.push(col.endMs[row]!);
  return Float64Array.from(ends).sort();
}
