import { OPEN, type SeriesVerdict } from '../analysis/verdict/judge-series.ts';
import { sentence, type Spoken, spokenClauses } from '../analysis/verdict/sentence.ts';
import type { Recording } from '../model/recording.ts';

/** A verdict as `analyze --json` prints it, and the comparison for each of its sides; what is not known is null. */
export function verdictReport(recording: Recording, spoken: Spoken) {
  const { verdict, run = null } = spoken;
  const { exhaustion, bound } = verdict;
  return {
    kind: verdict.kind,
    sentence: sentence(spokenClauses(recording, spoken)),
    slopeBytesPerSec: known(verdict.slopeBytesPerSec),
    slopeLow: known(verdict.slopeLow),
    slopeHigh: known(verdict.slopeHigh),
    pValue: known(verdict.pValue),
    timeToLimitMs: known(verdict.timeToLimitMs),
    limitHeap: verdict.limitHeap,
    steps: verdict.steps,
    periodMs: known(verdict.periodMs),
    floor: {
      points: verdict.floor.tMs.length,
      basis: verdict.floor.basis,
      wholeCollections: verdict.floor.wholeCollections,
    },
    basis: verdict.basis,
    missing: verdict.missing,
    soFar: verdict.soFar,
    floorNowBytes: known(verdict.floorNowBytes),
    swingLowBytes: known(verdict.swingLowBytes),
    swingHighBytes: known(verdict.swingHighBytes),
    mostHiddenPerSec: known(verdict.mostHiddenPerSec),
    sinceMs: known(verdict.sinceMs),
    sinceLowMs: known(verdict.sinceLowMs),
    sinceHighMs: known(verdict.sinceHighMs),
    changed: verdict.changed,
    exhaustion:
      exhaustion === null
        ? null
        : {
            fromMs: exhaustion.fromMs,
            outOfMemoryMs: known(exhaustion.outOfMemoryMs),
            what: exhaustion.what,
            heapId: exhaustion.heapId,
          },
    bound: bound === null ? null : { ...bound, mostPerSec: known(bound.mostPerSec) },
    outside: seriesReport(verdict.outside),
    resident: seriesReport(verdict.resident),
    residentToLimitMs: known(verdict.residentToLimitMs),
    run:
      run === null
        ? null
        : {
            ...run,
            peakMs: known(run.peakMs),
            peakBytes: known(run.peakBytes),
            allocatedBytes: known(run.allocatedBytes),
            churnedBytes: known(run.churnedBytes),
            collectingRatio: known(run.collectingRatio),
          },
  };
}

function seriesReport(series: SeriesVerdict | null) {
  if (series === null) return null;
  const { kind, missing, steps, soFar, points } = series;
  return {
    kind,
    missing: missing === OPEN ? 'more points' : missing,
    steps,
    soFar,
    points,
    slopeBytesPerSec: known(series.slopeBytesPerSec),
    slopeLow: known(series.slopeLow),
    slopeHigh: known(series.slopeHigh),
    pValue: known(series.pValue),
    levelBytes: known(series.levelBytes),
    periodMs: known(series.periodMs),
    sinceMs: known(series.sinceMs),
    mostHiddenPerSec: known(series.mostHiddenPerSec),
  };
}

function known(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}
