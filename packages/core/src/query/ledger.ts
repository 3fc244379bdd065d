import { firstAtOrAfter } from '../base/binary-search.ts';
import { growableRows } from '../base/growable-rows.ts';
import { contains, type Span } from '../base/span.ts';
import type { OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';

/** What a line of the ledger tells. */
export const LedgerKind = { birth: 0, collection: 1, mark: 2 } as const;
export type LedgerKindCode = (typeof LedgerKind)[keyof typeof LedgerKind];

/** Everything that happened in a span in order of time: parallel columns. A death stands in the line of its birth, as a lifetime. */
export interface Ledger {
  readonly tMs: Float64Array;
  readonly kind: Uint8Array;
  /** Row of the object, the collection or the mark, by kind. */
  readonly row: Uint32Array;
}

/** Which lines a ledger has: objects of chosen origins only where there is a choice, and of the kinds asked for. */
export interface LedgerChoice {
  readonly chosen?: OriginChoice;
  readonly kinds?: ReadonlySet<'object' | 'collection' | 'mark' | 'flow'>;
}

/** The ledger of a span. Linear: events are put into time slices, then each slice is sorted. */
export function ledgerOf(recording: Recording, span: Span, { chosen = null, kinds: wanted }: LedgerChoice = {}): Ledger {
  const { objects, collections, marks } = recording.tables;
  const { bornMs, originId } = objects.col;
  const found = { row: growableRows(), kind: growableRows() };
  const add = (kind: LedgerKindCode, row: number): void => {
    found.row.add(row);
    found.kind.add(kind);
  };
  const has = (kind: 'object' | 'collection' | 'mark'): boolean => wanted?.has(kind) ?? true;
  for (let row = 0; row < objects.length && has('object'); row++) if (contains(span, bornMs[row]!) && (chosen === null || chosen[originId[row]!] === 1)) add(LedgerKind.birth, row);
  for (let row = 0; row < collections.length && has('collection'); row++) if (contains(span, collections.col.startMs[row]!)) add(LedgerKind.collection, row);
  for (let row = 0; row < marks.length && has('mark'); row++) if (contains(span, marks.col.tMs[row]!)) add(LedgerKind.mark, row);
  const [rows, kinds] = [found.row.values(), found.kind.values()];
  const times = [bornMs, collections.col.startMs, marks.col.tMs];
  const tMs = Float64Array.from(rows, (row, at) => times[kinds[at]!]![row]!);
  const order = orderByTime(tMs, span);
  return {
    tMs: Float64Array.from(order, (at) => tMs[at]!), kind: Uint8Array.from(order, (at) => kinds[at]!), row: Uint32Array.from(order, (at) => rows[at]!),
  };
}

/** Place of the first line at or after an instant; the number of lines when there is none. */
export function ledgerPlace(ledger: Ledger, tMs: number): number {
  return firstAtOrAfter(ledger.tMs, tMs);
}

/** Place of the next or the previous collection from a place on; −1 for none. */
export function ledgerCollection(ledger: Ledger, place: number, by: 1 | -1): number {
  for (let at = place + by; at >= 0 && at < ledger.kind.length; at += by) if (ledger.kind[at] === LedgerKind.collection) return at;
  return -1;
}

const PER_SLICE = 16;

// A counting sort into slices of a few events each, then an insertion sort, which is linear over slices this small.
function orderByTime(tMs: Float64Array, { fromMs, toMs }: Span): Uint32Array {
  const slices = Math.max(1, Math.ceil(tMs.length / PER_SLICE));
  const perMs = slices / Math.max(1e-9, toMs - fromMs);
  const sliceOf = (at: number): number => Math.max(0, Math.min(slices - 1, Math.floor((tMs[at]! - fromMs) * perMs)));
  const starts = new Uint32Array(slices + 1);
  for (let at = 0; at < tMs.length; at++) starts[sliceOf(at) + 1]!++;
  for (let slice = 0; slice < slices; slice++) starts[slice + 1]! += starts[slice]!;
  const next = starts.slice();
  const order = new Uint32Array(tMs.length);
  for (let at = 0; at < tMs.length; at++) order[next[sliceOf(at)]!++] = at;
  for (let slice = 0; slice < slices; slice++) {
    const [from, to] = [starts[slice]!, starts[slice + 1]!];
    // Many at one instant, as births that a poll bounds, are in order already; a slice that is not and is large is sorted by comparison.
    if (to - from > MOST_INSERTED) order.subarray(from, to).sort((a, b) => tMs[a]! - tMs[b]! || a - b);
    else insertionSort(order, tMs, from, to);
  }
  return order;
}

const MOST_INSERTED = 64;

function insertionSort(order: Uint32Array, tMs: Float64Array, from: number, to: number): void {
  for (let at = from + 1; at < to; at++) {
    const held = order[at]!;
    let hole = at;
    while (hole > from && tMs[order[hole - 1]!]! > tMs[held]!) {
      order[hole] = order[hole - 1]!;
      hole--;
    }
    order[hole] = held;
  }
}
