import type {
  MeasureAnswer,
  MeasureAsk,
  MeasureName,
  Overview,
  PairMeasureAnswer,
  PairMeasureAsk,
  PairMeasureName,
  SideAsk,
} from '@brisk-heron/core';
import type { Component } from 'vue';
import type { AddressPart } from './address.ts';

/** How a question asks its measures of what is looked at. */
export interface Asking {
  /** Asks a measure of the side that is looked at. */
  readonly measure: <M extends MeasureName>(measure: M, ask: MeasureAsk<M>) => Promise<MeasureAnswer<M>>;
  /** The side that is looked at. */
  readonly side: SideAsk;
  /** Asks a measure of any side of a recording that is open. */
  readonly measureOf: <M extends MeasureName>(
    side: SideAsk,
    measure: M,
    ask: MeasureAsk<M>,
  ) => Promise<MeasureAnswer<M>>;
  /** Asks a measure of two sides, A and B, of recordings that are open. */
  readonly pair: <M extends PairMeasureName>(
    sides: readonly [SideAsk, SideAsk],
    measure: M,
    ask: PairMeasureAsk<M>,
  ) => Promise<PairMeasureAnswer<M>>;
  /** Opens another recording of this browser beside the one that is looked at, if it is not. */
  readonly openBeside: (recordingId: string) => Promise<void>;
  /** How objects are charged, and which are found. */
  readonly look: LookAsked;
  /** Runs this once all else on the screen is answered: for what the engineer does not look at first. */
  readonly later: (rest: () => Promise<void>) => void;
  /** False when what was asked is no longer what is wanted: its answer is dropped then. */
  readonly isCurrent: () => boolean;
}

/** What of the look measures that count objects are asked with. */
export interface LookAsked {
  readonly charge: NonNullable<MeasureAsk<'growth'>['charge']>;
  readonly find: string;
}

/** A question's own state: what is asked beyond the look, and the answers. */
export interface QuestionState {
  /** Asks for what its view shows. */
  ask(asking: Asking): Promise<void>;
  /** Forgets what belongs to one recording. */
  reset(): void;
  /** Its settings as they stand in the address while its view is shown. */
  readonly address?: AddressPart;
}

/** What the rail tells of a question. */
export interface RailLine {
  readonly answer: string;
  /** True where it needs the engineer's attention. */
  readonly urgent: boolean;
}

/** A key, and what it does. */
export type KeyWords = readonly [key: string, meaning: string];

/** A question of the rail: one folder, and one line in the registry (docs/adding-a-question.md). */
export interface Question {
  /** As it stands in the address. */
  readonly id: string;
  readonly title: string;
  /** Measures that it asks. */
  readonly measures: readonly (MeasureName | PairMeasureName)[];
  /** Its line on the rail, out of the overview. */
  readonly line: (overview: Overview) => RailLine;
  readonly state: () => QuestionState;
  readonly view: Component;
  /** Keys that act in its view. */
  readonly keys?: readonly KeyWords[];
}
