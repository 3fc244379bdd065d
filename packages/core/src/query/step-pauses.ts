import type { PauseGrouping } from '../analysis/pause-kinds.ts';
import { pauseKindOf } from '../analysis/pause-kinds.ts';
import type { PauseSelection } from '../analysis/program-pauses.ts';
import type { Recording } from '../model/recording.ts';

/** Where to go from a pause: along time, along time within its kind, or down the list of the longest. */
export const PAUSE_STEPS = ['previous', 'next', 'previousOfKind', 'nextOfKind', 'nextLongest'] as const;
export type PauseStep = (typeof PAUSE_STEPS)[number];

/** What makes a kind, and where to begin when no pause is selected. */
export interface StepOptions {
  readonly by?: PauseGrouping;
  readonly fromMs?: number;
}

/**
 * Row of the pause that a step leads to; −1 when there is none. From a row that is not in the selection (or −1), `next`
 * goes to the first pause from `fromMs` on, `previous` to the last before it and `nextLongest` to the longest; equally
 * long ones follow in order of time. O(n), of kinds O(n) too.
 */
export function stepPause(
  recording: Recording,
  selection: PauseSelection,
  row: number,
  step: PauseStep,
  options: StepOptions = {},
): number {
  const { rows } = selection;
  const by = options.by ?? 'label';
  const place = rows.indexOf(row);
  switch (step) {
    case 'next':
      return rows[place < 0 ? firstFrom(selection, options.fromMs ?? -Infinity) : place + 1] ?? -1;
    case 'previous':
      return rows[(place < 0 ? firstFrom(selection, options.fromMs ?? Infinity) : place) - 1] ?? -1;
    case 'nextOfKind':
    case 'previousOfKind': {
      if (place < 0) return -1;
      const kind = pauseKindOf(recording, row, by);
      const by1 = step === 'nextOfKind' ? 1 : -1;
      for (let at = place + by1; at >= 0 && at < rows.length; at += by1)
        if (pauseKindOf(recording, rows[at]!, by) === kind) return rows[at]!;
      return -1;
    }
    case 'nextLongest':
      return nextLongest(selection, place);
  }
}

function firstFrom({ startMs }: PauseSelection, fromMs: number): number {
  const place = startMs.findIndex((tMs) => tMs >= fromMs);
  return place < 0 ? startMs.length : place;
}

// The longest of those that are shorter, or as long and later.
function nextLongest({ rows, durationMs }: PauseSelection, place: number): number {
  const limitMs = place < 0 ? Infinity : durationMs[place]!;
  let best = -1;
  for (let at = 0; at < rows.length; at++) {
    const after = durationMs[at]! < limitMs || (durationMs[at] === limitMs && at > place);
    if (after && (best < 0 || durationMs[at]! > durationMs[best]!)) best = at;
  }
  return best < 0 ? -1 : rows[best]!;
}
