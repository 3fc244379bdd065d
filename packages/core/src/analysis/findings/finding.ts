import { NONE } from '../../base/ids.ts';
import type { PauseSelection } from '../program-pauses.ts';
import type { Span } from '../../base/span.ts';
import { placesWithin } from '../row-orders.ts';
import { type ProgramCollections, programCollections } from './program-collections.ts';
import type { Recording } from '../../model/recording.ts';
import type { CollectorTraits } from '../../model/runtime-traits.ts';

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
  readonly rows: Uint32Array;
  /** The program's collections of the whole recording, and where those of the span stand among them. */
  readonly collections: ProgramCollections;
  readonly places: readonly [first: number, end: number];
  /** The program's pauses in the span, in order of their start. */
  readonly pauses: PauseSelection;
  /** What is known of the collector. */
  readonly collector: CollectorTraits;
  /** A pause longer than this is a long one. */
  readonly goalMs: number;
}

/** Gathers what the rules look at. O(log n) in collections, once they are in order. */
export function gatherRuleInput(recording: Recording, span: Span, pauses: PauseSelection, goalMs: number): RuleInput {
  const collections = programCollections(recording);
  const places = placesWithin(collections, span.fromMs, span.toMs);
  return {
    recording,
    span,
    rows: collections.rows.subarray(...places),
    collections,
    places,
    pauses,
    collector: recording.collectorTraits,
    goalMs,
  };
}

/** Rows of the span's collections that the runtime flags so: one of those that `collections.flagged` holds. */
export function rowsFlagged(input: RuleInput, flag: number): number[] {
  const { flags } = input.recording.tables.collections.col;
  return rowsAt(input, input.collections.flagged).filter((row) => flags[row]! & flag);
}

/** Rows of the span's collections by their heap and cause, in order of their start. */
export function rowsByCause(input: RuleInput, isWanted: (heapId: number, cause: string) => boolean): number[] {
  const { strings, tables } = input.recording;
  const { startMs } = tables.collections.col;
  const wanted = input.collections.byCause.filter(({ heapId, causeId }) =>
    isWanted(heapId, causeId === NONE ? '' : strings.text(causeId)),
  );
  const rows = wanted.flatMap(({ places }) => rowsAt(input, places));
  return wanted.length > 1 ? rows.sort((a, b) => startMs[a]! - startMs[b]!) : rows;
}

function rowsAt({ collections, places: [first, end] }: RuleInput, places: Uint32Array): number[] {
  const rows: number[] = [];
  for (let at = 0; at < places.length && places[at]! < end; at++)
    if (places[at]! >= first) rows.push(collections.rows[places[at]!]!);
  return rows;
}

/** Moments of collection rows, each going to the collection's first pause. */
export function momentsOf(input: RuleInput, rows: ArrayLike<number>): Moment[] {
  const { startMs, endMs } = input.recording.tables.collections.col;
  return Array.from(rows, (row) => ({
    fromMs: startMs[row]!,
    toMs: endMs[row]!,
    pauseRow: input.collections.pauseOf[row]!,
  }));
}

/** Moments of pause rows. */
export function pauseMoments(input: RuleInput, rows: readonly number[]): Moment[] {
  const { startMs, durationMs } = input.recording.tables.pauses.col;
  return rows.map((row) => ({ fromMs: startMs[row]!, toMs: startMs[row]! + durationMs[row]!, pauseRow: row }));
}

/** Paused milliseconds of collection rows. */
export function pausedMs(input: RuleInput, rows: ArrayLike<number>): number {
  const { collections, pauses } = input.recording.tables;
  const { collectionRow } = pauses.col;
  if (rows.length === 0) return 0;
  const wanted = new Uint8Array(collections.length);
  for (let place = 0; place < rows.length; place++) wanted[rows[place]!] = 1;
  let sum = 0;
  const { rows: pauseRows, durationMs } = input.pauses;
  for (let place = 0; place < pauseRows.length; place++)
    if (wanted[collectionRow[pauseRows[place]!]!] === 1) sum += durationMs[place]!;
  return sum;
}

/** Cause of a collection row, as the runtime printed it. */
export function causeOfRow(input: RuleInput, row: number): string {
  const { recording } = input;
  const id = recording.tables.collections.col.causeId[row]!;
  return id === NONE ? '' : recording.strings.text(id);
}
