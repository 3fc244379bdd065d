import { firstPlaceFrom } from '../base/binary-search.ts';
import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';

interface Known {
  readonly thinnings: number;
  rows: Uint32Array;
  count: number;
}

const known = new WeakMap<Recording, Known>();
/** Moves back for each new object, on average, that put it in its place sooner than ordering all of them does. */
const MOST_MOVES = 8;

/**
 * Rows of all objects in order of their births, equal ones as they stand. What was read since the last call is put in
 * its place among what is in order, since objects come nearly in order of birth; where they do not, or rows have moved,
 * all are ordered anew. Shared.
 */
export function objectsByBirth(recording: Recording): Uint32Array {
  const { objects } = recording.tables;
  let order = known.get(recording);
  if (order === undefined || order.thinnings !== recording.thinnings.length || order.count > objects.length) {
    order = { thinnings: recording.thinnings.length, rows: new Uint32Array(0), count: 0 };
    known.set(recording, order);
  }
  if (order.count < objects.length && !grow(order, objects.col.bornMs, objects.length)) {
    order.rows = orderBy(objects.col.bornMs, objects.length);
    order.count = objects.length;
  }
  return order.rows.subarray(0, order.count);
}

/** Rows of the objects that are born in a span, in order of their births. O(log n), once all are in order. */
export function bornWithin(recording: Recording, { fromMs, toMs }: Span): Uint32Array {
  const rows = objectsByBirth(recording);
  const { bornMs } = recording.tables.objects.col;
  const bornAt = (place: number): number => bornMs[rows[place]!]!;
  const first = firstPlaceFrom(rows.length, bornAt, fromMs);
  return rows.subarray(first, Math.max(first, firstPlaceFrom(rows.length, bornAt, toMs)));
}

// False where the new ones are so far from their places that it takes too long.
function grow(order: Known, bornMs: Float64Array, length: number): boolean {
  if (order.rows.length < length) {
    const rows = new Uint32Array(order.count === 0 ? length : Math.max(length, Math.ceil(1.5 * order.count)));
    rows.set(order.rows.subarray(0, order.count));
    order.rows = rows;
  }
  const { rows } = order;
  let moves = MOST_MOVES * (length - order.count);
  for (let row = order.count; row < length; row++) {
    const born = bornMs[row]!;
    let place = row;
    while (place > 0 && !(bornMs[rows[place - 1]!]! <= born)) {
      if (--moves < 0 || born !== born) return false;
      rows[place] = rows[place - 1]!;
      place--;
    }
    rows[place] = row;
  }
  order.count = length;
  return true;
}
