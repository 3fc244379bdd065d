import type { Charge, Span } from '@brisk-heron/core';
import type { CollectionDetail, CollectionsAnswer } from './answers/collections.ts';
import type { GrowthAnswer } from './answers/growth.ts';
import type { Overview } from './answers/overview.ts';
import type { RibbonAnswer } from './answers/ribbon.ts';
import type { SiteDetail } from './answers/site-detail.ts';
import type { SitesAnswer } from './answers/sites.ts';

export const PROTOCOL_VERSION = 1;

/** What the page may ask of the worker, and what it answers. */
export interface Calls {
  /** Reads files into a new recording of the id given. */
  importFiles: { ask: { files: File[]; recordingId: string }; answer: { recordingId: string } };
  /** Loads a recording and, when it comes from a stream, follows it. */
  open: { ask: { recordingId: string; streamId: string; server: string }; answer: { opened: true } };
  overview: { ask: { span: Span | null }; answer: Overview & { readonly runs: number } };
  ribbon: { ask: { window: Span; bins: number }; answer: RibbonAnswer };
  growth: { ask: { span: Span | null; charge: Charge }; answer: GrowthAnswer };
  collections: { ask: { span: Span | null; bins: number }; answer: CollectionsAnswer };
  collection: { ask: { row: number }; answer: CollectionDetail };
  sites: { ask: { span: Span | null; charge: Charge }; answer: SitesAnswer };
  site: { ask: { span: Span | null; charge: Charge; frameId: number }; answer: SiteDetail | null };
  /** Stores what is not stored yet; the worker can then be ended without losing anything. */
  close: { ask: Record<string, never>; answer: { closed: true } };
  exportFile: { ask: { recordingId: string }; answer: { blob: Blob; name: string } };
}

export type CallName = keyof Calls;

export type Request = {
  [K in CallName]: { readonly version: typeof PROTOCOL_VERSION; readonly id: number; readonly call: K; readonly ask: Calls[K]['ask'] };
}[CallName];

/** How far a long piece of work is; `totalBytes` is NaN when nobody knows. */
export interface Progress {
  readonly doing: string;
  readonly doneBytes: number;
  readonly totalBytes: number;
}

/** State of the link to a live stream. */
export type LinkState = 'none' | 'connecting' | 'live' | 'waiting' | 'ended' | 'disconnected';

export type Message =
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'answer'; readonly id: number; readonly value: unknown }
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'failure'; readonly id: number; readonly message: string }
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'progress'; readonly progress: Progress }
  /** The recording has grown or its link changed; at most twice a second. */
  | { readonly version: typeof PROTOCOL_VERSION; readonly kind: 'changed'; readonly durationMs: number; readonly link: LinkState; readonly warning: string };
