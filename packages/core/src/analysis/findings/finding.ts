import { NONE } from '../../base/ids.ts';
import type { Span } from '../../base/span.ts';
import { collectionsByStart, placesWithin } from '../row-orders.ts';
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
  /** First pause of each collection row, −1 for those without one. */
  readonly pauseOf: Int32Array;
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
  const order = collectionsByStart(recording);
  const [from, to] = placesWithin(order, span.fromMs, span.toMs);
  for (let place = from; place < to; place++) {
    const row = order.rows[place]!;
    if (!(collections.col.flags[row]! & CollectionFlag.own)) rows.push(row);
  }
  const pauseOf = new Int32Array(collections.length).fill(-1);
  for (let place = 0; place < pauseRows.length; place++) {
    const row = pauseRows[place]!;
    const of = pauses.col.collectionRow[row]!;
    if (pauseOf[of] === -1) pauseOf[of] = row;
  }
  return { recording, span, rows, pauseRows, pauseOf, collector: recording.collectorTraits, goalMs };
}

/** Moments of collection rows, each going to the collection's first pause. */
export function momentsOf(input: RuleInput, rows: readonly number[]): Moment[] {
  const { startMs, endMs } = input.recording.tables.collections.col;
  return rows.map((row) => ({ fromMs: startMs[row]!, toMs: endMs[row]!, pauseRow: input.pauseOf[row]! }));
}

/** Moments of pause rows. */
export function pauseMoments(input: RuleInput, rows: readonly number[]): Moment[] {
  const { startMs, durationMs } = input.recording.tables.pauses.col;
  return rows.map((row) => ({ fromMs: startMs[row]!, toMs: startMs[row]! + durationMs[row]!, pauseRow: row }));
}

/** Paused milliseconds of collection rows. */
export function pausedMs(input: RuleInput, rows: readonly number[]): number {
  const { collections, pauses } = input.recording.tables;
  const { collectionRow, durationMs } = pauses.col;
  const wanted = new Uint8Array(collections.length);
  for (let place = 0; place < rows.length; place++) wanted[rows[place]!] = 1;
  let sum = 0;
  for (let place = 0; place < input.pauseRows.length; place++) {
    const row = input.pauseRows[place]!;
    if (wanted[collectionRow[row]!] === 1) sum += durationMs[row]!;
  }
  return sum;
}

/** Cause of a collection row, as the runtime printed it. */
export function causeOfRow(input: RuleInput, row: number): string {
  const { recording } = input;
  const id = recording.tables.collections.col.causeId[row]!;
  return id === NONE ? '' : recording.strings.text(id);
}
