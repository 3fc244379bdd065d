import { type Span, spanLengthMs } from '../../base/span.ts';
import { MIB } from '../../base/units.ts';
import type { Recording } from '../../model/recording.ts';
import { type Estimate, scaled, UNKNOWN, withError } from '../../stats/estimate.ts';
import { quantileEstimate } from '../../stats/quantile-interval.ts';
import { allocationFigures, promotionFigures } from '../allocation.ts';
import type { ChargeTable } from '../charge-table.ts';
import { countCollections } from '../collection-counts.ts';
import { losesBesidePauses, lostTime } from '../lost-time.ts';
import { pausesAreTold, programPauses, sortedDurations } from '../program-pauses.ts';
import { repeatedMarks } from '../rounds.ts';
import { usedSeries } from '../used-series.ts';
import type { Verdict } from '../verdict/verdict.ts';
import { heapLine } from './memory-line.ts';

/** What figures of one side rest on. */
export interface SideInput {
  readonly recording: Recording;
  readonly span: Span;
  readonly verdict: Verdict;
  /** Its keys; null where no allocation was seen. */
  readonly table: ChargeTable | null;
}

/** What a figure is counted in. */
export type FigureUnit = 'bytes' | 'ms' | 'count' | 'ratio';

/** One figure of a side, over its whole span. */
export interface SideFigure {
  readonly name: string;
  readonly unit: FigureUnit;
  readonly estimate: Estimate;
  /** True for an amount that grows with the span, and so is also told per second and per work done. */
  readonly isAmount: boolean;
}

/** What an amount is told per: how much of it the side had. */
export interface SideUnits {
  readonly second: number;
  /** Rounds of the mark asked for; 0 for none. */
  readonly round: number;
  readonly collection: number;
  readonly allocatedMiB: Estimate;
}

/** A side's figures, by name. */
export interface SideFigures {
  readonly figures: ReadonlyMap<string, SideFigure>;
  readonly units: SideUnits;
  /** Durations of its pauses, ascending. */
  readonly pauseMs: Float64Array;
}

/** Quantiles of pauses that are compared, by their names. */
const QUANTILES: readonly (readonly [string, number])[] = [
  ['p50', 0.5],
  ['p95', 0.95],
  ['p99', 0.99],
];

/** Marks that repeat on both sides, the most frequent first. */
export function commonRounds(a: SideInput, b: SideInput): string[] {
  const others = new Set(repeatedMarks(b.recording, b.span).map(({ label }) => label));
  return repeatedMarks(a.recording, a.span)
    .map(({ label }) => label)
    .filter((label) => others.has(label));
}

/**
 * All figures of one side with the error of each. Samples carry theirs; what happened a number of times is as sure as
 * its number is, by the variance of a sum of independent events, `Σ x²`; medians and percentiles by their ranks. Linear
 * in events but for sorts.
 */
export function sideFigures(input: SideInput, roundLabel: string | null): SideFigures {
  const { recording, span, verdict, table } = input;
  const figures = new Map<string, SideFigure>();
  const put = (name: string, unit: FigureUnit, estimate: Estimate, isAmount = false): void => {
    if (!Number.isNaN(estimate.value)) figures.set(name, { name, unit, estimate, isAmount });
  };
  const seconds = recording.hasClock ? spanLengthMs(span) / 1000 : NaN;
  put('growth', 'bytes', scaled(heapLine(verdict).growth, seconds), true);
  put('floor', 'bytes', floorOf(verdict));
  put('peak used', 'bytes', { value: peakOf(recording, span), low: NaN, high: NaN });
  const allocation = allocationFigures(recording, span);
  const allocated =
    allocation === null
      ? UNKNOWN
      : {
          value: allocation.totalBytes,
          low: allocation.lowBytes,
          high: Number.isNaN(allocation.highBytes) ? Infinity : allocation.highBytes,
        };
  put('allocated', 'bytes', allocated, true);
  if (table !== null) {
    put('kept', 'bytes', summed(table, 'keptOfSpanBytes'), true);
    put('died', 'bytes', summed(table, 'diedBytes'), true);
  }
  const promoted = promotionFigures(recording, span);
  if (promoted !== null) put('promoted', 'bytes', promotedOf(recording, span, promoted.totalBytes), true);
  const pauseMs = sortedDurations(recording, programPauses(recording, span));
  if (pausesAreTold(recording)) putPauses(put, { recording, span, pauseMs });
  const counts = countCollections(recording, span);
  putCounts(put, counts);
  putSpaces(put, recording, span);
  return {
    figures,
    pauseMs,
    units: {
      second: seconds,
      collection: counts.count,
      allocatedMiB: { value: allocated.value / MIB, low: allocated.low / MIB, high: allocated.high / MIB },
      round: roundLabel === null ? 0 : roundsIn(recording, span, roundLabel),
    },
  };
}

type Put = (name: string, unit: FigureUnit, estimate: Estimate, isAmount?: boolean) => void;

