import {
  allocationFigures, allocationSteps, CollectionFlag, countCollections, findStorms, insideShare, minimumMutatorUtilisation, mmuWindows, nearestRank, NONE,
  pauseFigures, programPauses, promotionFigures, spanLengthMs, wholeSpan, contains,
  type AllocationFigures, type CollectionCounts, type MmuPoint, type PauseFigures, type PauseSelection, type Recording, type Span,
} from '@brisk-heron/core';
import { known } from './overview.ts';
import { scopeName } from './ribbon.ts';

/** One kind of pause over the span. */
export interface PauseKindRow {
  readonly label: string;
  readonly scope: string;
  readonly count: number;
  readonly totalMs: number;
  readonly meanMs: number;
  readonly p50Ms: number;
  readonly p95Ms: number;
  readonly p99Ms: number;
  readonly maxMs: number;
  readonly timeRatio: number | null;
}

/** What the view "What does collecting cost?" shows. */
export interface CollectionsAnswer {
  readonly span: Span;
  readonly hasClock: boolean;
  readonly figures: PauseFigures;
  readonly counts: CollectionCounts;
  readonly kinds: readonly PauseKindRow[];
  readonly mmu: readonly MmuPoint[];
  readonly storms: readonly Span[];
  readonly allocation: AllocationFigures | null;
  readonly promotion: { readonly totalBytes: number; readonly bytesPerSec: number | null } | null;
  /** Pauses in order of start, thinned by dropping the shortest: parallel columns. */
  readonly pauseMs: Float64Array;
  readonly pauseDurationMs: Float64Array;
  readonly pauseScope: Uint8Array;
  readonly pauseRow: Uint32Array;
  readonly pausesLeftOut: number;
  /** Distribution: pauses and their sum between `edgesMs[n]` and `edgesMs[n + 1]`. */
  readonly edgesMs: readonly number[];
  readonly bucketCounts: readonly number[];
  readonly bucketTotalsMs: readonly number[];
  /** Bytes per second in equal slices of the span. */
  readonly allocRate: Float64Array;
  readonly promotionRate: Float64Array;
}

const MOST_PAUSES = 4000;

export function collectionsOf(recording: Recording, given: Span | null, bins: number): CollectionsAnswer {
  const span = given ?? wholeSpan(recording);
  const selection = programPauses(recording, span);
  const promotion = promotionFigures(recording, span);
  return {
    span, hasClock: recording.hasClock,
    figures: pauseFigures(recording, selection, span),
    counts: countCollections(recording, span),
    kinds: pauseKinds(recording, selection, span),
    mmu: recording.hasClock ? minimumMutatorUtilisation(selection, span, mmuWindows(spanLengthMs(span))) : [],
    storms: findStorms(recording, span).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
    allocation: allocationFigures(recording, span),
    promotion: promotion === null ? null : { totalBytes: promotion.totalBytes, bytesPerSec: known(promotion.bytesPerSec) },
    ...thinned(recording, selection), ...buckets(selection),
    ...rates(recording, span, bins),
  };
}

function pauseKinds(recording: Recording, selection: PauseSelection, span: Span): PauseKindRow[] {
  const { pauses } = recording.tables;
  const byLabel = new Map<number, number[]>();
  selection.rows.forEach((row, place) => {
    const label = pauses.col.labelId[row]!;
    const places = byLabel.get(label);
    if (places === undefined) byLabel.set(label, [place]);
    else places.push(place);
  });
  return [...byLabel].map(([labelId, places]) => {
    const sorted = Float64Array.from(places, (place) => selection.durationMs[place]!).sort();
    const totalMs = sorted.reduce((sum, ms) => sum + ms, 0);
    return {
      label: recording.strings.text(labelId), scope: scopeName(pauses.col.scope[selection.rows[places[0]!]!]!),
      count: sorted.length, totalMs, meanMs: totalMs / sorted.length,
      p50Ms: nearestRank(sorted, 0.5), p95Ms: nearestRank(sorted, 0.95), p99Ms: nearestRank(sorted, 0.99), maxMs: sorted[sorted.length - 1]!,
      timeRatio: recording.hasClock && spanLengthMs(span) > 0 ? totalMs / spanLengthMs(span) : null,
    };
  }).sort((a, b) => b.totalMs - a.totalMs);
}

function thinned(recording: Recording, selection: PauseSelection) {
  let places = Array.from(selection.rows, (_, place) => place);
  if (places.length > MOST_PAUSES) {
    const longest = places.sort((a, b) => selection.durationMs[b]! - selection.durationMs[a]!).slice(0, MOST_PAUSES);
    places = longest.sort((a, b) => a - b);
  }
  return {
    pauseMs: Float64Array.from(places, (place) => selection.startMs[place]!),
    pauseDurationMs: Float64Array.from(places, (place) => selection.durationMs[place]!),
    pauseScope: Uint8Array.from(places, (place) => recording.tables.pauses.col.scope[selection.rows[place]!]!),
    pauseRow: Uint32Array.from(places, (place) => selection.rows[place]!),
    pausesLeftOut: selection.rows.length - places.length,
  };
}

