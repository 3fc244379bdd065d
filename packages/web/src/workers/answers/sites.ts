import {
  allocationFigures,
  birthsSeenMs,
  repeatedMarks,
  roundMarks,
  type AllocationFigures,
  type Charge,
  type ChargeFigures,
  type Fate,
  type Recording,
  type Span,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import type { Measure } from './paths.ts';
import { keyWords, typeWord, type KeyWords } from './key-words.ts';

/** A key's figures with its words. */
export interface ChargeRow extends Omit<ChargeFigures, 'heaviestPathId' | 'liveCount'>, KeyWords {
  /** The type it holds most of. */
  readonly type: string | null;
}

/**
 * A row of the table of who allocates, which shows no series: hundreds of them would be copied to the page for nothing.
 */
export type AllocationRow = Omit<ChargeRow, 'liveBytes'>;

/** What is asked of who allocates. */
export interface SitesAsk {
  readonly look: Look;
  readonly fate: Fate;
  readonly measure: Measure;
  /** Mark whose rounds the span is to be of, '' for the one that repeats most; null for the look's own span. */
  readonly round: string | null;
}

/** What the view "Who allocates?" shows. */
export interface SitesAnswer {
  readonly span: Span;
  readonly observed: boolean;
  readonly charge: Charge;
  /** The heaviest keys by the fate and measure that were asked for. */
  readonly rows: readonly AllocationRow[];
  /** What was asked for, summed over all keys, those beyond the list included. */
  readonly all: number;
  /** Sum over all keys, those beyond the list included. */
  readonly allocBytes: number;
  readonly allocBytesSe: number;
  readonly inferredBytes: number;
  readonly keptBytes: number;
  readonly keptBytesSe: number;
  readonly keyCount: number;
  readonly settleMs: number;
  /** Part of the span in which births could be seen: what rates are per. */
  readonly seenMs: number;
  readonly measured: AllocationFigures | null;
  /** Marks that repeat in the span, between which rounds lie. */
  readonly roundLabels: readonly string[];
  /**
   * Rounds of the label asked for, of which the span then is: from the first of its marks to the last; null where none
   * was asked for.
   */
  readonly rounds: { readonly label: string; readonly count: number } | null;
  /** Objects that a size was asked of and that have none of their own: left out. */
  readonly sizeUntold: number;
}

const MOST_ROWS = 500;
const BYTES: Readonly<Record<Fate, (row: ChargeFigures) => number>> = {
  all: (row) => row.allocBytes,
  kept: (row) => row.keptOfSpanBytes,
  died: (row) => row.diedBytes,
};
const COUNT: Readonly<Record<Fate, (row: ChargeFigures) => number>> = {
  all: (row) => row.allocCount,
  kept: (row) => row.keptOfSpanCount,
  died: (row) => row.diedCount,
};

export function sitesOf(whole: Evidence, { look: asked, fate, measure, round: roundLabel }: SitesAsk): SitesAnswer {
  const { recording } = whole;
  const labels = repeatedMarks(recording, whole.spanOf(asked)).map(({ label }) => label);
  const rounds =
    roundLabel === null
      ? null
      : roundsSpan(recording, whole.spanOf(asked), labels.includes(roundLabel) ? roundLabel : labels[0]);
  const look = rounds === null ? asked : { ...asked, span: rounds.span };
  const evidence = whole.within(look);
  const span = evidence.spanOf(look);
  const table = evidence.table(look);
  const counted = measure === 'objects' && table.rows.some((row) => row.allocCount > 0);
  const value = (row: ChargeFigures): number => (counted ? COUNT : BYTES)[fate](row) || 0;
  const sorted = [...table.rows].sort((a, b) => value(b) - value(a));
  const sum = (pick: (row: ChargeFigures) => number): number => sorted.reduce((total, row) => total + pick(row), 0);
  return {
    span,
    observed: recording.tables.objects.length + recording.tables.flows.length > 0,
    charge: look.charge,
    all: sum(value),
    rows: sorted.slice(0, MOST_ROWS).map((row) => {
      const { liveBytes: _series, ...figures } = chargeRow(recording, look.charge, row);
      return figures;
    }),
    allocBytes: sum((row) => row.allocBytes),
    allocBytesSe: Math.sqrt(sum((row) => row.allocBytesSe ** 2)),
    inferredBytes: sum((row) => row.inferredBytes),
    keptBytes: sum((row) => row.keptBytes),
    keptBytesSe: Math.sqrt(sum((row) => row.keptBytesSe ** 2)),
    keyCount: sorted.length,
    settleMs: table.settleMs,
    seenMs: birthsSeenMs(recording, span),
    measured: allocationFigures(recording, span),
    roundLabels: labels,
    rounds: rounds === null ? null : { label: rounds.label, count: rounds.count },
    sizeUntold: evidence.found?.sizeUntold ?? 0,
  };
}

// From the first mark of a label in the span to its last, so that whole rounds are counted; null without such a label.
function roundsSpan(
  recording: Recording,
  within: Span,
  label: string | undefined,
): { label: string; count: number; span: Span } | null {
  if (label === undefined) return null;
  const times = roundMarks(recording, within, label);
  return { label, count: times.length - 1, span: { fromMs: times[0]!, toMs: times[times.length - 1]! } };
}

export function chargeRow(recording: Recording, charge: Charge, row: ChargeFigures): ChargeRow {
  const { heaviestPathId: _path, liveCount: _count, ...figures } = row;
  return { ...figures, ...keyWords(recording, charge, row.key), type: typeWord(recording, row.typeId) };
}
