import { spanLengthMs, type Span } from '../base/span.ts';
import type { LostTime } from './lost-time.ts';

/** The least share of any window of a length that the program had for itself. */
export interface MmuPoint {
  readonly windowMs: number;
  readonly ratio: number;
}

/**
 * Minimum mutator utilisation: the least share of any window of that length, inside the span, left to the program, by
 * its lost time (analysis/lost-time.ts). Exact: what a window loses is greatest where one of its ends lies at an
 * instant at which the loss changes, as the start or end of a pause. Linear in those instants for each window length.
 * Windows longer than the span are not answered.
 *
 * Source: Cheng & Blelloch, A parallel, real-time garbage collector, PLDI 2001, section 3.
 */
export function minimumMutatorUtilisation(
  lost: Pick<LostTime, 'tMs' | 'untilMs'>,
  span: Span,
  windowsMs: readonly number[],
): MmuPoint[] {
  const points: MmuPoint[] = [];
  const rates = ratesOf(lost);
  for (const windowMs of windowsMs) {
    if (windowMs > spanLengthMs(span) || windowMs <= 0) continue;
    points.push({ windowMs, ratio: 1 - mostLost(lost, rates, windowMs) / windowMs });
  }
  return points;
}

/** Window lengths for a curve: 1, 2, 5, 10, … ms up to the span's length, which is the last. */
export function mmuWindows(lengthMs: number): number[] {
  const windows: number[] = [];
  for (let decade = 1; decade < lengthMs; decade *= 10) {
    for (const step of [1, 2, 5]) if (decade * step < lengthMs) windows.push(decade * step);
  }
  if (lengthMs > 0) windows.push(lengthMs);
  return windows;
}

/** What is lost a millisecond from each instant to the next; and the instants at which it becomes more, or less. */
interface LossRates {
  readonly rate: Float64Array;
  readonly rises: Uint32Array;
  readonly falls: Uint32Array;
}

function ratesOf({ tMs, untilMs }: Pick<LostTime, 'tMs' | 'untilMs'>): LossRates {
  const count = tMs.length;
  const [rate, rises, falls] = [new Float64Array(count), new Uint32Array(count), new Uint32Array(count)];
  let [before, rising, falling] = [0, 0, 0];
  for (let at = 0; at < count; at++) {
    const lengthMs = at < count - 1 ? tMs[at + 1]! - tMs[at]! : 0;
    const now = lengthMs > 0 ? (untilMs[at + 1]! - untilMs[at]!) / lengthMs : 0;
    rate[at] = now;
    // One that no time follows says nothing of what comes after it: both are looked at, as at the span's ends.
    const isBoth = lengthMs === 0 || at === 0;
    if (now > before || isBoth) rises[rising++] = at;
    if (now < before || isBoth) falls[falling++] = at;
    if (lengthMs > 0) before = now;
  }
  return { rate, rises: rises.subarray(0, rising), falls: falls.subarray(0, falling) };
}

// The first and the last instant are the span's ends. A window that loses most begins where more is lost than before, or
// ends where less is: moved on or back it would lose less.
function mostLost(
  { tMs, untilMs }: Pick<LostTime, 'tMs' | 'untilMs'>,
  { rate, rises, falls }: LossRates,
  windowMs: number,
): number {
  const last = tMs.length - 1;
  const [firstMs, lastMs] = [tMs[0]!, tMs[last]!];
  let [most, after, before] = [0, 0, 0];
  // Counted loops: what leaves an iterator early costs more than what is done here.
  for (let place = 0; place < rises.length; place++) {
    const at = rises[place]!;
    const to = tMs[at]! + windowMs;
    if (to > lastMs) break;
    while (after < last && tMs[after + 1]! <= to) after++;
    const lost = untilMs[after]! + rate[after]! * (to - tMs[after]!) - untilMs[at]!;
    if (lost > most) most = lost;
  }
  for (let place = 0; place < falls.length; place++) {
    const at = falls[place]!;
    const from = tMs[at]! - windowMs;
    if (from < firstMs) continue;
    while (before < last && tMs[before + 1]! <= from) before++;
    const lost = untilMs[at]! - untilMs[before]! - rate[before]! * (from - tMs[before]!);
    if (lost > most) most = lost;
  }
  return Math.min(windowMs, most);
}
