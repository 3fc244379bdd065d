import { NONE } from '../../base/ids.ts';
import { contains, type Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import type { CollectorTraits } from '../../model/runtime-traits.ts';
import { CollectionFlag } from '../../model/tables.ts';

/**
 * How sure a finding is: `certain` when the source says so itself, `likely` when the figures leave little else, `hint`
 * otherwise.
 */
export type Certainty = 'certain' | 'likely' | 'hint';

/** A problem, with its input. */
export interface Finding {
  readonly code: string;
  /** What was found, with its numbers. */
  readonly sentence: string;
  /** The rule that holds, with its thresholds. */
  readonly rule: string;
  readonly certainty: Certainty;
  /** What an engineer would try next, for this collector. */
  readonly advice: string;
  /** Milliseconds that it cost the program, as far as they are known: the order of findings. */
  readonly costMs: number;
  /** Instants and stretches in which it holds, in order of time. */
  readonly moments: readonly Moment[];
}

/** A stretch in which a finding holds; `pauseRow` is one to go to, −1 when it has none. */
export interface Moment extends Span {
  readonly pauseRow: number;
}

/** What every rule looks at. */
export interface RuleInput {
  readonly recording: Recording;
  readonly span: Span;
  /** Rows of the program's collections in the span, in order of their start. */
  readonly rows: readonly number[];
  /** Rows of the program's pauses in the span, in order of their start. */
  readonly pauseRows: readonly number[];
  /** First pause of each collection row. */
  readonly pauseOf: ReadonlyMap<number, number>;
  /** What is known of the collector. */
  readonly collector: CollectorTraits;
  /** A pause longer than this is a long one. */
  readonly goalMs: number;
}

/** Gathers what the rules look at. O(n log n) in collections and pauses. */
export function gatherRuleInput(
  recording: Recording,
  span: Span,
  pauseRows: readonly number[],
  goalMs: number,
): RuleInput {
  const { collections, pauses } = recording.tables;
  const rows: number[] = [];
  for (let row = 0; row < collections.length; row++) {
    if (contains(span, collections.col.startMs[row]!) && !(collections.col.flags[row]! & CollectionFlag.own))
      rows.push(row);
  }
  rows.sort((a, b) => collections.col.startMs[a]! - collections.col.startMs[b]!);
  const pauseOf = new Map<number, number>();
  for (const row of pauseRows)
    if (!pauseOf.has(pauses.col.collectionRow[row]!)) pauseOf.set(pauses.col.collectionRow[row]!, row);
  return { recording, span, rows, pauseRows, pauseOf, collector: recording.collectorTraits, goalMs };
}

/** Moments of collection rows, each going to the collection's first pause. */
export function momentsOf(input: RuleInput, rows: readonly number[]): Moment[] {
  const { startMs, endMs } = input.recording.tables.collections.col;
  return rows.map((row) => ({ fromMs: startMs[row]!, toMs: endMs[row]!, pauseRow: input.pauseOf.get(row) ?? -1 }));
}

/** Moments of pause rows. */
export function pauseMoments(input: RuleInput, rows: readonly number[]): Moment[] {
  const { startMs, durationMs } = input.recording.tables.pauses.col;
  return rows.map((row) => ({ fromMs: startMs[row]!, toMs: startMs[row]! + durationMs[row]!, pauseRow: row }));
}

/** Paused milliseconds of collection rows. */
export function pausedMs(input: RuleInput, rows: readonly number[]): number {
  const wanted = new Set(rows);
  const { collectionRow, durationMs } = input.recording.tables.pauses.col;
  return input.pauseRows.reduce((sum, row) => (wanted.has(collectionRow[row]!) ? sum + durationMs[row]! : sum), 0);
}

/** Cause of a collection row, as the runtime printed it. */
export function causeOfRow(input: RuleInput, row: number): string {
  const { recording } = input;
  const id = recording.tables.collections.col.causeId[row]!;
  return id === NONE ? '' : recording.strings.text(id);
}
