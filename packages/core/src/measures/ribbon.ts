import { z } from 'zod';
import { floorPoints } from '../analysis/floor.ts';
import { pauseKindOf } from '../analysis/pause-kinds.ts';
import { pausesByStart, placesWithin } from '../analysis/row-orders.ts';
import { findStorms } from '../analysis/storms.ts';
import { strata } from '../analysis/strata.ts';
import { usedAfterSeries, usedSeries } from '../analysis/used-series.ts';
import type { Span } from '../base/span.ts';
import type { OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { PauseFlag, Scope } from '../model/tables.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { binExtremes, binSteps } from '../query/downsample.ts';
import type { Look } from '../study/subject.ts';
import { type ChosenKind, KIND_ASK } from './collections.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** What the ribbon draws over a window of time. Arrays are transferred to the page. */
export interface RibbonAnswer {
  readonly window: Span;
  readonly durationMs: number;
  readonly bins: number;
  readonly bands: number;
  /** `strata[band · bins + bin]`, oldest band first, in bytes; all 0 when no object was seen. */
  readonly strata: Float64Array;
  readonly hasStrata: boolean;
  /** What was seen to be born in each band. */
  readonly bandBornBytes: Float64Array;
  /** Used after the collections so far: what they did not give back. */
  readonly usedAfter: Float64Array;
  readonly usedHigh: Float64Array;
  readonly floorMs: Float64Array;
  readonly floorBytes: Float64Array;
  /** The longest pause of each kind in each bin: parallel columns. */
  readonly pauseMs: Float64Array;
  readonly pauseDurationMs: Float64Array;
  /** Scope code; + 8 for a pause that the recorder forced. */
  readonly pauseKind: Uint8Array;
  readonly pauseRow: Uint32Array;
  /** 1 for a pause of the kind that was picked out. */
  readonly pauseChosen: Uint8Array;
  readonly marks: readonly { readonly tMs: number; readonly label: string }[];
  readonly storms: readonly Span[];
  readonly peakBytes: number;
}

/** A window of time in so many slices, and the pauses to pick out in it. */
export interface RibbonAsk {
  readonly window: Span;
  readonly bins: number;
  readonly kind: ChosenKind | null;
  /** Only what its find lets through is layered. */
  readonly look: Look;
}

/** Added to the scope of a pause that the recorder forced. */
export const OWN_KIND = 8;

// A chosen pause is drawn beside a longer one of its slice.
const CHOSEN_KIND = 4;

/** One pass over objects, pauses and readings. */
export function ribbonOf(
  recording: Recording,
  { window, bins, kind }: Omit<RibbonAsk, 'look'>,
  chosen: OriginChoice = null,
): RibbonAnswer {
  const used = usedSeries(recording);
  const { high } = binExtremes(used.tMs, used.bytes, window, bins);
  const after = usedAfterSeries(recording);
  const layers = strata(recording, window, { bins, chosen });
  const floor = floorPoints(recording, wholeSpan(recording));
  const usedAfter = binSteps(after.tMs, after.bytes, window, bins);
  const ended = binsUntil(recording.durationMs, window, bins);
  high.fill(NaN, ended);
  usedAfter.fill(NaN, ended);
  for (let band = 0; band < layers.bands; band++) layers.bytes.fill(0, band * bins + ended, (band + 1) * bins);
  let peakBytes = 0;
  for (const bytes of high) if (bytes > peakBytes) peakBytes = bytes;
  const { marks } = recording.tables;
  return {
    window,
    durationMs: recording.durationMs,
    bins,
    bands: layers.bands,
    strata: layers.bytes,
    bandBornBytes: layers.bornBytes,
    hasStrata: recording.tables.objects.length > 0,
    usedAfter,
    usedHigh: high,
    floorMs: floor.tMs,
    floorBytes: floor.bytes,
    ...longestPauses(recording, window, bins, kind),
    peakBytes,
    marks: Array.from({ length: marks.length }, (_, row) => ({
      tMs: marks.col.tMs[row]!,
      label: recording.strings.text(marks.col.labelId[row]!),
    })),
    storms: findStorms(recording, wholeSpan(recording)).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
  };
}

// How many slices begin before an instant: a window may go on after the recording's end, where nothing is known.
function binsUntil(tMs: number, { fromMs, toMs }: Span, bins: number): number {
  return Math.min(bins, Math.max(0, Math.ceil(((tMs - fromMs) * bins) / (toMs - fromMs))));
}

// More pauses than pixels cannot be told apart: of each kind in a bin the longest is drawn.
function longestPauses(recording: Recording, window: Span, bins: number, chosen: ChosenKind | null) {
  const { pauses } = recording.tables;
  const { startMs, durationMs, scope, flags } = pauses.col;
  const perBin = bins / (window.toMs - window.fromMs);
  const kinds = 16;
  const isChosen = (row: number): boolean => chosen !== null && pauseKindOf(recording, row, chosen.by) === chosen.name;
  const longest = new Int32Array(bins * kinds).fill(-1);
  const order = pausesByStart(recording);
  const [first, end] = placesWithin(order, window.fromMs, window.toMs);
  for (let place = first; place < end; place++) {
    const row = order.rows[place]!;
    const start = startMs[row]!;
    const kind = scope[row]! + (flags[row]! & PauseFlag.own ? OWN_KIND : isChosen(row) ? CHOSEN_KIND : 0);
    const at = Math.floor((start - window.fromMs) * perBin) * kinds + kind;
    const known = longest[at]!;
    // Of equally long ones the first that was told.
    const longer = known < 0 ? 1 : durationMs[row]! - durationMs[known]! || known - row;
    if (longer > 0) longest[at] = row;
  }
  const rows = longest.filter((row) => row >= 0);
  return {
    pauseMs: Float64Array.from(rows, (row) => startMs[row]!),
    pauseDurationMs: Float64Array.from(rows, (row) => durationMs[row]!),
    pauseKind: Uint8Array.from(rows, (row) => scope[row]! + (flags[row]! & PauseFlag.own ? OWN_KIND : 0)),
    pauseRow: Uint32Array.from(rows),
    pauseChosen: Uint8Array.from(rows, (row) => (isChosen(row) ? 1 : 0)),
  };
}

/** Scope in words. */
export function scopeName(scope: number): string {
  switch (scope) {
    case Scope.young:
      return 'young';
    case Scope.mixed:
      return 'mixed';
    default:
      return 'whole';
  }
}

/** What the ribbon draws over a window of time. */
export const ribbon = measure({
  name: 'ribbon',
  title: 'what the ribbon draws: layers by time of birth, floor, used memory, pauses, marks',
  ask: z.strictObject({
    ...LOOK_ASK,
    window: z
      .object({ fromMs: z.number(), toMs: z.number() })
      .nullable()
      .default(null)
      .describe('part of the time that is drawn, in ms'),
    bins: z.number().int().min(1).max(100_000).default(1000).describe('slices of the window'),
    kind: KIND_ASK,
  }),
  answer: (side, ask): RibbonAnswer =>
    ribbonOf(
      side.found(ask).recording,
      { ...ask, window: ask.window ?? wholeSpan(side.recording) },
      side.subject.chosen(ask.find.trim()),
    ),
});
