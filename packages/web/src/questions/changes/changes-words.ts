import {
  type ComparedKey,
  type ComparedSide,
  type Estimate,
  figureText,
  type FigureChange,
  formatClock,
  formatDuration,
  type Per,
  spanLengthMs,
} from '@brisk-heron/core';

/** What amounts are per, in words. */
export const PER_WORDS: Readonly<Record<Per, string>> = {
  all: 'in all',
  second: 'a second',
  allocatedMiB: 'a MiB allocated',
  collection: 'a collection',
  round: 'a round',
};

/** Half of a 95 % interval, as text; '' where there is none. */
export function intervalText(unit: FigureChange['unit'], { low, high }: Pick<Estimate, 'low' | 'high'>): string {
  const half = (high - low) / 2;
  return Number.isFinite(half) && half > 0 ? `± ${figureText(unit, half)}` : '';
}

/** A difference with its sign. */
export function signed(unit: FigureChange['unit'], value: number): string {
  return value > 0 ? `+${figureText(unit, value)}` : figureText(unit, value);
}

/** Which part of a recording a side is. */
export function extentText({ span }: Pick<ComparedSide, 'span'>, isWhole: boolean): string {
  return isWhole
    ? `all of it, ${formatDuration(spanLengthMs(span))}`
    : `${formatClock(span.fromMs, true)} – ${formatClock(span.toMs, true)}`;
}

const MATCHES: Readonly<Record<NonNullable<ComparedKey['by']>, string>> = {
  name: '',
  rule: 'the same but for what a build changes in names',
  line: 'moved in its file',
  folder: 'moved to another folder',
};

/** What is to be known of a key beside its figures. */
export function stateText({ state, by, nameInA }: Pick<ComparedKey, 'state' | 'by' | 'nameInA'>): string {
  if (state === 'new') return 'new';
  if (state === 'gone') return 'gone';
  if (by === null || by === 'name') return '';
  return nameInA === '' ? MATCHES[by] : `was ${nameInA}`;
}
