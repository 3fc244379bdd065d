import { firstAtOrAfter } from '../base/binary-search.ts';
import { numberIds } from '../base/number-ids.ts';
import { overlapMs, spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { nearestRankIndex } from '../stats/quantile.ts';
import { RangeRanks } from '../stats/range-ranks.ts';
import { losesBesidePauses, lostTime } from './lost-time.ts';
import {
  allPauses,
  byDuration,
  type PauseSelection,
  pausesAreTold,
  programPauses,
  sortedDurations,
} from './program-pauses.ts';
import { rememberReading, rememberSpan } from './remember.ts';

/** Figures of the program's pauses in a span. */
export const spanPauses = rememberSpan((recording: Recording, span: Span): PauseFigures =>
  pauseFigures(recording, programPauses(recording, span), span),
);

/** Pauses counted and added up, in milliseconds. */
export interface PauseTotals {
  readonly count: number;
  readonly totalMs: number;
  readonly maxMs: number;
}

/** Pauses of a span: how many, how long, how they are distributed; NaN where there are none. */
export interface PauseFigures extends PauseTotals {
  readonly p50Ms: number;
  readonly p95Ms: number;
  readonly p99Ms: number;
  /**
   * Share of the span's time left to the program, by what pauses, other stops and waits for memory took
   * (analysis/lost-time.ts); NaN when the source has no clock or tells no pauses.
   */
  readonly throughputRatio: number;
  /** By the runtime's own label. */
  readonly byName: ReadonlyMap<string, PauseTotals>;
}

/** Pauses are added up in blocks of so many. */
const BLOCK_LOG2 = 12;

/** The program's pauses, added up by block of their order and label. */
interface PauseBlocks {
  /** Of each pause, the number of its label. */
  readonly kindOf: Uint16Array | Uint32Array;
  /** Label of each number, and how many there are. */
  readonly labels: readonly number[];
  /** By block and number. */
  readonly counts: Uint32Array;
  readonly totalsMs: Float64Array;
  readonly longestMs: Float64Array;
}

const pauseBlocks = rememberReading((recording: Recording): PauseBlocks => {
  const { rows, durationMs } = allPauses(recording);
  const { labelId } = recording.tables.pauses.col;
  const { numberOf: kindOf, ids: labels } = numberIds(rows, labelId, recording.strings.length);
  const cells = ((rows.length >>> BLOCK_LOG2) + 1) * labels.length;
  const sums = {
    counts: new Uint32Array(cells),
    totalsMs: new Float64Array(cells),
    longestMs: new Float64Array(cells),
  };
  for (let place = 0; place < rows.length; place++) {
    const cell = (place >>> BLOCK_LOG2) * labels.length + kindOf[place]!;
    const ms = durationMs[place]!;
    sums.counts[cell]!++;
    sums.totalsMs[cell]! += ms;
    if (ms > sums.longestMs[cell]!) sums.longestMs[cell] = ms;
  }
  return { kindOf, labels, ...sums };
});

const pauseRanks = rememberReading(
  (recording: Recording) => new RangeRanks(allPauses(recording).durationMs, byDuration(recording)),
);

/** Sums of pauses by the number of their label, and what of them lies inside a span. */
class PauseSums {
  readonly counts: Uint32Array;
  readonly totalsMs: Float64Array;
  readonly longestMs: Float64Array;
  totalMs = 0;
  insideMs = 0;
  private readonly recording: Recording;
  private readonly blocks: PauseBlocks;

  constructor(recording: Recording) {
    this.recording = recording;
    this.blocks = pauseBlocks(recording);
    const kinds = this.blocks.labels.length;
    this.counts = new Uint32Array(kinds);
    this.totalsMs = new Float64Array(kinds);
    this.longestMs = new Float64Array(kinds);
  }

  /** Adds the pauses at [first, end), of which some may reach over an edge of the span. */
  addEach(span: Span, first: number, end: number): void {
    const { startMs, durationMs } = allPauses(this.recording);
    const { kindOf } = this.blocks;
    for (let place = first; place < end; place++) {
      const ms = durationMs[place]!;
      this.add(kindOf[place]!, 1, ms, ms);
      this.insideMs += overlapMs(span, startMs[place]!, startMs[place]! + ms);
    }
  }

  /** Adds whole blocks, all of which lie inside the span. */
  addBlocks(firstBlock: number, endBlock: number): void {
    const { labels, counts, totalsMs, longestMs } = this.blocks;
    for (let cell = firstBlock * labels.length; cell < endBlock * labels.length; cell++) {
      this.add(cell % labels.length, counts[cell]!, totalsMs[cell]!, longestMs[cell]!);
      this.insideMs += totalsMs[cell]!;
    }
  }

  byName(): ReadonlyMap<string, PauseTotals> {
    const told = this.blocks.labels.map((label, kind): [string, PauseTotals] => [
      this.recording.strings.text(label),
      { count: this.counts[kind]!, totalMs: this.totalsMs[kind]!, maxMs: this.longestMs[kind]! },
    ]);
    return new Map(told.filter(([, { count }]) => count > 0));
  }

  private add(kind: number, count: number, totalMs: number, longestMs: number): void {
    this.totalMs += totalMs;
    this.counts[kind]! += count;
    this.totalsMs[kind]! += totalMs;
    if (longestMs > this.longestMs[kind]!) this.longestMs[kind] = longestMs;
  }
}

function sumsOf(recording: Recording, { places: { first, end, before } }: PauseSelection, span: Span): PauseSums {
  const { startMs, longestMs } = allPauses(recording);
  const sums = new PauseSums(recording);
  for (const place of before) sums.addEach(span, place, place + 1);
  // Between these none reaches over an edge.
  const [least, most] = [firstAtOrAfter(startMs, span.fromMs), firstAtOrAfter(startMs, span.toMs - longestMs)];
  const firstBlock = ((Math.max(first, least) - 1) >> BLOCK_LOG2) + 1;
  const endBlock = Math.min(end, most) >>> BLOCK_LOG2;
  if (firstBlock >= endBlock) {
    sums.addEach(span, first, end);
    return sums;
  }
  sums.addEach(span, first, firstBlock << BLOCK_LOG2);
  sums.addBlocks(firstBlock, endBlock);
  sums.addEach(span, endBlock << BLOCK_LOG2, end);
  return sums;
}

/** How long the pause of a selection is that so many others stand before, from the shortest on. */
export function rankedPauseMs(recording: Recording, selection: PauseSelection, rank: number): number {
  const { first, end, before } = selection.places;
  return before.length > 0 ? sortedDurations(recording, selection)[rank]! : pauseRanks(recording).at(first, end, rank);
}

// The nearest rank among the pauses of a selection.
function nearestMs(recording: Recording, selection: PauseSelection, ratio: number): number {
  const count = selection.rows.length;
  return count === 0 ? NaN : rankedPauseMs(recording, selection, nearestRankIndex(count, ratio));
}

/**
 * Count, sum, greatest and nearest-rank percentiles of the pauses, and the throughput of the span. A pause over the
 * span's edge counts whole in the sums and by its part inside in the throughput. NaN figures for no pauses. Linear in
 * blocks of pauses, once all of them are added up.
 */
export function pauseFigures(recording: Recording, selection: PauseSelection, span: Span): PauseFigures {
  const sums = sumsOf(recording, selection, span);
  const lengthMs = spanLengthMs(span);
  const lostMs = losesBesidePauses(recording) ? lostTime(recording, span).lostMs : sums.insideMs;
  return {
    count: selection.rows.length,
    totalMs: sums.totalMs,
    maxMs: nearestMs(recording, selection, 1),
    p50Ms: nearestMs(recording, selection, 0.5),
    p95Ms: nearestMs(recording, selection, 0.95),
    p99Ms: nearestMs(recording, selection, 0.99),
    throughputRatio:
      recording.hasClock && lengthMs > 0 && pausesAreTold(recording) ? Math.max(0, 1 - lostMs / lengthMs) : NaN,
    byName: sums.byName(),
  };
}
