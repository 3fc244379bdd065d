import { logRank, type LogRank, type RankTable } from '../../stats/log-rank.ts';
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

/** Lives with deaths as early as they can have been, in the middle, and as late. */
interface EndTables {
  readonly early: RankTable;
  readonly middle: RankTable;
  readonly late: RankTable;
}
const ENDS = ['early', 'middle', 'late'] as const;

/**
 * Each group's lives against all others by the weighted log-rank test (stats/log-rank.ts); `groupOf` says whose a life's
 * origin is, −1 for nobody's, which is with the others. A difference is told only where it holds whichever way deaths
 * fall between when they can have happened. One pass over the lives, and one over the classes a group.
 */
export function compareGroups(lives: Lives, groupOf: Int32Array, groups: number): LivesDifference[] {
  // The last is of those that are nobody's.
  const of = Array.from({ length: groups + 1 }, emptyTables);
  for (let row = 0; row < lives.length; row++) {
    const group = groupOf[lives.originId[row]!]!;
    const tables = of[group < 0 ? groups : group]!;
    addLife(tables.early, lives, row, lives.early[row]!);
    addLife(tables.middle, lives, row, lives.middle[row]!);
    addLife(tables.late, lives, row, lives.late[row]!);
  }
  const all = emptyTables();
  for (const tables of of) for (const end of ENDS) addTable(all[end], tables[end]);
  return of.slice(0, groups).map((group) => difference(group, all));
}

/** One group's lives against another's, in the same way: *outlives* where the first does. */
export function comparePair(lives: Lives, groupOf: Int32Array, one: number, other: number): LivesDifference {
  const [first, both] = [emptyTables(), emptyTables()];
  for (let row = 0; row < lives.length; row++) {
    const group = groupOf[lives.originId[row]!]!;
    if (group !== one && group !== other) continue;
    for (const end of ENDS) {
      if (group === one) addLife(first[end], lives, row, lives[end][row]!);
      addLife(both[end], lives, row, lives[end][row]!);
    }
  }
  return difference(first, both);
}

function difference(group: EndTables, all: EndTables): LivesDifference {
  const test = (own: (typeof ENDS)[number], others: (typeof ENDS)[number]): LogRank =>
    logRank(group[own], without(all[others], group[others]));
  const { z } = test('middle', 'middle');
  if (Number.isNaN(z)) return { z, pValue: NaN, says: 'unknown' };
  const bounds = [test('early', 'late'), test('late', 'early')];
  const agree = bounds.every((each) => Math.sign(each.z) === Math.sign(z));
  const pValue = agree ? Math.max(...bounds.map((each) => each.pValue)) : 1;
  return { z, pValue, says: pValue > CLEAR ? 'alike' : z < 0 ? 'outlives' : 'sooner' };
}

function addLife(table: RankTable, lives: Lives, row: number, at: number): void {
  const weight = lives.weight[row]!;
  const entry = lives.entry[row]!;
  table.entered[entry]! += weight;
  table.came[entry]! += 1;
  table.gone[at]! += 1;
  if (lives.dead[row] === 1) {
    table.died[at]! += weight;
    table.diedSquare[at]! += weight * weight;
  } else table.left[at]! += weight;
}

const COLUMNS = ['entered', 'died', 'left', 'diedSquare', 'came', 'gone'] as const;

function addTable(into: RankTable, part: RankTable): void {
  for (const name of COLUMNS) for (let age = 0; age < CLASSES; age++) into[name][age]! += part[name][age]!;
}

function emptyTables(): EndTables {
  return { early: emptyTable(), middle: emptyTable(), late: emptyTable() };
}

function emptyTable(): RankTable {
  const column = (): Float64Array => new Float64Array(CLASSES);
  const [entered, died, left, diedSquare, came, gone] = Array.from({ length: 6 }, column);
  return { entered: entered!, died: died!, left: left!, diedSquare: diedSquare!, came: came!, gone: gone! };
}

// Sums of weights miss each other by their last digits: nothing is below 0.
function without(all: RankTable, part: RankTable): RankTable {
  const less = (name: keyof RankTable): Float64Array =>
    all[name].map((value, at) => Math.max(0, value - part[name][at]!));
  return {
    ...{ entered: less('entered'), died: less('died'), left: less('left') },
    ...{ diedSquare: less('diedSquare'), came: less('came'), gone: less('gone') },
  };
}
