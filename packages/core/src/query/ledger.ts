import { firstAtOrAfter } from '../base/binary-search.ts';
import { contains, type Span } from '../base/span.ts';
import type { OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';

/** What a line of the ledger tells. */
export const LedgerKind = { birth: 0, collection: 1, mark: 2, flow: 3 } as const;
export type LedgerKindCode = (typeof LedgerKind)[keyof typeof LedgerKind];

/**
 * Everything that happened in a span in order of time: parallel columns. A death stands in the line of its birth, as a
 * lifetime; a flow, bytes of a path over an interval, stands where the interval begins.
 */
export interface Ledger {
  readonly tMs: Float64Array;
  readonly kind: Uint8Array;
  /** Row of the object, the collection, the mark or the flow, by kind. */
  readonly row: Uint32Array;
}

type LineKind = 'object' | 'collection' | 'mark' | 'flow';

/**
 * Which lines a ledger has: objects and flows of chosen origins only where there is a choice, and of the kinds asked
 * for.
 */
export interface LedgerChoice {
  readonly chosen?: OriginChoice;
  readonly kinds?: ReadonlySet<LineKind>;
}

/** The ledger of a span. Linear: events are put into time slices, then each slice is sorted. */
export function ledgerOf(
  recording: Recording,
  span: Span,
  { chosen = null, kinds: wanted }: LedgerChoice = {},
): Ledger {
  const { objects, collections, marks, flows } = recording.tables;
  const has = (kind: LineKind): boolean => wanted?.has(kind) ?? true;
  const most = objects.length + collections.length + marks.length + flows.length;
  const found = { length: 0, tMs: new Float64Array(most), kind: new Uint8Array(most), row: new Uint32Array(most) };
  if (has('object'))
    addChosen(
      found,
      LedgerKind.birth,
      { length: objects.length, atMs: objects.col.bornMs, originId: objects.col.originId, chosen },
      span,
    );
  if (has('flow'))
    addChosen(
      found,
      LedgerKind.flow,
      { length: flows.length, atMs: flows.col.fromMs, originId: flows.col.originId, chosen },
      span,
    );
  if (has('collection'))
    addInstants(found, LedgerKind.collection, collections.col.startMs.subarray(0, collections.length), span);
  if (has('mark')) addInstants(found, LedgerKind.mark, marks.col.tMs.subarray(0, marks.length), span);
  const order = orderByTime(found.tMs.subarray(0, found.length), span);
  const ledger = {
    tMs: new Float64Array(order.length),
    kind: new Uint8Array(order.length),
    row: new Uint32Array(order.length),
  };
  for (let place = 0; place < order.length; place++) {
    const at = order[place]!;
    ledger.tMs[place] = found.tMs[at]!;
    ledger.kind[place] = found.kind[at]!;
    ledger.row[place] = found.row[at]!;
  }
  return ledger;
}

interface Found {
  length: number;
  readonly tMs: Float64Array;
  readonly kind: Uint8Array;
  readonly row: Uint32Array;
}

interface Allocations {
  readonly length: number;
  readonly atMs: Float64Array;
  readonly originId: Uint32Array;
  readonly chosen: OriginChoice;
}

function addChosen(
  found: Found,
  kind: LedgerKindCode,
  { length: all, atMs, originId, chosen }: Allocations,
  { fromMs, toMs }: Span,
): void {
  const { tMs, row: rows } = found;
  let { length } = found;
  for (let row = 0; row < all; row++) {
    const at = atMs[row]!;
    if (!(at >= fromMs && at < toMs) || (chosen !== null && chosen[originId[row]!] !== 1)) continue;
    tMs[length] = at;
    rows[length++] = row;
  }
  found.kind.fill(kind, found.length, length);
  found.length = length;
}

function addInstants(found: Found, kind: LedgerKindCode, instants: Float64Array, span: Span): void {
  for (let row = 0; row < instants.length; row++) {
    if (!contains(span, instants[row]!)) continue;
    found.tMs[found.length] = instants[row]!;
    found.kind[found.length] = kind;
    found.row[found.length++] = row;
  }
}

/** Place of the first line at or after an instant; the number of lines when there is none. */
export function ledgerPlace(ledger: Ledger, tMs: number): number {
  return firstAtOrAfter(ledger.tMs, tMs);
}

/** Place of the next or the previous collection from a place on; −1 for none. */
export function ledgerCollection(ledger: Ledger, place: number, by: 1 | -1): number {
  for (let at = place + by; at >= 0 && at < ledger.kind.length; at += by)
    if (ledger.kind[at] === LedgerKind.collection) return at;
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
    // Many at one instant, as births that a poll bounds, are in order already; a slice that is not and is large is
    // sorted by comparison.
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
