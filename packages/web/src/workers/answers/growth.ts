import {
  judge, outsideHeap, siteTable, wholeSpan, type Charge, type OutsideHeap, type Recording, type Span, type Verdict,
} from '@brisk-heron/core';
import { roundsOf, type RoundsAnswer } from './rounds.ts';
import type { SiteTables } from './site-tables.ts';
import { siteRow, type SiteRow } from './sites.ts';

/** What the view "Is it growing?" shows. */
export interface GrowthAnswer {
  readonly span: Span;
  readonly verdict: Verdict;
  /** Used-after of every collection in the span: parallel columns, at most a few thousand, evenly thinned. */
  readonly afterMs: Float64Array;
  readonly afterBytes: Float64Array;
  readonly sites: readonly SiteRow[];
  readonly observed: boolean;
  readonly settleMs: number;
  readonly recentLeftOut: number;
  readonly followed: Span | null;
  /** Sum of the sites' positive growth over the floor's slope: how much of the growth the sites explain. */
  readonly explainedRatio: number | null;
  readonly outside: OutsideHeap | null;
  /** Null when no mark repeats where objects were followed. */
  readonly rounds: RoundsAnswer | null;
}

const MOST_POINTS = 3000;
const MOST_SITES = 100;

export function growthOf(recording: Recording, given: Span | null, charge: Charge, tables: SiteTables = siteTable, roundLabel: string | null = null): GrowthAnswer {
  const span = given ?? wholeSpan(recording);
  const verdict = judge(recording, span);
  const observed = recording.tables.objects.length > 0;
  const table = tables(recording, span, charge);
  const growing = table.sites.filter((site) => site.keptBytes > 0 || site.growthBytesPerSec > 0);
  const positive = growing.reduce((sum, site) => sum + Math.max(0, site.growthBytesPerSec), 0);
  const explains = (verdict.kind === 'growing' || verdict.kind === 'stepping') && positive > 0;
  return {
    span, verdict, ...afterPoints(recording, span), observed,
    sites: growing.slice(0, MOST_SITES).map((site) => siteRow(recording, site)),
    settleMs: table.settleMs, recentLeftOut: table.recentLeftOut, followed: table.followed,
    outside: outsideHeap(recording, span), rounds: roundsOf(recording, span, charge, roundLabel),
    explainedRatio: explains ? positive / verdict.slopeBytesPerSec : null,
  };
}

function afterPoints(recording: Recording, span: Span): { afterMs: Float64Array; afterBytes: Float64Array } {
  const { collections } = recording.tables;
  const { endMs, usedAfterBytes } = collections.col;
  const rows: number[] = [];
  for (let row = 0; row < collections.length; row++) {
    if (endMs[row]! >= span.fromMs && endMs[row]! <= span.toMs && !Number.isNaN(usedAfterBytes[row]!)) rows.push(row);
  }
  const step = Math.max(1, Math.ceil(rows.length / MOST_POINTS));
  const thinned = rows.filter((_, place) => place % step === 0);
  return {
    afterMs: Float64Array.from(thinned, (row) => endMs[row]!),
    afterBytes: Float64Array.from(thinned, (row) => usedAfterBytes[row]!),
  };
}
