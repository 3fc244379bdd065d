import { averageRanks } from '../stats/mann-kendall.ts';
import { rankCorrelation } from '../stats/spearman.ts';
import type { ChargeTable } from './charge-table.ts';

/** Keys whose live counts move together, the largest first, and how many of each come with one of the rarest. */
export interface MovingTogether {
  readonly keys: readonly number[];
  /** Change of each key's count over the moments, divided by the least of the group: `1 : 1 : 2`. */
  readonly ratios: readonly number[];
  /** Least correlation of a key with the first one. */
  readonly rho: number;
}

const LEAST_RHO = 0.95;
const MOST_KEYS = 100;
const LEAST_MOMENTS = 8;
/** A series that takes fewer different values than this moves too seldom to be told from another one. */
const LEAST_LEVELS = 6;

/**
 * Groups of keys with Spearman's ρ ≥ 0.95 between their live-count series, each key in the group of the largest that it
 * moves with. That two types move together does not prove that one holds the other: whatever rises all the time does.
 * Counts that are unknown, or hardly change, join no group. O(k²·m) for the 100 largest keys and m moments.
 */
export function movingTogether(table: ChargeTable): MovingTogether[] {
  if (table.momentsMs.length < LEAST_MOMENTS) return [];
  const largest: Moving[] = [];
  for (const row of [...table.rows].sort((a, b) => b.keptBytes - a.keptBytes)) {
    if (largest.length === MOST_KEYS) break;
    const liveCount = row.live.count;
    if (new Set(liveCount).size >= LEAST_LEVELS && !liveCount.some(Number.isNaN))
      largest.push({ key: row.key, liveCount });
  }
  const ranks = largest.map((row) => averageRanks(row.liveCount));
  const taken = new Set<number>();
  const groups: MovingTogether[] = [];
  largest.forEach((leader, place) => {
    if (taken.has(place)) return;
    const group = [leader];
    let least = 1;
    for (let other = place + 1; other < largest.length; other++) {
      const rho = taken.has(other) ? NaN : rankCorrelation(ranks[place]!, ranks[other]!);
      if (!(rho >= LEAST_RHO)) continue;
      taken.add(other);
      least = Math.min(least, rho);
      group.push(largest[other]!);
    }
    if (group.length > 1) groups.push({ keys: group.map(({ key }) => key), ratios: ratiosOf(group), rho: least });
  });
  return groups;
}

interface Moving {
  readonly key: number;
  readonly liveCount: Float64Array;
}

function ratiosOf(group: readonly Moving[]): number[] {
  const changes = group.map(({ liveCount }) => Math.abs(liveCount[liveCount.length - 1]! - liveCount[0]!));
  const least = Math.min(...changes.filter((change) => change > 0));
  return changes.map((change) => change / least);
}
