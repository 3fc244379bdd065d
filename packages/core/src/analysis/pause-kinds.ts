import { firstPlaceFrom } from '../base/binary-search.ts';
import { numberIds } from '../base/number-ids.ts';
import { spanLengthMs, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import type { ScopeCode } from '../model/tables.ts';
import { nearestRank, nearestRankIndex } from '../stats/quantile.ts';
import { RangeRanks } from '../stats/range-ranks.ts';
import { RangeSums } from '../stats/range-sums.ts';
import { allPauses, byDuration, type PauseSelection } from './program-pauses.ts';
import { rememberReading } from './remember.ts';

/** Pauses that have one label, or one cause. Percentiles by nearest rank. */
export interface PauseKind {
  readonly name: string;
  /** Scope of the first of them. */
  readonly scope: ScopeCode;
  readonly count: number;
  readonly totalMs: number;
  readonly meanMs: number;
  readonly p50Ms: number;
  readonly p95Ms: number;
  readonly p99Ms: number;
  readonly maxMs: number;
  /** Share of the span's time; NaN without a clock. */
  readonly timeRatio: number;
}

/** What pauses are told apart by: the runtime's own label, or why they were made. */
export const PAUSE_GROUPINGS = ['label', 'cause'] as const;
export type PauseGrouping = (typeof PAUSE_GROUPINGS)[number];

/** Name of the kind that a pause row belongs to; a pause without a cause says so. */
export function pauseKindOf(recording: Recording, pauseRow: number, by: PauseGrouping): string {
  const { labelId, causeId } = recording.tables.pauses.col;
  const name = recording.strings.text(by === 'label' ? labelId[pauseRow]! : causeId[pauseRow]!);
  return name === '' ? '(no cause told)' : name;
}

/** All pauses of one kind in order of start. */
interface KindOfPauses {
  /** Where each stands among all of the program's pauses. */
  readonly places: Uint32Array;
  readonly durationMs: Float64Array;
  readonly ranks: RangeRanks;
  readonly sums: RangeSums;
}

const byLabel = rememberReading((recording) => kindsBy(recording, recording.tables.pauses.col.labelId));
const byCause = rememberReading((recording) => kindsBy(recording, recording.tables.pauses.col.causeId));

function kindsBy(recording: Recording, ids: Uint32Array): readonly KindOfPauses[] {
  const all = allPauses(recording);
  const { rows } = all;
  const { numberOf: kinds, counts } = numberIds(rows, ids, recording.strings.length);
  // Those of one kind stand together.
  const starts = new Uint32Array(counts.length);
  for (let at = 1; at < counts.length; at++) starts[at] = starts[at - 1]! + counts[at - 1]!;
  const [places, durationMs, order] = [
    new Uint32Array(rows.length),
    new Float64Array(rows.length),
    new Uint32Array(rows.length),
  ];
  const within = new Uint32Array(rows.length);
  const filled = new Uint32Array(counts.length);
  for (let place = 0; place < rows.length; place++) {
    const of = kinds[place]!;
    const at = starts[of]! + filled[of]!;
    within[place] = filled[of]!++;
    places[at] = place;
    durationMs[at] = all.durationMs[place]!;
  }
  const sorted = byDuration(recording);
  filled.fill(0);
  for (let at = 0; at < sorted.length; at++) {
    const place = sorted[at]!;
    const of = kinds[place]!;
    order[starts[of]! + filled[of]!++] = within[place]!;
  }
  return counts.map((count, of) => {
    const [first, end] = [starts[of]!, starts[of]! + count];
    const told = durationMs.subarray(first, end);
    return {
      places: places.subarray(first, end),
      durationMs: told,
      ranks: new RangeRanks(told, order.subarray(first, end)),
      sums: new RangeSums(count, (at) => told[at]!),
    };
  });
}

/** The span's pauses by kind, the costliest first. Once all pauses are in order, O(log n) a kind. */
export function pauseKinds(
  recording: Recording,
  selection: PauseSelection,
  span: Span,
  by: PauseGrouping,
): PauseKind[] {
  return (by === 'label' ? byLabel : byCause)(recording)
    .map((kind) => chosenOf(kind, selection))
    .filter(({ count }) => count > 0)
    .map((chosen) => kindTold(recording, chosen, span, by))
    .sort((a, b) => b.totalMs - a.totalMs);
}

/** The pauses of one kind in a selection. */
interface ChosenPauses {
  /** Place of the first among all of the program's pauses. */
  readonly first: number;
  readonly count: number;
  readonly totalMs: number;
  /** Nearest-rank quantile. */
  quantile(ratio: number): number;
}

function chosenOf(
  { places, durationMs, ranks, sums }: KindOfPauses,
  { places: selected }: PauseSelection,
): ChosenPauses {
  const placeOf = (place: number): number => firstPlaceFrom(places.length, (at) => places[at]!, place);
  const [first, end] = [placeOf(selected.first), placeOf(selected.end)];
  const before = selected.before.map(placeOf).filter((at, n) => places[at] === selected.before[n]);
  let totalMs = sums.within(first, end).sum;
  for (const at of before) totalMs += durationMs[at]!;
  const count = before.length + end - first;
  if (before.length === 0)
    return {
      first: places[first]!,
      count,
      totalMs,
      quantile: (ratio) => ranks.at(first, end, nearestRankIndex(count, ratio)),
    };
  const sorted = Float64Array.from([...before.map((at) => durationMs[at]!), ...durationMs.subarray(first, end)]).sort();
  return { first: places[before[0]!]!, count, totalMs, quantile: (ratio) => nearestRank(sorted, ratio) };
}

function kindTold(
  recording: Recording,
  { first, count, totalMs, quantile }: ChosenPauses,
  span: Span,
  by: PauseGrouping,
): PauseKind {
  const lengthMs = spanLengthMs(span);
  const row = allPauses(recording).rows[first]!;
  return {
    name: pauseKindOf(recording, row, by),
    scope: recording.tables.pauses.col.scope[row] as ScopeCode,
    count,
    totalMs,
    meanMs: totalMs / count,
    p50Ms: quantile(0.5),
    p95Ms: quantile(0.95),
    p99Ms: quantile(0.99),
    maxMs: quantile(1),
    timeRatio: recording.hasClock && lengthMs > 0 ? totalMs / lengthMs : NaN,
  };
}
