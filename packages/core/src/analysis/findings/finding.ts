import { firstPlaceFrom } from '../../base/binary-search.ts';
import { NONE } from '../../base/ids.ts';
import { allPauses, type PauseSelection } from '../program-pauses.ts';
import { rememberReading } from '../remember.ts';
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

/** Rows of the span's collections among some places of the program's collections, which ascend. */
export function rowsAt({ collections, places: [first, end] }: RuleInput, places: Uint32Array): number[] {
  const placeFrom = (wanted: number): number => firstPlaceFrom(places.length, (at) => places[at]!, wanted);
  return Array.from(places.subarray(placeFrom(first), placeFrom(end)), (place) => collections.rows[place]!);
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

/** By collection row, where its pauses begin in `places`, which has places among all pauses of the program. */
const pausesByCollection = rememberReading((recording) => {
  const { collections, pauses } = recording.tables;
  const { rows } = allPauses(recording);
  const { collectionRow } = pauses.col;
  const begins = new Uint32Array(collections.length + 1);
  for (let place = 0; place < rows.length; place++) {
    const of = collectionRow[rows[place]!]!;
    if (of < collections.length) begins[of + 1]!++;
  }
  for (let row = 0; row < collections.length; row++) begins[row + 1]! += begins[row]!;
  const filled = begins.slice();
  const places = new Uint32Array(begins[collections.length]!);
  for (let place = 0; place < rows.length; place++) {
    const of = collectionRow[rows[place]!]!;
    if (of < collections.length) places[filled[of]!++] = place;
  }
  return { begins, places };
});

/** Milliseconds that the span's pauses of different collection rows lasted. Linear in these. */
export function pausedMs({ recording, pauses }: RuleInput, rows: ArrayLike<number>): number {
  if (rows.length === 0) return 0;
  const { begins, places } = pausesByCollection(recording);
  const { durationMs } = allPauses(recording);
  const { first, end, before } = pauses.places;
  let sum = 0;
  for (let at = 0; at < rows.length; at++) {
    const row = rows[at]!;
    for (let each = begins[row]!; each < begins[row + 1]!; each++) {
      const place = places[each]!;
      if ((place >= first && place < end) || before.includes(place)) sum += durationMs[place]!;
    }
  }
  return sum;
}

/** Cause of a collection row, as the runtime printed it. */
export function causeOfRow(input: RuleInput, row: number): string {
  const { recording } = input;
  const id = recording.tables.collections.col.causeId[row]!;
  return id === NONE ? '' : recording.strings.text(id);
}
