import {
  allocationFigures, birthsSeenMs, fileName, frameText, isOwnFile, NONE, siteTable, wholeSpan, type AllocationFigures, type Charge, type Recording,
  type SiteFigures, type Span,
} from '@brisk-heron/core';
import type { SiteTables } from './site-tables.ts';

/** A site's figures with its words, for a table. */
export interface SiteRow extends Omit<SiteFigures, 'heaviestPathId'> {
  readonly functionName: string;
  /** `alerts.js:88`, '' when unknown. */
  readonly place: string;
  /** The place without what the function's name says already: `:88` of `Weir.open Weir.java:88`. */
  readonly shortPlace: string;
  readonly isOwn: boolean;
  readonly type: string | null;
}

/** What the view "Who allocates?" shows. */
export interface SitesAnswer {
  readonly span: Span;
  readonly observed: boolean;
  readonly sites: readonly SiteRow[];
  /** Sum over all sites, those beyond the list included. */
  readonly allocBytes: number;
  readonly inferredBytes: number;
  readonly keptBytes: number;
  readonly siteCount: number;
  readonly settleMs: number;
  /** Part of the span in which births could be seen: what rates are per. */
  readonly seenMs: number;
  readonly measured: AllocationFigures | null;
}

const MOST_SITES = 500;

export function sitesOf(recording: Recording, given: Span | null, charge: Charge, tables: SiteTables = siteTable): SitesAnswer {
  const span = given ?? wholeSpan(recording);
  const table = tables(recording, span, charge);
  const byAllocation = [...table.sites].sort((a, b) => b.allocBytes - a.allocBytes);
  const sum = (pick: (site: SiteFigures) => number): number => byAllocation.reduce((total, site) => total + pick(site), 0);
  return {
    span,
    observed: recording.tables.objects.length + recording.tables.flows.length > 0,
    sites: byAllocation.slice(0, MOST_SITES).map((site) => siteRow(recording, site)),
    allocBytes: sum((site) => site.allocBytes),
    inferredBytes: sum((site) => site.inferredBytes),
    keptBytes: sum((site) => site.keptBytes),
    siteCount: byAllocation.length,
    settleMs: table.settleMs,
    seenMs: birthsSeenMs(recording, span),
    measured: allocationFigures(recording, span),
  };
}

export function siteRow(recording: Recording, site: SiteFigures): SiteRow {
  const { heaviestPathId: _path, ...figures } = site;
  return { ...figures, ...siteWords(recording, site) };
}

/** What a charge key is called. */
export function siteWords(recording: Recording, site: { readonly frameId: number; readonly typeId: number }): Pick<SiteRow, 'functionName' | 'place' | 'shortPlace' | 'isOwn' | 'type'> {
  const frame = site.frameId === NONE ? null : frameText(recording, site.frameId);
  const place = frame === null || frame.file === '' ? '' : `${fileName(frame.file)}${frame.line > 0 ? `:${frame.line}` : ''}`;
  return {
    functionName: frame?.functionName ?? '(unknown)',
    place,
    shortPlace: frame !== null && frame.line > 0 && frame.functionName.startsWith(`${fileName(frame.file).replace(/\.\w+$/, '')}.`) ? `:${frame.line}` : place,
    isOwn: frame !== null && isOwnFile(frame.file, recording.ownPrefixes),
    type: site.typeId === NONE ? null : recording.strings.text(site.typeId),
  };
}
