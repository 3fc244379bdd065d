import { median } from '../../stats/quantile.ts';
import { Z_95 } from '../../stats/z-95.ts';
import { type ChargeFigures, withShare } from '../charge-figures.ts';
import type { ChargeTable } from '../charge-table.ts';
import { isRising, type Verdict } from './verdict.ts';

/** How much of the floor's growth the sites that surely grow explain. */
export interface GrowthShares {
  /** The sites that are named: of those that surely grow, what carries most. */
  readonly named: readonly ChargeFigures[];
  /** Their growth over the floor's slope, with the 95 % interval of both errors, cut to 0 to 1. NaN without a slope. */
  readonly ratio: number;
  readonly low: number;
  readonly high: number;
  /** How the named ones compare, `2 : 1`; '' for one. */
  readonly parts: string;
  /** What all sites that surely grow add up to, likewise cut. */
  readonly explainedRatio: number;
}

const MOST_NAMED = 3;
/** A site that carries less than this of what the first does is not worth its name. */
const LEAST_OF_FIRST = 0.1;

/**
 * Sites on the heap whose growth is surely above 0, against the floor's slope, not against the sum of what else seems
 * to grow: sampling noise of others is no part of it, and what is not explained stays so.
 */
export function growthShares(
  table: ChargeTable,
  verdict: Pick<Verdict, 'slopeBytesPerSec' | 'slopeLow' | 'slopeHigh'>,
): GrowthShares {
  const sure = table.rows
    .filter((row) => !row.isOutside && row.growthLow > 0)
    .sort((a, b) => b.growthBytesPerSec - a.growthBytesPerSec);
  const named = sure
    .filter((row) => row.growthBytesPerSec >= LEAST_OF_FIRST * sure[0]!.growthBytesPerSec)
    .slice(0, MOST_NAMED);
  const slope = verdict.slopeBytesPerSec;
  const grown = named.reduce((sum, row) => sum + row.growthBytesPerSec, 0);
  const ratio = grown / slope;
  const errors = named.map((row) => (row.growthHigh - row.growthLow) / (2 * Z_95));
  const grownSe = Math.sqrt(errors.reduce((sum, each) => sum + each ** 2, 0));
  const slopeSe = Number.isFinite(verdict.slopeHigh - verdict.slopeLow)
    ? (verdict.slopeHigh - verdict.slopeLow) / (2 * Z_95)
    : 0;
  // Of a quotient, by the relative errors of both.
  const error = Z_95 * Math.abs(ratio) * Math.hypot(grownSe / grown || 0, slopeSe / slope || 0);
  const explained = sure.reduce((sum, row) => sum + row.growthBytesPerSec, 0) / slope;
  const within = (value: number): number => Math.min(1, Math.max(0, value));
  return {
    named,
    ratio: slope > 0 ? within(ratio) : NaN,
    low: slope > 0 ? within(ratio - error) : NaN,
    high: slope > 0 ? within(ratio + error) : NaN,
    parts: partsOf(named),
    explainedRatio: slope > 0 ? within(explained) : NaN,
  };
}

// Against the least of them, where the intervals leave any order at all.
function partsOf(named: readonly ChargeFigures[]): string {
  if (named.length < 2) return '';
  const least = named[named.length - 1]!.growthBytesPerSec;
  const widest = median(named.map((row) => (row.growthHigh - row.growthLow) / (2 * row.growthBytesPerSec)));
  return `as ${named.map((row) => (row.growthBytesPerSec / least).toFixed(widest < 0.1 ? 1 : 0).replace(/\.0$/, '')).join(' : ')}`;
}

/**
 * The table with each key's share of the growth that the verdict tells: of the floor's slope, and none where the
 * verdict says that nothing grows. While it is unclear, the share is of what surely grows. Keys that may not grow have
 * none.
 */
export function withGrowthShares(table: ChargeTable, verdict: Pick<Verdict, 'kind' | 'slopeBytesPerSec'>): ChargeTable {
  const isSure = (row: ChargeFigures): boolean => !row.isOutside && row.growthLow > 0;
  const sum = table.rows.reduce((total, row) => total + (isSure(row) ? row.growthBytesPerSec : 0), 0);
  const whole = isRising(verdict.kind) ? verdict.slopeBytesPerSec : verdict.kind === 'unclear' ? sum : NaN;
  return {
    ...table,
    rows: table.rows.map((row) =>
      withShare(row, isSure(row) && whole > 0 ? Math.min(1, row.growthBytesPerSec / whole) : 0),
    ),
  };
}
