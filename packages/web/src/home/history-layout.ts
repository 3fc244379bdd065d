import type { RunPoint } from '@brisk-heron/core';

/** A run as it stands on the time line of its program. */
export interface PlacedRun {
  readonly left: number;
  readonly width: number;
  readonly height: number;
}

/** Where the limit stands, and each run: as wide as it took, as high as its peak; in pixels. Pure. */
export interface HistoryLayout {
  readonly runs: readonly PlacedRun[];
  readonly limitY: number | null;
}

const LEAST_WIDTH = 2;

/** Lays runs out from the first beginning to the last end; those without a clock stand one after another. */
export function historyLayout(
  runs: readonly RunPoint[],
  { width, height }: { readonly width: number; readonly height: number },
): HistoryLayout {
  const hasClock = runs.every(({ startEpochMs }) => startEpochMs !== null);
  let after = 0;
  const starts = runs.map(({ startEpochMs, durationMs }) => {
    const from = hasClock ? startEpochMs! : after;
    after = from + durationMs;
    return from;
  });
  const first = Math.min(...starts);
  const last = Math.max(...runs.map(({ durationMs }, at) => starts[at]! + durationMs), first + 1);
  const limit = Math.max(0, ...runs.map(({ limitBytes }) => limitBytes ?? 0));
  const peak = Math.max(1, ...runs.map(({ peakBytes }) => peakBytes ?? 0));
  // A limit far above all that was reached would leave nothing to see.
  const most = limit > 4 * peak ? peak : Math.max(limit, peak);
  const xOf = (epochMs: number): number => ((epochMs - first) / (last - first)) * width;
  return {
    runs: runs.map(({ durationMs, peakBytes }, at) => ({
      left: xOf(starts[at]!),
      width: Math.max(LEAST_WIDTH, xOf(starts[at]! + durationMs) - xOf(starts[at]!)),
      height: ((peakBytes ?? 0) / most) * height,
    })),
    limitY: limit > 0 && limit <= most ? height - (limit / most) * height : null,
  };
}
