import {
  type CollectionsAnswer,
  formatBytes,
  formatClock,
  formatDuration,
  formatPercent,
  type PauseGrouping,
  type PauseKind,
  Scope,
  type SizeSeries,
} from '@brisk-heron/core';
import type { DenseColumn } from '../../components/dense-column.ts';
import { countText } from '../../components/figures.ts';

type Rows = readonly (readonly string[])[];

/** Rows of the tables behind the charts. */
export interface CollectionTables {
  readonly pauseRows: Rows;
  readonly mmuRows: Rows;
  readonly rateRows: Rows;
  readonly shareRows: Rows;
  readonly sizeRows: Rows;
}

/** The tables of nothing. */
export const NO_TABLES: CollectionTables = { pauseRows: [], mmuRows: [], rateRows: [], shareRows: [], sizeRows: [] };

const perSec = (rate: number): string => `${formatBytes(rate)}/s`;

/** What the charts show, as tables; of the sizes those of one series. */
export function collectionTables(answer: CollectionsAnswer, sizes: SizeSeries | undefined): CollectionTables {
  const { series, span } = answer;
  const sliceRows = (cells: (slice: number) => readonly string[]): Rows =>
    Array.from(series.throughputRatio, (_, slice) => [
      formatClock(span.fromMs + slice * series.sliceMs, true),
      ...cells(slice),
    ]);
  return {
    pauseRows: Array.from(answer.pauseMs, (tMs, place) => [
      formatClock(tMs, true),
      formatDuration(answer.pauseDurationMs[place]!),
      formatDuration(answer.pauseGapMs[place]!),
    ]),
    mmuRows: answer.mmu.map(({ windowMs, ratio }) => [formatDuration(windowMs), formatPercent(ratio)]),
    rateRows: sliceRows((slice) => [
      perSec(series.allocBytesPerSec[slice]!),
      perSec(series.promotedBytesPerSec[slice]!),
      perSec(series.reclaimedBytesPerSec[slice]!),
    ]),
    shareRows: sliceRows((slice) => [
      formatPercent(series.throughputRatio[slice]!),
      formatPercent(series.concurrentRatio[slice]!),
    ]),
    sizeRows: Array.from(sizes?.tMs ?? [], (tMs, place) => [
      formatClock(tMs, true),
      formatBytes(sizes!.beforeBytes[place]!),
      formatBytes(sizes!.afterBytes[place]!),
    ]),
  };
}

const ms = (value: number): string => formatDuration(value);
const scopeText = (kind: PauseKind): string =>
  ({ [Scope.young]: 'young', [Scope.mixed]: 'mixed', [Scope.whole]: 'whole' })[kind.scope];
/** Columns of the table of pauses by kind or by cause. */
export const kindColumns = (grouping: PauseGrouping): readonly DenseColumn<PauseKind>[] => [
  {
    key: 'name',
    title: grouping === 'label' ? 'pause' : 'cause',
    text: (kind) => kind.name,
    order: (kind) => kind.name,
    isText: true,
    hint: (kind) => kind.name,
  },
  { key: 'scope', title: 'scope', text: scopeText, order: scopeText, isText: true },
  { key: 'count', title: 'count', text: (kind) => countText(kind.count), order: (kind) => kind.count },
  { key: 'sum', title: 'sum', text: (kind) => ms(kind.totalMs), order: (kind) => kind.totalMs },
  { key: 'mean', title: 'mean', text: (kind) => ms(kind.meanMs), order: (kind) => kind.meanMs },
  { key: 'p50', title: 'p50', text: (kind) => ms(kind.p50Ms), order: (kind) => kind.p50Ms },
  { key: 'p95', title: 'p95', text: (kind) => ms(kind.p95Ms), order: (kind) => kind.p95Ms },
  { key: 'p99', title: 'p99', text: (kind) => ms(kind.p99Ms), order: (kind) => kind.p99Ms },
  { key: 'max', title: 'longest', text: (kind) => ms(kind.maxMs), order: (kind) => kind.maxMs },
  {
    key: 'time',
    title: 'of time',
    text: (kind) => (Number.isNaN(kind.timeRatio) ? '–' : formatPercent(kind.timeRatio)),
    order: (kind) => kind.timeRatio,
  },
];

/** How many pauses break the goal. */
export function overGoalText({ overGoal, figures }: CollectionsAnswer): string {
  const waits =
    overGoal.waits === 0
      ? `(${formatPercent(overGoal.count / figures.count)})`
      : `(${overGoal.waits} of them waits of threads for memory)`;
  return `${countText(overGoal.count)} break it ${waits}`;
}

/** The allocation rate; what is claimed as a bound is one: the least that can have been allocated. */
export function allocationText({ allocation, span }: CollectionsAnswer): string {
  if (allocation === null) return '';
  return allocation.lowerBound
    ? `at least ${perSec((allocation.lowBytes * 1000) / (span.toMs - span.fromMs))}`
    : perSec(allocation.bytesPerSec);
}
