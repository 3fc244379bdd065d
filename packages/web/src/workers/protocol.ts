import type { Charge, FindOption, Notebook, PauseGrouping, PauseStep, Span } from '@brisk-heron/core';
import type { ChurnAnswer } from './answers/churn.ts';
import type { CollectionDetail } from './answers/collection-detail.ts';
import type { CollectionsAnswer, CollectionsAsk } from './answers/collections.ts';
import type { Look } from './answers/evidence.ts';
import type { CollectionLines } from './collection-lines.ts';
import type { EventFiles } from './event-files.ts';
import type { GrowthAnswer } from './answers/growth.ts';
import type { Overview } from './answers/overview.ts';
import type { KeyDetail } from './answers/key-detail.ts';
import type { MomentAnswer, MomentAsk } from './answers/moment.ts';
import type { LedgerAnswer, LedgerAsk } from './answers/ledger.ts';
import type { PathsAnswer, PathsAsk } from './answers/paths.ts';
import type { SizesAnswer } from './answers/sizes.ts';
import type { RibbonAnswer, RibbonAsk } from './answers/ribbon.ts';
import type { SitesAnswer, SitesAsk } from './answers/sites.ts';
import type { groupFiles } from './import-files.ts';
import type { Progress } from './progress.ts';

export const PROTOCOL_VERSION = 1;

/** What the page may ask of the worker, and what it answers. */
export interface Calls {
  /** Which files hold which run. */
  groupFiles: { ask: { files: File[] }; answer: Awaited<ReturnType<typeof groupFiles>> };
  /** Reads files into a new recording of the id given. */
  /** The worker can then be asked to open what it has imported, without reading it again. */
  importFiles: { ask: { files: File[]; recordingId: string }; answer: { recordingId: string } };
  /** Loads a recording and, when it comes from a stream, follows it. */
  open: {
    ask: { recordingId: string; streamId: string; server: string };
    answer: { readonly name: string; readonly notebook: Notebook };
  };
  overview: { ask: { look: Look }; answer: Overview & RunsTold };
  ribbon: { ask: RibbonAsk; answer: RibbonAnswer };
  growth: { ask: { look: Look; rounds: string | null }; answer: GrowthAnswer };
  collections: { ask: CollectionsAsk; answer: CollectionsAnswer };
  collection: { ask: { row: number }; answer: CollectionDetail };
  /** Lines of the source that tell of a pause's collection. */
  lines: { ask: { row: number }; answer: CollectionLines };
  /** Row of the pause that a step leads to; −1 for none. */
  step: {
    ask: { row: number; step: PauseStep; span: Span | null; by: PauseGrouping; fromMs: number | null };
    answer: { readonly row: number };
  };
  /** Looks at another run of the input from now on. */
  chooseRun: { ask: { run: number }; answer: { readonly durationMs: number } };
  /** Looks at some heaps only from now on; null for all. */
  chooseHeaps: { ask: { heaps: readonly number[] | null }; answer: { chosen: true } };
  sites: { ask: SitesAsk; answer: SitesAnswer };
  churn: { ask: { look: Look }; answer: ChurnAnswer };
  /** What may stand in the find field at the caret. */
  complete: { ask: { text: string; caret: number }; answer: readonly FindOption[] };
  paths: { ask: PathsAsk; answer: PathsAnswer };
  sizes: { ask: { look: Look }; answer: SizesAnswer };
  ledger: { ask: LedgerAsk; answer: LedgerAnswer };
  key: { ask: { look: Look; charge: Charge; key: number }; answer: KeyDetail | null };
  /** What lived at an instant. */
  moment: { ask: MomentAsk; answer: MomentAnswer };
  /** Keeps what the engineer noted beside the recording. */
  note: { ask: { notebook: Notebook }; answer: { noted: true } };
  /** Stores what is not stored yet; the worker can then be ended without losing anything. */
  close: { ask: object; answer: { closed: true } };
  /** Writes the events and call paths of what is looked at as Arrow files; null when that was stopped. */
  eventFiles: { ask: object; answer: EventFiles | null };
  /** Writes the ledger of a look as a CSV file; null when that was stopped. */
  ledgerFile: { ask: { look: Look }; answer: Blob | null };
  /** Stops writing event files or a ledger. */
  stopEventFiles: { ask: object; answer: { stopped: true } };
  exportFile: { ask: { recordingId: string }; answer: { blob: Blob; name: string } };
}

/** Runs of the input; `run` is the one that is looked at. */
export interface RunsTold {
  readonly runs: readonly {
    readonly collector: string;
    readonly collections: number;
    readonly startEpochMs: number;
    readonly durationMs: number;
  }[];
  readonly run: number;
}

export type CallName = keyof Calls;

export type Request = {
  [K in CallName]: {
    readonly version: typeof PROTOCOL_VERSION;
    readonly id: number;
    readonly call: K;
    readonly ask: Calls[K]['ask'];
  };
}[CallName];

/** State of the link to a live stream; `behind` while much of what the server has is still on its way. */
export type LinkState = 'none' | 'connecting' | 'behind' | 'live' | 'waiting' | 'ended' | 'disconnected';

export type Message =
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'answer'; readonly id: number; readonly value: unknown }
  | {
      readonly version: typeof PROTOCOL_VERSION;
      readonly kind: 'failure';
      readonly id: number;
      readonly message: string;
    }
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'progress'; readonly progress: Progress }
  /** The recording has grown or its link changed; at most twice a second. */
  | {
      readonly version: typeof PROTOCOL_VERSION;
      readonly kind: 'changed';
      readonly durationMs: number;
      readonly link: LinkState;
      readonly warning: string;
      readonly behindBytes: number;
      readonly endedHow: string;
    };
