import { logRank, type LogRank, type RankTable } from '../../stats/log-rank.ts';
import { CLASSES } from '../median-lifetimes.ts';
import type { LifeTable, LivesByGroup } from './life-tables.ts';

/** Whether a group of lives outlives all others, or dies sooner, whenever deaths may have happened. */
export interface LivesDifference {
  /** Above 0 where the group dies sooner than the rest; NaN where nothing can be compared. */
  readonly z: number;
  /** The larger of the p-values with the group's deaths as early and the rest's as late as can be, and the other way. */
  readonly pValue: number;
  readonly says: 'outlives' | 'sooner' | 'alike' | 'unknown';
}

/** Below this a difference is told as sure. */
export const SURE = 0.001;
const CLEAR = 0.05;

/** When deaths are taken to have happened. */
type When = 'early' | 'middle' | 'late';

/**
 * Each group's lives against all others, nobody's among these, by the weighted log-rank test (stats/log-rank.ts). A
 * difference is told only where it holds whichever way deaths fall between when they can have happened. One pass over
 * the classes a group.
 */
export function compareGroups({ groups, whole }: LivesByGroup): LivesDifference[] {
  return groups.map((group) => difference(group, (when) => without(rankTable(whole, when), rankTable(group, when))));
}

/** One group's lives against another's, in the same way: *outlives* where the first does. */
export function comparePair({ groups }: LivesByGroup, one: number, other: number): LivesDifference {
  return difference(groups[one]!, (when) => rankTable(groups[other]!, when));
}

function difference(group: LifeTable, others: (when: When) => RankTable): LivesDifference {
  const test = (own: When, theirs: When): LogRank => logRank(rankTable(group, own), others(theirs));
  const { z } = test('middle', 'middle');
  if (Number.isNaN(z)) return { z, pValue: NaN, says: 'unknown' };
  const bounds = [test('early', 'late'), test('late', 'early')];
  const agree = bounds.every((each) => Math.sign(each.z) === Math.sign(z));
  const pValue = agree ? Math.max(...bounds.map((each) => each.pValue)) : 1;
  return { z, pValue, says: pValue > CLEAR ? 'alike' : z < 0 ? 'outlives' : 'sooner' };
}

function rankTable(table: LifeTable, when: When): RankTable {
  const { entered, left, came, leftCount } = table;
  const { died, diedSquare, count } = table[when];
  const gone = new Float64Array(CLASSES);
  for (let age = 0; age < CLASSES; age++) gone[age] = count[age]! + leftCount[age]!;
  return { entered, left, died, diedSquare, came, gone };
}

// Sums of weights miss each other by their last digits: nothing is below 0.
function without(all: RankTable, part: RankTable): RankTable {
  return {
    ...{ entered: less(all.entered, part.entered), left: less(all.left, part.left), came: less(all.came, part.came) },
    ...{ died: less(all.died, part.died), diedSquare: less(all.diedSquare, part.diedSquare) },
    gone: less(all.gone, part.gone),
  };
}

function less(all: Float64Array, part: Float64Array): Float64Array {
  const rest = new Float64Array(CLASSES);
  for (let age = 0; age < CLASSES; age++) rest[age] = Math.max(0, all[age]! - part[age]!);
  return rest;
}
