import {
  findPeak,
  growthShares,
  isRising,
  movingTogether,
  NONE,
  outsideHeap,
  runSummary,
  seriesPattern,
  usedPeak,
  type Charge,
  type ContentChange,
  type OutsideHeap,
  type Peak,
  type Recording,
  type RunSummary,
  type SeriesPattern,
  type Span,
  type UsedPeak,
  type Verdict,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { chargesOf, keyWords, type KeyWords } from './key-words.ts';
import { roundsOf, type RoundsAnswer } from './rounds.ts';
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
  readonly rows: readonly (ContentChange & KeyWords)[];
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

export function growthOf(evidence: Evidence, look: Look, roundLabel: string | null = null): GrowthAnswer {
  const { recording } = evidence;
  const span = evidence.spanOf(look);
  const verdict = evidence.verdict(look);
  const table = evidence.table(look);
  const rounds = roundsOf(evidence, look, roundLabel);
  const withTypes = chargesOf(recording).includes('type');
  return {
    span,
    verdict,
    ...afterPoints(recording, span),
    charge: look.charge,
    observed: recording.tables.objects.length > 0,
    endOfWorkMs: look.span === null && span.toMs < recording.durationMs ? span.toMs : null,
    rows: growthRows(evidence, look, look.charge, rounds),
    types: withTypes && look.charge !== 'type' ? growthRows(evidence, look, 'type', null) : null,
    together: withTypes ? togetherRows(evidence, look) : [],
    peak: peakOf(evidence, look),
    usedPeak: usedPeak(recording, span),
    settleMs: table.settleMs,
    recentLeftOut: table.recentLeftOut,
    followed: table.followed,
    outside: outsideHeap(recording, span),
    rounds,
    run:
      look.span === null && look.find === ''
        ? runSummary(
            recording,
            span,
            verdict,
            recording.tables.objects.length > 0 ? evidence.table(look, 'ownFrame') : null,
          )
        : null,
    explainedRatio: look.find === '' ? explained(evidence, look) : null,
  };
}

function growthRows(evidence: Evidence, look: Look, charge: Charge, rounds: RoundsAnswer | null): GrowthRow[] {
  const table = evidence.table(look, charge);
  const growing = table.rows.filter((row) => row.keptBytes > 0 || row.growthBytesPerSec > 0);
  const constant = new Map(rounds?.rows.filter((row) => row.isConstant).map((row) => [row.key, row]));
  return growing.slice(0, MOST_ROWS).map((row) => {
    const round = constant.get(row.key);
    return {
      ...chargeRow(evidence.recording, charge, row),
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

function togetherRows(evidence: Evidence, look: Look): TogetherRow[] {
  const { recording } = evidence;
  const groups = movingTogether(evidence.table(look, 'type'));
  return groups
    .slice(0, MOST_GROUPS)
    .map(({ keys, ratios, rho }) => ({
      types: keys.map((key) => (key === NONE ? '(unknown)' : recording.strings.text(key))),
      ratios,
      rho,
    }));
}

function peakOf(evidence: Evidence, look: Look): PeakAnswer | null {
  const { index, recording } = evidence;
  const found = findPeak(
    { index, levels: evidence.levels(look.find), chosen: evidence.chosen(look.find) },
    evidence.spanOf(look),
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

function explained(evidence: Evidence, look: Look): number | null {
  const verdict = evidence.verdict(look);
  const { explainedRatio } = growthShares(evidence.table(look), verdict);
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