/** Edges 1-2-5 a decade that cover the pauses. */
function buckets(selection: PauseSelection) {
  const sorted = selection.durationMs.slice().sort();
  const least = sorted.find((ms) => ms > 0) ?? 0.1;
  const most = sorted[sorted.length - 1] ?? 1;
  const edgesMs: number[] = [0];
  for (let decade = 10 ** Math.floor(Math.log10(least)); edgesMs[edgesMs.length - 1]! <= most; decade *= 10) {
    for (const step of [1, 2, 5]) {
      const edge = Number((decade * step).toPrecision(6));
      if (edge > least && edgesMs[edgesMs.length - 1]! <= most) edgesMs.push(edge);
    }
  }
  const counts = new Array<number>(edgesMs.length - 1).fill(0);
  const totals = new Array<number>(edgesMs.length - 1).fill(0);
  let bucket = 0;
  for (const ms of sorted) {
    while (ms >= edgesMs[bucket + 1]!) bucket++;
    counts[bucket]!++;
    totals[bucket]! += ms;
  }
  return { edgesMs, bucketCounts: counts, bucketTotalsMs: totals };
}

function rates(recording: Recording, span: Span, bins: number): { allocRate: Float64Array; promotionRate: Float64Array } {
  const allocRate = new Float64Array(bins);
  const promotionRate = new Float64Array(bins);
  const binMs = spanLengthMs(span) / bins;
  if (!(binMs > 0) || !recording.hasClock) return { allocRate, promotionRate };
  const steps = allocationSteps(recording);
  for (let step = 0; step < steps.bytes.length; step++) {
    const fromMs = steps.fromMs[step]!;
    const toMs = steps.toMs[step]!;
    const first = Math.max(0, Math.floor((fromMs - span.fromMs) / binMs));
    const last = Math.min(bins - 1, Math.floor((toMs - span.fromMs) / binMs));
    for (let bin = first; bin <= last; bin++) {
      const slice = { fromMs: span.fromMs + bin * binMs, toMs: span.fromMs + (bin + 1) * binMs };
      allocRate[bin]! += (steps.bytes[step]! * insideShare(fromMs, toMs, slice) * 1000) / binMs;
    }
  }
  const { startMs, promotedBytes } = recording.tables.collections.col;
  for (let row = 0; row < recording.tables.collections.length; row++) {
    if (!(promotedBytes[row]! > 0) || !contains(span, startMs[row]!)) continue;
    const bin = Math.min(bins - 1, Math.floor((startMs[row]! - span.fromMs) / binMs));
    promotionRate[bin]! += (promotedBytes[row]! * 1000) / binMs;
  }
  return { allocRate, promotionRate };
}

/** All that is known of the collection a pause belongs to. */
export interface CollectionDetail {
  readonly pauseRow: number;
  readonly label: string;
  readonly cause: string;
  readonly scope: string;
  readonly startMs: number;
  readonly durationMs: number;
  readonly own: boolean;
  readonly explicit: boolean;
  readonly usedBeforeBytes: number | null;
  readonly usedAfterBytes: number | null;
  readonly capacityBytes: number | null;
  readonly promotedBytes: number | null;
  readonly line: number | null;
  readonly spaces: readonly { readonly name: string; readonly beforeBytes: number; readonly afterBytes: number }[];
}

export function collectionDetailOf(recording: Recording, pauseRow: number): CollectionDetail {
  const { pauses, collections, spaces } = recording.tables;
  const row = pauses.col.collectionRow[pauseRow]!;
  const flags = row === NONE ? 0 : collections.col.flags[row]!;
  const told: { name: string; beforeBytes: number; afterBytes: number }[] = [];
  for (let space = 0; row !== NONE && space < spaces.length; space++) {
    if (spaces.col.collectionRow[space] !== row) continue;
    const name = recording.strings.text(spaces.col.nameId[space]!);
    told.push({ name, beforeBytes: spaces.col.beforeBytes[space]!, afterBytes: spaces.col.afterBytes[space]! });
  }
  return {
    pauseRow, label: recording.strings.text(pauses.col.labelId[pauseRow]!), cause: recording.strings.text(pauses.col.causeId[pauseRow]!),
    scope: scopeName(pauses.col.scope[pauseRow]!), startMs: pauses.col.startMs[pauseRow]!, durationMs: pauses.col.durationMs[pauseRow]!,
    own: pauses.col.flags[pauseRow] !== 0, explicit: (flags & CollectionFlag.explicit) !== 0,
    usedBeforeBytes: known(pauses.col.usedBeforeBytes[pauseRow]!), usedAfterBytes: known(pauses.col.usedAfterBytes[pauseRow]!),
    capacityBytes: row === NONE ? null : known(collections.col.capacityBytes[row]!),
    promotedBytes: row === NONE ? null : known(collections.col.promotedBytes[row]!),
    line: pauses.col.line[pauseRow] === NONE ? null : pauses.col.line[pauseRow]!,
    spaces: told,
  };
}
