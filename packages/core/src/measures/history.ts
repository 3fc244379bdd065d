import { spanPauses } from '../analysis/pause-figures.ts';
import { usedSeries } from '../analysis/used-series.ts';
import type { VerdictKind } from '../analysis/verdict/verdict.ts';
import { formatAbout, formatBytes } from '../base/units.ts';
import { median } from '../stats/quantile.ts';
import { WHOLE_SIDE } from '../study/side.ts';
import type { Study } from '../study/study.ts';
import { WHOLE } from '../study/subject.ts';

/** One run of a program on its time line: plain data, which is kept with a recording. What is not known is null. */
export interface RunPoint {
  readonly program: string;
  /** Wall clock of its beginning. */
  readonly startEpochMs: number | null;
  readonly durationMs: number;
  readonly verdict: VerdictKind;
  /** What the floor rises by, with its interval, in bytes a second. */
  readonly growthBytesPerSec: number | null;
  readonly growthLow: number | null;
  readonly growthHigh: number | null;
  /** The most that was used. */
  readonly peakBytes: number | null;
  readonly limitBytes: number | null;
  /** Share of its time that collecting took. */
  readonly lostRatio: number | null;
  readonly p99Ms: number | null;
  readonly longestMs: number | null;
  readonly outOfMemory: boolean;
}

/** A process that climbs, ends and is started again, over and over. */
export interface Restarts {
  readonly restarts: number;
  /** How long a run takes, in the middle. */
  readonly afterMs: number;
  /** What each reached, in the middle, and the limit where one is known. */
  readonly reachedBytes: number;
  readonly limitBytes: number | null;
  readonly sentence: string;
}

const MOST_RUNS = 500;
/** Fewer runs that end alike are no habit. */
const LEAST_RUNS = 3;
/** How far lengths and peaks may be from the middle one. */
const ALIKE_LENGTH = 0.35;
const ALIKE_PEAK = 0.15;
const NEAR_LIMIT = 0.8;

/** The runs of an input, as points of a time line; the last ones where they are many. */
export function runPoints(study: Study): RunPoint[] {
  const first = Math.max(0, study.runs.length - MOST_RUNS);
  return study.runs.slice(first).map((recording, at) => {
    const { subject } = study.side({ ...WHOLE_SIDE, run: first + at });
    const span = subject.spanOf(WHOLE);
    const verdict = subject.verdict(WHOLE);
    const pauses = spanPauses(recording, span);
    const used = usedSeries(recording).bytes;
    const peak = used.reduce((most, bytes) => Math.max(most, bytes), -1);
    return {
      program: recording.program,
      startEpochMs: known(recording.startEpochMs),
      durationMs: recording.durationMs,
      verdict: verdict.kind,
      growthBytesPerSec: known(verdict.slopeBytesPerSec),
      growthLow: known(verdict.slopeLow),
      growthHigh: known(verdict.slopeHigh),
      peakBytes: peak < 0 ? null : peak,
      limitBytes: known(verdict.limitBytes),
      lostRatio: known(1 - pauses.throughputRatio),
      p99Ms: known(pauses.p99Ms),
      longestMs: known(pauses.maxMs),
      outOfMemory: recording.heaps.some((heap) => !Number.isNaN(heap.outOfMemoryMs)),
    };
  });
}

/**
 * Whether runs of one program, in order of time, are one process that climbs until it ends and is started again: at
 * least three that climb one after another, of lengths within 35 % and peaks within 15 % of the middle ones, each
 * beginning after the one before has ended. The last may not have got there yet. Null where they are not.
 */
export function restartsOf(runs: readonly RunPoint[]): Restarts | null {
  const ordered = [...runs].sort((a, b) => (a.startEpochMs ?? 0) - (b.startEpochMs ?? 0));
  const ended = ordered.slice(0, -1).filter(climbs);
  const last = ordered[ordered.length - 1];
  const all = last !== undefined && climbs(last) ? [...ended, last] : ended;
  if (all.length < LEAST_RUNS || overlap(ordered)) return null;
  const [afterMs, reachedBytes] = [
    median(all.map(({ durationMs }) => durationMs)),
    median(all.map(({ peakBytes }) => peakBytes!)),
  ];
  const alike = ordered
    .slice(0, -1)
    .filter(
      (run) =>
        Math.abs(run.durationMs - afterMs) <= ALIKE_LENGTH * afterMs &&
        Math.abs((run.peakBytes ?? 0) - reachedBytes) <= ALIKE_PEAK * reachedBytes,
    );
  // What went otherwise now and again is no other habit.
  if (alike.length < LEAST_RUNS - 1 || alike.length < 0.8 * (ordered.length - 1)) return null;
  const limits = all.map(({ limitBytes }) => limitBytes).filter((limit) => limit !== null);
  const limitBytes = limits.length === all.length ? median(limits) : null;
  const restarts = ordered.length - 1;
  return {
    restarts,
    afterMs,
    reachedBytes,
    limitBytes,
    sentence: `${restarts} restarts, each after about ${formatAbout(afterMs)}; reached ${formatBytes(reachedBytes)}${limitBytes === null ? '' : ` of ${formatBytes(limitBytes)}`} each time.`,
  };
}

// It grew, ran out of room, or came near its limit.
function climbs({ verdict, outOfMemory, peakBytes, limitBytes }: RunPoint): boolean {
  if (peakBytes === null) return false;
  return (
    verdict === 'growing' ||
    verdict === 'stepping' ||
    outOfMemory ||
    (limitBytes !== null && peakBytes >= NEAR_LIMIT * limitBytes)
  );
}

// Processes beside each other are not one that is started again; without a clock they are taken as they come.
function overlap(ordered: readonly RunPoint[]): boolean {
  return ordered.some((run, at) => {
    const next = ordered[at + 1];
    if (next === undefined || run.startEpochMs === null || next.startEpochMs === null) return false;
    return next.startEpochMs < run.startEpochMs + 0.9 * run.durationMs;
  });
}

const known = (value: number): number | null => (Number.isFinite(value) ? value : null);
