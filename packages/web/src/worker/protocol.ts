import type { LookAsk, MeasureName, Notebook, PairMeasureName, SideAsk } from '@brisk-heron/core';
import type { CollectionLines } from './collection-lines.ts';
import type { EventFiles } from './event-files.ts';
import type { groupFiles } from './import-files.ts';
import type { Progress } from './progress.ts';

/** Both ends must be of one version: a page and its worker that were loaded from different builds are not. */
export const PROTOCOL_VERSION = 2;

/** Two sides that are compared, A and B. */
export type PairOfSides = readonly [SideAsk, SideAsk];

/** What a question is about: one side, or two that are compared. */
export type Sides = readonly [SideAsk] | PairOfSides;

/** What the page may ask of the worker, and what it answers. Sides name the recording that is asked about. */
export interface Calls {
  /** Which files hold which run. */
  groupFiles: { ask: { files: File[] }; answer: Awaited<ReturnType<typeof groupFiles>> };
  /**
   * Reads files into a new recording of the id given. The worker can then be asked to open what it has imported,
   * without reading it again.
   */
  importFiles: { ask: { files: File[]; recordingId: string }; answer: { recordingId: string } };
  /** Loads a recording and, when it comes from a stream, follows it. */
  open: {
    ask: { recordingId: string; streamId: string; server: string };
    answer: { readonly name: string; readonly notebook: Notebook };
  };
  /** One measure of one side or two, by its name; what may be asked of it is checked. */
  measure: { ask: { sides: Sides; measure: MeasureName | PairMeasureName; ask: unknown }; answer: unknown };
  /** Lines of the source that tell of a pause's collection. */
  lines: { ask: { side: SideAsk; row: number }; answer: CollectionLines };
  /** Keeps what the engineer noted beside the recording. */
  note: { ask: { recordingId: string; notebook: Notebook }; answer: { noted: true } };
  /** Stores what is not stored yet; the worker can then be ended without losing anything. */
  close: { ask: { recordingId: string }; answer: { closed: true } };
  /** Writes the events and call paths of a side as Arrow files; null when that was stopped. */
  eventFiles: { ask: { side: SideAsk }; answer: EventFiles | null };
  /** Writes the ledger of a side as a CSV file; null when that was stopped. */
  ledgerFile: { ask: { side: SideAsk; ask: LookAsk }; answer: Blob | null };
  /** Stops writing event files or a ledger. */
  stopEventFiles: { ask: object; answer: { stopped: true } };
  exportFile: { ask: { recordingId: string }; answer: { blob: Blob; name: string } };
}

/** Name of a call. */
export type CallName = keyof Calls;

/** A call with what is asked, as it is sent. */
export type Request = {
  [K in CallName]: { readonly version: number; readonly id: number; readonly call: K; readonly ask: Calls[K]['ask'] };
}[CallName];

/** State of the link to a live stream; `behind` while much of what the server has is still on its way. */
export type LinkState = 'none' | 'connecting' | 'behind' | 'live' | 'waiting' | 'ended' | 'disconnected';

/** The recording has grown or its link changed. */
export interface Changed {
  readonly kind: 'changed';
  readonly recordingId: string;
  readonly durationMs: number;
  readonly link: LinkState;
  readonly warning: string;
  readonly behindBytes: number;
  readonly endedHow: string;
}

/** Whatever the worker tells. */
export type Message = { readonly version: number } & (
  | { readonly kind: 'answer'; readonly id: number; readonly value: unknown }
  | { readonly kind: 'failure'; readonly id: number; readonly message: string }
  | { readonly kind: 'progress'; readonly progress: Progress }
  | Changed
);

/** Said where the two ends are of different versions. */
export const OTHER_VERSION = 'the page and what computes for it are of different versions: reload the page';
