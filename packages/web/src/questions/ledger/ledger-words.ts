import {
  formatBytes,
  formatClock,
  formatDuration,
  formatPercent,
  LedgerKind,
  type LedgerLine,
  type RunLine,
} from '@brisk-heron/core';
import type { DenseColumn } from '../../components/dense-column.ts';
import { countText, exactBytes, plusMinus, plusMinusCount, shortType } from '../../components/figures.ts';

/** To the millisecond: `0:30.012`. */
export function exactClock(tMs: number): string {
  const ms = Math.floor(tMs);
  return `${formatClock(ms - (ms % 1000))}.${String(ms % 1000).padStart(3, '0')}`;
}

/** How long what a line tells of lived, or took. */
export const lifetime = (line: LedgerLine): string => {
  if (line.kind === LedgerKind.mark) return '';
  if (line.kind === LedgerKind.collection) return formatDuration(line.lifetimeMs);
  if (line.kind === LedgerKind.flow) return `within ${formatDuration(line.lifetimeMs)}`;
  if (Number.isNaN(line.lifetimeMs)) return 'lives';
  return line.lost ? `over ${formatDuration(line.lifetimeMs)}` : formatDuration(line.lifetimeMs);
};

/** What a line tells of, in words. */
export function what(line: LedgerLine): string {
  switch (line.kind) {
    case LedgerKind.mark:
      return `▸ ${line.what}`;
    case LedgerKind.collection:
      return line.what;
    case LedgerKind.flow:
      return line.what === '' ? 'not seen singly' : `${shortType(line.what)}, not singly`;
    case LedgerKind.birth:
      return line.what === '' ? (line.scaled ? 'a sample' : 'an object') : shortType(line.what);
  }
}

/** How large what a line tells of is. */
export function size(line: LedgerLine): string {
  if (Number.isNaN(line.bytes)) return '';
  return `${line.kind === LedgerKind.collection ? 'left ' : line.scaled || line.bytesSe > 0 ? '≈ ' : ''}${formatBytes(line.bytes)}`;
}

/** Columns of the table of alike runs. */
export const runColumns: readonly DenseColumn<RunLine>[] = [
  { key: 'site', title: 'made at', text: (run) => run.site, order: (run) => run.site, isText: true },
  {
    key: 'type',
    title: 'type',
    text: (run) => shortType(run.type === '' ? null : run.type),
    order: (run) => run.type,
    isText: true,
  },
  { key: 'from', title: 'from', text: (run) => formatClock(run.fromMs, true), order: (run) => run.fromMs },
  {
    key: 'long',
    title: 'for',
    text: (run) => formatDuration(run.toMs - run.fromMs),
    order: (run) => run.toMs - run.fromMs,
  },
  {
    key: 'bytes',
    title: 'bytes',
    text: (run) => formatBytes(run.bytes),
    order: (run) => run.bytes,
    se: (run) => run.bytesSe,
    hint: (run) => `${exactBytes(run.bytes)} ${plusMinus(run.bytesSe)}`.trim(),
  },
  {
    key: 'count',
    title: 'objects',
    text: (run) => countText(run.count),
    order: (run) => run.count,
    se: (run) => run.countSe,
    hint: (run) => `${plusMinusCount(run.countSe)}, ${run.seen} of them seen`.replace(/^, /, ''),
  },
  {
    key: 'rate',
    title: 'a second',
    text: (run) => countText(run.perSec),
    order: (run) => run.perSec,
    se: (run) => run.perSec * (run.countSe / run.count),
    hint: (run) => plusMinusCount(run.perSec * (run.countSe / run.count)),
  },
  { key: 'died', title: 'dead by the end', text: (run) => formatPercent(run.diedRatio), order: (run) => run.diedRatio },
];
