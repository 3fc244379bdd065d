import { z } from 'zod';
import type { ChargeTable } from '../analysis/charge-table.ts';
import type { ContentChange } from '../analysis/heap-content.ts';
import { movingTogether } from '../analysis/moving-together.ts';
import { outsideHeap, type OutsideHeap } from '../analysis/outside-heap.ts';
import { findPeak, type Peak, usedPeak, type UsedPeak } from '../analysis/peak.ts';
import { seriesPattern, type SeriesPattern } from '../analysis/series-pattern.ts';
import { growthShares } from '../analysis/verdict/growth-shares.ts';
import { runSummary, type RunSummary } from '../analysis/verdict/run-summary.ts';
import { isRising, type Verdict } from '../analysis/verdict/verdict.ts';
import { NONE } from '../base/ids.ts';
import type { Span } from '../base/span.ts';
import type { Charge } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { Look, Subject } from '../study/subject.ts';
import { chargesOf, KEY_COLUMNS, keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { type RoundsAnswer, roundsOf } from './rounds.ts';
import { chargeRow, type ChargeRow } from './sites.ts';

/** A key in the tables of what adds to the floor. */
export interface GrowthRow extends ChargeRow {
  readonly pattern: SeriesPattern;
  /** What each round leaves of it, where that is constant: `+1 per round`; null elsewhere. */
  readonly perRound: {
    readonly count: number;
    readonly bytes: number;
    readonly rounds: number;
    readonly of: number;
  } | null;
}

/** Types that move together, in words. */
export interface TogetherRow {
  readonly types: readonly string[];
  readonly ratios: readonly number[];
  readonly rho: number;
}

/** The highest point of the span, with what went after it and what stayed. */
export interface PeakAnswer extends Omit<Peak, 'changes'> {
  readonly rows: readonly (Omit<ContentChange, 'key'> & KeyWords)[];
}

/** What the view "Is it growing?" shows. */
export interface GrowthAnswer {
  readonly span: Span;
  readonly verdict: Verdict;
  /** Used-after of every collection in the span: parallel columns, at most a few thousand, evenly thinned. */
  readonly afterMs: Float64Array;
  readonly afterBytes: Float64Array;
  readonly charge: Charge;
  readonly rows: readonly GrowthRow[];
  /** The same by type; null where the source tells no types, or they are what is charged. */
  readonly types: readonly GrowthRow[] | null;
  readonly together: readonly TogetherRow[];
  readonly peak: PeakAnswer | null;
  readonly usedPeak: UsedPeak | null;
  readonly observed: boolean;
  /**
   * When the program began to let go of what it held, to end: from then on nothing is judged. Null where it did not.
   */
  readonly endOfWorkMs: number | null;
  readonly settleMs: number;
  readonly recentLeftOut: number;
  readonly followed: Span | null;
  /** What the keys that surely grow add up to, of the floor's slope; null beside a find. */
  readonly explainedRatio: number | null;
  readonly outside: OutsideHeap | null;
  /** The run of a program that ended; null while it runs, and for a span. */
  readonly run: RunSummary | null;
  /** Null when no mark repeats where objects were followed. */
  readonly rounds: RoundsAnswer | null;
}

const MOST_POINTS = 3000;
const MOST_ROWS = 60;
const MOST_GROUPS = 12;
const MOST_PEAK_ROWS = 12;

/** What beyond the look is asked of growth. */
interface GrowthAsk {
  /** Label of the mark between which rounds lie; null for the one that repeats most. */
  readonly rounds: string | null;
  /** Without what stands beside the rows. */
  readonly brief: boolean;
}

/** Answers `growth` of a subject that the look was found in. */
export function growthOf(
  subject: Subject,
  look: Look,
  { rounds: roundLabel, brief }: GrowthAsk = { rounds: null, brief: false },
): GrowthAnswer {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const verdict = subject.verdict(look);
  const table = subject.table(look);
  const rounds = roundsOf(subject, look, roundLabel);
  return {
    span,
    verdict,
    ...afterPoints(recording, span),
    charge: look.charge,
    observed: recording.tables.objects.length > 0,
    endOfWorkMs: look.span === null && span.toMs < recording.durationMs ? span.toMs : null,
    rows: growthRows(subject, look, look.charge, rounds),
    ...(brief ? NOTHING_BESIDE : besideOf(subject, look, verdict)),
    settleMs: table.settleMs,
    recentLeftOut: table.recentLeftOut,
    followed: table.followed,
    outside: outsideHeap(recording, span),
    rounds,
    explainedRatio: look.find === '' ? explained(subject, look) : null,
  };
}

/** What stands beside the rows, and takes as long as they. */
type Beside = Pick<GrowthAnswer, 'types' | 'together' | 'peak' | 'usedPeak' | 'run'>;
const NOTHING_BESIDE: Beside = { types: null, together: [], peak: null, usedPeak: null, run: null };

function besideOf(subject: Subject, look: Look, verdict: Verdict): Beside {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const withTypes = chargesOf(recording).includes('type');
  const isOfRun = look.span === null && look.find === '';
  const table = (): ChargeTable | null =>
    recording.tables.objects.length > 0 ? subject.table(look, 'ownFrame') : null;
  return {
    types: withTypes && look.charge !== 'type' ? growthRows(subject, look, 'type', null) : null,
    together: withTypes ? togetherRows(subject, look) : [],
    peak: peakOf(subject, look),
    usedPeak: usedPeak(recording, span),
    run: isOfRun ? runSummary(recording, span, verdict, table()) : null,
  };
}

function growthRows(subject: Subject, look: Look, charge: Charge, rounds: RoundsAnswer | null): GrowthRow[] {
  const table = subject.table(look, charge);
  const growing = table.rows.filter((row) => row.keptBytes > 0 || row.growthBytesPerSec > 0);
  const constant = new Map(rounds?.rows.filter((row) => row.isConstant).map((row) => [row.key, row]));
  return growing.slice(0, MOST_ROWS).map((row) => {
    const words = chargeRow(subject.recording, charge, row);
    const round = constant.get(words.key);
    return {
      ...words,
      pattern: seriesPattern(table.momentsMs, row),
      perRound:
        round === undefined
          ? null
          : {
              count: round.perRoundCount,
              bytes: round.perRoundBytes,
              rounds: round.agreeing,
              of: round.incrementBytes.length,
            },
    };
  });
}

function togetherRows(subject: Subject, look: Look): TogetherRow[] {
  const { recording } = subject;
  const groups = movingTogether(subject.table(look, 'type'));
  return groups
    .slice(0, MOST_GROUPS)
    .map(({ keys, ratios, rho }) => ({
      types: keys.map((key) => (key === NONE ? '(unknown)' : recording.strings.text(key))),
      ratios,
      rho,
    }));
}

function peakOf(subject: Subject, look: Look): PeakAnswer | null {
  const { index, recording } = subject;
  const found = findPeak(
    { index, levels: subject.levels(look.find), chosen: subject.chosen(look.find) },
    subject.spanOf(look),
    look.charge,
  );
  if (found === null) return null;
  const { changes, ...peak } = found;
  return {
    ...peak,
    rows: changes
      .slice(0, MOST_PEAK_ROWS)
      .map((change) => ({ ...change, ...keyWords(recording, look.charge, change.key) })),
  };
}

function explained(subject: Subject, look: Look): number | null {
  const verdict = subject.verdict(look);
  const { explainedRatio } = growthShares(subject.table(look), verdict);
  return isRising(verdict.kind) && explainedRatio > 0 ? explainedRatio : null;
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

/** What adds to the floor: the verdict, the keys that keep, rounds and the highest point. */
export const growth = measure({
  name: 'growth',
  title: 'what adds to the floor, and how: keys by what they keep, steps, rounds, the highest point',
  needs: 'collections',
  ask: z.strictObject({
    ...LOOK_ASK,
    rounds: z.string().nullable().default(null).describe('label of the mark between which rounds lie'),
    brief: z.boolean().default(false).describe('without types, what moves together, the peak and the run as a whole'),
  }),
  answer: (side, ask): GrowthAnswer => growthOf(side.found(ask), side.look(ask), ask),
  report: ['verdict', 'sites', 'settleMs', 'recentLeftOut'],
  table: {
    rows: (answer: GrowthAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'kept', unit: 'bytes', cell: (row: GrowthRow) => row.keptBytes },
      { head: 'kept ±', unit: 'bytes', cell: (row: GrowthRow) => Z_95 * row.keptBytesSe },
      { head: 'adds a second', unit: 'bytes/s', cell: (row: GrowthRow) => row.growthBytesPerSec },
      { head: 'from', unit: 'bytes/s', cell: (row: GrowthRow) => row.growthLow },
      { head: 'to', unit: 'bytes/s', cell: (row: GrowthRow) => row.growthHigh },
      { head: 'share of growth', unit: 'ratio', cell: (row: GrowthRow) => row.growthShareRatio },
    ],
  },
});