// The middle one of the floor's points: what it is now would be told without an error.
function floorOf({ floor }: Verdict): Estimate {
  return quantileEstimate(Float64Array.from(floor.bytes).sort(), 0.5);
}

function peakOf(recording: Recording, span: Span): number {
  const { tMs, bytes } = usedSeries(recording);
  let peak = NaN;
  for (let at = 0; at < bytes.length; at++)
    if (tMs[at]! >= span.fromMs && tMs[at]! <= span.toMs && !(bytes[at]! <= peak)) peak = bytes[at]!;
  return peak;
}

function summed(table: ChargeTable, of: 'keptOfSpanBytes' | 'diedBytes'): Estimate {
  let [value, variance] = [0, 0];
  for (const row of table.rows) {
    if (row.isOutside) continue;
    value += row[of];
    variance += row[`${of}Se`] ** 2;
  }
  return atLeast0(withError(value, Math.sqrt(variance)));
}

// As sure as the sum of so many independent collections is.
function promotedOf(recording: Recording, span: Span, value: number): Estimate {
  const { length, col } = recording.tables.collections;
  let squares = 0;
  for (let row = 0; row < length; row++) {
    const promoted = col.promotedBytes[row]!;
    if (promoted > 0 && col.startMs[row]! >= span.fromMs && col.startMs[row]! < span.toMs) squares += promoted ** 2;
  }
  return atLeast0(withError(value, Math.sqrt(squares)));
}

function putPauses(
  put: Put,
  { recording, span, pauseMs }: { readonly recording: Recording; readonly span: Span; readonly pauseMs: Float64Array },
): void {
  const squares = Math.sqrt(pauseMs.reduce((sum, ms) => sum + ms * ms, 0));
  const totalMs = pauseMs.reduce((sum, ms) => sum + ms, 0);
  const lengthMs = spanLengthMs(span);
  put('pauses', 'count', countedOf(pauseMs.length), true);
  put('paused', 'ms', atLeast0(withError(totalMs, squares)), true);
  if (recording.hasClock && lengthMs > 0) {
    const lostMs = losesBesidePauses(recording) ? lostTime(recording, span).lostMs : totalMs;
    put('lost to collecting', 'ratio', atLeast0(withError(lostMs / lengthMs, squares / lengthMs)));
  }
  if (pauseMs.length === 0) return;
  for (const [name, q] of QUANTILES) put(`pause ${name}`, 'ms', quantileEstimate(pauseMs, q));
  put('longest pause', 'ms', { value: pauseMs[pauseMs.length - 1]!, low: NaN, high: NaN });
}

function putCounts(put: Put, counts: ReturnType<typeof countCollections>): void {
  put('collections', 'count', countedOf(counts.count), true);
  put('young collections', 'count', countedOf(counts.young), true);
  put('mixed collections', 'count', countedOf(counts.mixed), true);
  put('whole collections', 'count', countedOf(counts.whole), true);
  put('concurrent cycles', 'count', countedOf(counts.concurrentCycles), true);
}

// Medians over the collections that tell them.
function putSpaces(put: Put, recording: Recording, span: Span): void {
  const { collections, spaces } = recording.tables;
  const { startMs, usedBeforeBytes, usedAfterBytes } = collections.col;
  const byName = new Map<string, { before: number[]; after: number[] }>();
  const add = (name: string, before: number, after: number): void => {
    let both = byName.get(name);
    if (both === undefined) byName.set(name, (both = { before: [], after: [] }));
    if (before >= 0) both.before.push(before);
    if (after >= 0) both.after.push(after);
  };
  const isInside = (row: number): boolean => startMs[row]! >= span.fromMs && startMs[row]! < span.toMs;
  for (let row = 0; row < collections.length; row++)
    if (isInside(row)) add('heap', usedBeforeBytes[row]!, usedAfterBytes[row]!);
  for (let at = 0; at < spaces.length; at++) {
    if (!isInside(spaces.col.collectionRow[at]!)) continue;
    const name = recording.strings.text(spaces.col.nameId[at]!);
    add(name, spaces.col.beforeBytes[at]!, spaces.col.afterBytes[at]!);
  }
  for (const [name, { before, after }] of byName) {
    put(`${name} before a collection`, 'bytes', quantileEstimate(Float64Array.from(before).sort(), 0.5));
    put(`${name} after a collection`, 'bytes', quantileEstimate(Float64Array.from(after).sort(), 0.5));
  }
}

// Of events that come independently; of none, up to 3 may have been due.
function countedOf(count: number): Estimate {
  return count === 0 ? { value: 0, low: 0, high: 3 } : atLeast0(withError(count, Math.sqrt(count)));
}

function atLeast0({ value, low, high }: Estimate): Estimate {
  return { value, low: Math.max(0, low), high };
}

function roundsIn(recording: Recording, span: Span, label: string): number {
  const found = repeatedMarks(recording, span).find((each) => each.label === label);
  return found === undefined ? 0 : found.times - 1;
}
