import { inferredVariance } from '../analysis/inferred-flows.ts';
import { z } from 'zod';
import { allocationFigures, type AllocationFigures } from '../analysis/allocation.ts';
import { birthsSeenMs } from '../analysis/births-seen.ts';
import { type ChargeFigures, plainFigures } from '../analysis/charge-figures.ts';
import { type Fate, FATES } from '../analysis/fates.ts';
import { keptSeries } from '../analysis/kept-series.ts';
import { repeatedMarks, roundMarks } from '../analysis/rounds.ts';
import type { Span } from '../base/span.ts';
import type { Charge } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { Look, Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords, typeWord } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { COUNTED, type Counted } from './paths.ts';

/** A key's figures with its words. */
export interface ChargeRow extends Omit<ChargeFigures, 'key' | 'heaviestPathId' | 'live'>, KeyWords {
  /** Settled live bytes at each of the table's moments. */
  readonly liveBytes: Float64Array;
  /** The type it holds most of. */
  readonly type: string | null;
}

/**
 * A row of the table of who allocates, which shows no series: hundreds of them would be copied to the page for nothing.
 */
export type AllocationRow = Omit<ChargeRow, 'liveBytes'> & {
  /** Bytes born in the span that live at the end of each of the slots asked for; null where none was, or none asked for. */
  readonly keptSeries: readonly number[] | null;
};

/** What is asked of who allocates. */
export interface SitesAsk {
  readonly look: Look;
  readonly fate: Fate;
  readonly counted: Counted;
  /** Mark whose rounds the span is to be of, '' for the one that repeats most; null for the look's own span. */
  readonly round: string | null;
  /** Equal slots of the span in which what was born in it and lives is told, by key; 0 for none. */
  readonly slots: number;
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
const MOST_SERIES = 60;
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

/** Answers `sites` of a whole subject, which it looks into itself: rounds make another span. */
export function sitesOf(
  whole: Subject,
  { look: asked, fate, counted: wanted, round: roundLabel, slots }: SitesAsk,
): SitesAnswer {
  const { recording } = whole;
  const labels = repeatedMarks(recording, whole.spanOf(asked)).map(({ label }) => label);
  const rounds =
    roundLabel === null
      ? null
      : roundsSpan(recording, whole.spanOf(asked), labels.includes(roundLabel) ? roundLabel : labels[0]);
  const look = rounds === null ? asked : { ...asked, span: rounds.span };
  const subject = whole.within(look);
  const span = subject.spanOf(look);
  const table = subject.table(look);
  const counted = wanted === 'objects' && table.rows.some((row) => row.allocCount > 0);
  const series = slots === 0 ? null : keptSeries(subject.recording, span, look.charge, slots);
  const value = (row: ChargeFigures): number => (counted ? COUNT : BYTES)[fate](row) || 0;
  const sorted = [...table.rows].sort((a, b) => value(b) - value(a));
  const sum = (pick: (row: ChargeFigures) => number): number => sorted.reduce((total, row) => total + pick(row), 0);
  // Of everything together it is known how much that was.
  const shared = look.find === '' ? inferredVariance(recording, span) : 0;
  return {
    span,
    observed: recording.tables.objects.length + recording.tables.flows.length > 0,
    charge: look.charge,
    all: sum(value),
    rows: sorted.slice(0, MOST_ROWS).map((row, at) => {
      const { liveBytes: _series, ...figures } = chargeRow(recording, look.charge, row);
      const kept = at < MOST_SERIES ? series?.(row.key) : null;
      return { ...figures, keptSeries: kept ? Array.from(kept) : null };
    }),
    allocBytes: sum((row) => row.allocBytes),
    allocBytesSe: Math.sqrt(Math.max(0, sum((row) => row.allocBytesSe ** 2) - shared)),
    inferredBytes: sum((row) => row.inferredBytes),
    keptBytes: sum((row) => row.keptBytes),
    keptBytesSe: Math.sqrt(sum((row) => row.keptBytesSe ** 2)),
    keyCount: sorted.length,
    settleMs: table.settleMs,
    seenMs: birthsSeenMs(recording, span),
    measured: allocationFigures(recording, span),
    roundLabels: labels,
    rounds: rounds === null ? null : { label: rounds.label, count: rounds.count },
    sizeUntold: subject.found?.sizeUntold ?? 0,
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

/** A key's figures with its words. */
export function chargeRow(recording: Recording, charge: Charge, row: ChargeFigures): ChargeRow {
  const words = keyWords(recording, charge, row.key);
  return { ...plainFigures(row), liveBytes: row.live.bytes, ...words, type: typeWord(recording, row.typeId) };
}

/** Who allocates: keys by what they allocated in the span, by what became of it. */
export const sites = measure({
  name: 'sites',
  title: 'who allocates: keys by what they allocated, kept or let die',
  needs: 'objects',
  ask: z.strictObject({
    ...LOOK_ASK,
    fate: z.enum(FATES).default('all').describe('what became of it by the end of the span'),
    counted: z.enum(COUNTED).default('bytes').describe('what keys are sorted by'),
    slots: z
      .number()
      .int()
      .min(0)
      .max(200)
      .default(0)
      .describe('slots of the series of what was born and lives, by key'),
    round: z.string().nullable().default(null).describe('label of the mark whose rounds the span is made of'),
  }),
  answer: (side, ask): SitesAnswer => sitesOf(side.subject, { look: side.look(ask), ...ask }),
  report: ['sites', 'allocation'],
  table: {
    rows: (answer: SitesAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'allocated', unit: 'bytes', cell: (row: AllocationRow) => row.allocBytes },
      { head: 'allocated ±', unit: 'bytes', cell: (row: AllocationRow) => Z_95 * row.allocBytesSe },
      { head: 'objects', cell: (row: AllocationRow) => row.allocCount },
      { head: 'kept', unit: 'bytes', cell: (row: AllocationRow) => row.keptOfSpanBytes },
      { head: 'died', unit: 'bytes', cell: (row: AllocationRow) => row.diedBytes },
    ],
  },
});
