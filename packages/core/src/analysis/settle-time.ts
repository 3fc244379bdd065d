import type { Span } from '../base/span.ts';
import { spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { nearestRankIndex } from '../stats/quantile.ts';
import { selectMedian, selectRank } from '../stats/select-rank.ts';
import { endOfWorkMs } from './end-of-work.ts';
import { lastKnownAlive } from './last-known-alive.ts';
import { collectionsByEnd } from './row-orders.ts';

const QUANTILE = 0.95;
const COLLECTIONS = 2;
/**
 * A percentile of this many lifetimes is known to a fifth of a percent of rank: more objects than this are taken at
 * equal strides.
 */
const MOST_OBJECTS = 50_000;
/** A settle time above this share of the span would leave too little to judge. */
const MOST_SPAN_RATIO = 1 / 3;

/**
 * How old an unfreed object must be before it counts as kept: the 95th percentile of the observed lifetimes, at least
 * two collections at which a death could be noticed (the recorder's polls where it polls), at most a third of the span.
 * Lifetimes are taken to the middle of the interval in which the death was noticed. Cost bounded by a constant.
 */
export function settleTimeMs(recording: Recording, span: Span, observedMs = observedSettleMs(recording)): number {
  return Math.min(observedMs, spanLengthMs(span) * MOST_SPAN_RATIO);
}

/** The settle time before it is cut to a span: what the lifetimes of the whole recording suggest. */
export function observedSettleMs(recording: Recording): number {
  const { objects } = recording.tables;
  const { bornMs, endMs } = objects.col;
  const aliveMs = lastKnownAlive(recording);
  const endOfWork = endOfWorkMs(recording);
  const stride = Math.max(1, Math.ceil(objects.length / MOST_OBJECTS));
  const lifetimes = new Float64Array(Math.ceil(objects.length / stride));
  let dead = 0;
  for (let row = 0; row < objects.length; row += stride) {
    const alive = aliveMs(row);
    if (!Number.isNaN(alive) && endMs[row]! < endOfWork)
      lifetimes[dead++] = Math.max(0, (endMs[row]! + alive) / 2 - bornMs[row]!);
  }
  const observed = dead === 0 ? NaN : selectRank(lifetimes.subarray(0, dead), nearestRankIndex(dead, QUANTILE));
  const least = COLLECTIONS * noticeGapMs(recording);
  return Math.max(Number.isNaN(observed) ? 0 : observed, Number.isNaN(least) ? 0 : least);
}

/**
 * Median time between two instants at which a death could be noticed: polls, else collections; NaN when there are fewer
 * than two.
 */
export function noticeGapMs(recording: Recording): number {
  const { polls } = recording.tables;
  const times = polls.length > 1 ? polls.col.tMs.slice(0, polls.length).sort() : collectionsByEnd(recording).tMs;
  const gaps = times.subarray(1).map((t, i) => t - times[i]!);
  // Of a time that is not known there is no gap.
  return selectMedian(gaps.filter((gap) => gap >= 0));
}
