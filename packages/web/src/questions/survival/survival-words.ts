import {
  type AgeKind,
  type AgeRange,
  type CurvePoint,
  formatBytes,
  formatDuration,
  formatPercent,
  type LivesDifference,
  SURE,
} from '@brisk-heron/core';

/** An age of a kind as text: `2.0 s`, `3 collections`, `12 MiB`. */
export function ageText(kind: AgeKind, age: number): string {
  if (kind === 'seconds') return formatDuration(age);
  if (kind === 'allocated') return formatBytes(age);
  const count = Math.round(age);
  return `${count.toLocaleString('en')} collection${count === 1 ? '' : 's'}`;
}

/** An age by which a share is dead: `0.2 s – 0.5 s`, `under 5 ms`, `over 12 s, not reached`. */
export function rangeText(kind: AgeKind, { low, high }: AgeRange, oldest: number): string {
  if (high === null)
    return low === null || low > 0
      ? `over ${ageText(kind, low ?? oldest)}, not reached`
      : `not known by ${ageText(kind, oldest)}`;
  if (low === null || low <= 0) return `under ${ageText(kind, high)}`;
  const [from, to] = [ageText(kind, low), ageText(kind, high)];
  return from === to ? to : `${from} – ${to}`;
}

/** A share with its band as text: `12 % (9–15 %)`. */
export function shareText(point: CurvePoint | null): string {
  if (point === null) return '–';
  const [low, high] = [formatPercent(point.low), formatPercent(point.high)];
  return low === high
    ? formatPercent(point.estimate)
    : `${formatPercent(point.estimate)} (${low.replace(' %', '')}–${high})`;
}

/** How a key's lives stand against all others, or another key's: `outlives the rest, surely`. */
export function differenceText({ says, pValue }: LivesDifference, than = 'the rest'): string {
  const sure = pValue < SURE ? ', surely' : ', likely';
  switch (says) {
    case 'outlives':
      return `outlives ${than}${sure}`;
    case 'sooner':
      return `dies sooner than ${than}${sure}`;
    case 'alike':
      return 'no clear difference';
    default:
      return '';
  }
}
