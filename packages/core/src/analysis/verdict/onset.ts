import type { Span } from '../../base/span.ts';
import { formatBytes, formatClock } from '../../base/units.ts';
import { NONE } from '../../base/ids.ts';
import type { Recording } from '../../model/recording.ts';
import { allocationFigures } from '../allocation.ts';
import type { Verdict } from './verdict.ts';

/**
 * Half the time around an instant in which something that changed may have to do with it, beside the instant's own
 * interval.
 */
const NEAR_MS = 2000;
/** A rate that changes by this factor has changed. */
const CHANGED_FACTOR = 1.5;
const MOST_NAMED = 3;

/**
 * What else changed when memory began to behave as it does: marks, threads that first allocated, the rate of
 * allocation, causes of collections that were not there before. In words, the nearest first; they stand beside each
 * other, and none is said to be the reason. Linear.
 */
export function changedThen(
  recording: Recording,
  span: Span,
  verdict: Pick<Verdict, 'sinceMs' | 'sinceLowMs' | 'sinceHighMs'>,
): string[] {
  if (Number.isNaN(verdict.sinceMs)) return [];
  const near = { fromMs: verdict.sinceLowMs - NEAR_MS, toMs: verdict.sinceHighMs + NEAR_MS };
  return [
    ...marksNear(recording, near),
    ...threadsNear(recording, near),
    ...rateChange(recording, span, near),
    ...newCauses(recording, span, near),
  ];
}

function marksNear({ tables: { marks }, strings }: Recording, near: Span): string[] {
  const found: string[] = [];
  for (let row = 0; row < marks.length && found.length < MOST_NAMED; row++) {
    const tMs = marks.col.tMs[row]!;
    if (tMs >= near.fromMs && tMs <= near.toMs)
      found.push(`mark “${strings.text(marks.col.labelId[row]!)}” at ${formatClock(tMs)}`);
  }
  return found;
}

// Objects come nearly in order of birth: the first of each thread is when it was seen first.
function threadsNear({ tables: { objects, origins }, strings }: Recording, near: Span): string[] {
  const first = new Map<number, number>();
  for (let row = 0; row < objects.length; row++) {
    const threadId = origins.col.threadId[objects.col.originId[row]!]!;
    if (threadId !== NONE && !(first.get(threadId)! <= objects.col.bornMs[row]!))
      first.set(threadId, objects.col.bornMs[row]!);
  }
  return [...first]
    .filter(([, tMs]) => tMs >= near.fromMs && tMs <= near.toMs)
    .slice(0, MOST_NAMED)
    .map(([threadId, tMs]) => `thread ${strings.text(threadId)} began to allocate at ${formatClock(tMs)}`);
}

function rateChange(recording: Recording, span: Span, near: Span): string[] {
  const rate = (fromMs: number, toMs: number): number =>
    toMs > fromMs ? (allocationFigures(recording, { fromMs, toMs })?.bytesPerSec ?? NaN) : NaN;
  const [before, after] = [rate(span.fromMs, Math.max(span.fromMs, near.fromMs)), rate(near.toMs, span.toMs)];
  const factor = after / before;
  return factor >= CHANGED_FACTOR || factor <= 1 / CHANGED_FACTOR
    ? [`allocation went from ${formatBytes(before)}/s to ${formatBytes(after)}/s`]
    : [];
}

function newCauses({ tables: { collections }, strings }: Recording, span: Span, near: Span): string[] {
  const { startMs, causeId } = collections.col;
  const first = new Map<number, number>();
  for (let row = 0; row < collections.length; row++) {
    const known = first.get(causeId[row]!);
    if (causeId[row] !== NONE && startMs[row]! >= span.fromMs && !(known! <= startMs[row]!))
      first.set(causeId[row]!, startMs[row]!);
  }
  return [...first]
    .filter(([id, tMs]) => tMs >= near.fromMs && tMs <= near.toMs && strings.text(id) !== '')
    .slice(0, MOST_NAMED)
    .map(([id, tMs]) => `first collection for “${strings.text(id)}” at ${formatClock(tMs)}`);
}
