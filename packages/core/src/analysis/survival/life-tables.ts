import { CLASSES } from '../median-lifetimes.ts';
import type { Lives } from './lives.ts';

/** Deaths by class of age: their weight, its squares, and how many. */
export interface Deaths {
  readonly died: Float64Array;
  readonly diedSquare: Float64Array;
  readonly count: Float64Array;
}

/** What a group of lives comes to, each column by class of age. */
export interface LifeTable {
  /** Weight that came into sight, and that left it alive; and how many did. */
  readonly entered: Float64Array;
  readonly left: Float64Array;
  readonly came: Float64Array;
  readonly leftCount: Float64Array;
  /** Deaths as early as they can have been, in the middle, and as late. */
  readonly early: Deaths;
  readonly middle: Deaths;
  readonly late: Deaths;
  /** Lives, what they stand for, and its variance. */
  readonly samples: number;
  readonly weight: number;
  readonly variance: number;
  /** Weight that died, and how many. */
  readonly died: number;
  readonly deaths: number;
  /** Class of the oldest age. */
  readonly oldest: number;
}

/** Lives in groups, and what each group and all of them come to. */
export interface LivesByGroup {
  readonly lives: Lives;
  /** Whose a life's origin is, −1 for nobody's. */
  readonly groupOf: Int32Array;
  readonly groups: readonly LifeTable[];
  /** Nobody's as well. */
  readonly whole: LifeTable;
}

const COLUMNS = 13;
/** Places of sums of a group that are of no class. */
const TOTALS = 6;

/** Sums lives by groups, once for whatever is asked of them. One pass over the lives. */
export function livesByGroup(lives: Lives, groups: number, groupOf: Int32Array): LivesByGroup {
  // The last group is nobody's.
  const columns = new Float64Array((groups + 1) * COLUMNS * CLASSES);
  const totals = new Float64Array((groups + 1) * TOTALS);
  const { length, entry, early, middle, late, dead, weight, variance, originId } = lives;
  for (let row = 0; row < length; row++) {
    const own = groupOf[originId[row]!]!;
    const group = own < 0 ? groups : own;
    const at = group * COLUMNS * CLASSES;
    const [stands, last] = [weight[row]!, late[row]!];
    columns[at + entry[row]!]! += stands;
    columns[at + 2 * CLASSES + entry[row]!]! += 1;
    const total = group * TOTALS;
    totals[total]!++;
    totals[total + 1]! += stands;
    totals[total + 2]! += variance[row]!;
    if (last > totals[total + 5]!) totals[total + 5] = last;
    if (dead[row] === 1) {
      addDeath(columns, at + 4 * CLASSES + early[row]!, stands);
      addDeath(columns, at + 7 * CLASSES + middle[row]!, stands);
      addDeath(columns, at + 10 * CLASSES + last, stands);
      totals[total + 3]! += stands;
      totals[total + 4]!++;
    } else {
      columns[at + CLASSES + last]! += stands;
      columns[at + 3 * CLASSES + last]! += 1;
    }
  }
  const tables = Array.from({ length: groups + 1 }, (_, group) => tableOf(columns, totals, group));
  return { lives, groupOf, groups: tables.slice(0, groups), whole: sumOf(columns, totals, groups + 1) };
}

function addDeath(columns: Float64Array, at: number, weight: number): void {
  columns[at]! += weight;
  columns[at + CLASSES]! += weight * weight;
  columns[at + 2 * CLASSES]! += 1;
}

function tableOf(columns: Float64Array, totals: Float64Array, group: number): LifeTable {
  const first = group * COLUMNS;
  const column = (place: number): Float64Array =>
    columns.subarray((first + place) * CLASSES, (first + place + 1) * CLASSES);
  const deaths = (place: number): Deaths => ({
    died: column(place),
    diedSquare: column(place + 1),
    count: column(place + 2),
  });
  const [samples, weight, variance, died, count, oldest] = totals.subarray(group * TOTALS, (group + 1) * TOTALS);
  return {
    ...{ entered: column(0), left: column(1), came: column(2), leftCount: column(3) },
    ...{ early: deaths(4), middle: deaths(7), late: deaths(10) },
    ...{ samples: samples!, weight: weight!, variance: variance!, died: died!, deaths: count!, oldest: oldest! },
  };
}

function sumOf(columns: Float64Array, totals: Float64Array, groups: number): LifeTable {
  const sum = new Float64Array(COLUMNS * CLASSES);
  const total = new Float64Array(TOTALS);
  for (let group = 0; group < groups; group++) {
    const at = group * COLUMNS * CLASSES;
    for (let place = 0; place < sum.length; place++) sum[place]! += columns[at + place]!;
    for (let place = 0; place < TOTALS; place++) {
      const value = totals[group * TOTALS + place]!;
      total[place] = place === TOTALS - 1 ? Math.max(total[place]!, value) : total[place]! + value;
    }
  }
  return tableOf(sum, total, 0);
}
