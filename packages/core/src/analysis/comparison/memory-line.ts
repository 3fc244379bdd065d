import { UNKNOWN, type Estimate } from '../../stats/estimate.ts';
import type { SeriesVerdict } from '../verdict/judge-series.ts';
import { isRising, type Verdict } from '../verdict/verdict.ts';

/** What is compared first: how memory rises, in the heap or outside of it. */
export interface MemoryLine {
  /** '' for the heap. */
  readonly where: '' | ' outside the heap';
  readonly isRising: boolean;
  readonly isUnclear: boolean;
  /** Out of memory, or full: what it would have added is not known then. */
  readonly isExhausted: boolean;
  /** What is missing where it is unclear. */
  readonly missing: string;
  /** Bytes added a second. */
  readonly growth: Estimate;
}

/** How the heap rises. A verdict that says it does not still tells how much can hide in it. */
export function heapLine(verdict: Verdict): MemoryLine {
  return {
    where: '',
    isRising: isRising(verdict.kind),
    isUnclear: verdict.kind === 'unclear',
    isExhausted: verdict.exhaustion !== null,
    missing: verdict.missing.replace(/; until then, at most .*$/, ''),
    growth: growthOf(verdict, verdict.basis === 'bound' ? (verdict.bound?.mostPerSec ?? NaN) : NaN),
  };
}

/** How what lies outside the heap rises; null where it is not told. */
export function outsideLine({ outside }: Verdict): MemoryLine | null {
  if (outside === null) return null;
  return {
    where: ' outside the heap',
    isRising: isRising(outside.kind),
    isUnclear: outside.kind === 'unclear',
    isExhausted: false,
    missing: outside.missing,
    growth: growthOf(outside, NaN),
  };
}

type Slopes = Pick<SeriesVerdict, 'slopeBytesPerSec' | 'slopeLow' | 'slopeHigh' | 'mostHiddenPerSec'> & {
  readonly kind: Verdict['kind'];
};

/**
 * Growth by a judgement: the slope where memory rises or falls; 0 where it does not, with what the slope's interval and
 * what can hide in the points leave; not known where it is unclear.
 */
export function growthOf(judged: Slopes, boundPerSec: number): Estimate {
  const { kind, slopeBytesPerSec: slope, slopeLow, slopeHigh, mostHiddenPerSec } = judged;
  if (kind === 'unclear') return UNKNOWN;
  if (isRising(kind) || kind === 'shrinking') return { value: slope, low: slopeLow, high: slopeHigh };
  const most = [slopeHigh, mostHiddenPerSec, boundPerSec].reduce((top, each) => Math.max(top, each || 0), 0);
  const least = Math.min(0, slopeLow || 0, boundPerSec > 0 ? 0 : -most);
  return { value: 0, low: least, high: most };
}
