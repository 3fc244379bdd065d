import type { Recording } from '../../model/recording.ts';
import { CollectionFlag, PauseFlag } from '../../model/tables.ts';
import { rememberReading } from '../remember.ts';
import { collectionsByStart, type RowOrder } from '../row-orders.ts';

/** Collections of the program in order of their starts, and those among them that have something in common. */
export interface ProgramCollections extends RowOrder {
  /** Places in the order by heap and cause, ascending. */
  readonly byCause: readonly CauseGroup[];
  /** Places of those that the runtime says something special of, ascending. */
  readonly flagged: Uint32Array;
  /** First pause of the program in each collection row, −1 for those without one. */
  readonly pauseOf: Int32Array;
}

interface CauseGroup {
  readonly heapId: number;
  readonly causeId: number;
  readonly places: Uint32Array;
}

const SPECIAL = CollectionFlag.explicit | CollectionFlag.evacuationFailed | CollectionFlag.degenerated;

/** The program's collections of a recording, the recorder's own left out. */
export const programCollections = rememberReading((recording: Recording): ProgramCollections => {
  const { flags, startMs } = recording.tables.collections.col;
  const order = collectionsByStart(recording);
  const rows = new Uint32Array(order.rows.length);
  const tMs = new Float64Array(order.rows.length);
  const flagged = new Uint32Array(order.rows.length);
  let [count, flaggedCount] = [0, 0];
  for (let at = 0; at < order.rows.length; at++) {
    const row = order.rows[at]!;
    if (flags[row]! & CollectionFlag.own) continue;
    if (flags[row]! & SPECIAL) flagged[flaggedCount++] = count;
    rows[count] = row;
    tMs[count++] = startMs[row]!;
  }
  return {
    rows: rows.subarray(0, count),
    tMs: tMs.subarray(0, count),
    byCause: groupsOf(recording, rows.subarray(0, count)),
    flagged: flagged.slice(0, flaggedCount),
    pauseOf: firstPauses(recording),
  };
});

function groupsOf({ tables: { collections } }: Recording, rows: Uint32Array): CauseGroup[] {
  const { heapId, causeId } = collections.col;
  const numbers = new Map<string, number>();
  const firsts: number[] = [];
  const counts: number[] = [];
  const groupOf = new Uint32Array(rows.length);
  let [heap, cause, number] = [-1, -1, -1];
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    // Most collections are like the one before.
    if (heapId[row] !== heap || causeId[row] !== cause || number < 0) {
      heap = heapId[row]!;
      cause = causeId[row]!;
      const key = `${heap} ${cause}`;
      number = numbers.get(key) ?? counts.push(0) - 1;
      numbers.set(key, number);
      firsts[number] ??= row;
    }
    groupOf[place] = number;
    counts[number]!++;
  }
  const places = counts.map((count) => new Uint32Array(count));
  const filled = new Uint32Array(counts.length);
  for (let place = 0; place < rows.length; place++) places[groupOf[place]!]![filled[groupOf[place]!]!++] = place;
  return firsts.map((row, at) => ({ heapId: heapId[row]!, causeId: causeId[row]!, places: places[at]! }));
}

function firstPauses({ tables: { collections, pauses } }: Recording): Int32Array {
  const { collectionRow, flags, startMs } = pauses.col;
  const first = new Int32Array(collections.length).fill(-1);
  for (let row = 0; row < pauses.length; row++) {
    const of = collectionRow[row]!;
    if (flags[row]! & PauseFlag.own || of >= first.length) continue;
    if (first[of] === -1 || startMs[row]! < startMs[first[of]!]!) first[of] = row;
  }
  return first;
}
