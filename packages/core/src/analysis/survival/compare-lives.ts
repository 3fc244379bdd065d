import { logRank, type ComparedLife, type LogRank } from '../../stats/log-rank.ts';
import { CLASSES } from '../median-lifetimes.ts';
import type { Lives } from './lives.ts';

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

/**
 * A group's lives against all others by the weighted log-rank test (stats/log-rank.ts). A difference is told only where
 * it holds whichever way deaths fall between when they can have happened.
 */
export function compareLives(lives: Lives, groupOf: Int32Array, group: number): LivesDifference {
  const test = (endOf: (row: number, isFirst: boolean) => number): LogRank =>
    logRank(compared(lives, groupOf, group, endOf), CLASSES);
  const { z } = test((row) => lives.middle[row]!);
  if (Number.isNaN(z)) return { z, pValue: NaN, says: 'unknown' };
  const bounds = [
    test((row, isFirst) => (isFirst ? lives.early[row]! : lives.late[row]!)),
    test((row, isFirst) => (isFirst ? lives.late[row]! : lives.early[row]!)),
  ];
  const agree = bounds.every((each) => Math.sign(each.z) === Math.sign(z));
  const pValue = agree ? Math.max(...bounds.map((each) => each.pValue)) : 1;
  return { z, pValue, says: pValue > CLEAR ? 'alike' : z < 0 ? 'outlives' : 'sooner' };
}

function* compared(
  lives: Lives,
  groupOf: Int32Array,
  group: number,
  endOf: (row: number, isFirst: boolean) => number,
): Generator<ComparedLife> {
  for (let row = 0; row < lives.length; row++) {
    const isFirst = groupOf[lives.originId[row]!] === group;
    const dead = lives.dead[row] === 1;
    const weight = lives.weight[row]!;
    const end = dead ? endOf(row, isFirst) : lives.late[row]!;
    yield {
      isFirst,
      entry: lives.entry[row]!,
      end: Math.max(end, lives.entry[row]!),
      dead,
      weight,
      variance: weight * weight,
    };
  }
}
