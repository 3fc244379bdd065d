import { firstAtOrAfter } from '../base/binary-search.ts';
import { bornWithin } from '../analysis/birth-order.ts';
import { collectionsByStart, placesWithin } from '../analysis/row-orders.ts';
import { orderBy } from '../base/order-by.ts';
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

/**
 * The ledger of a span; of what is at one instant, births come first, then flows, collections and marks. Linear in what
 * is in the span, and in flows, once births are in order.
 */
export function ledgerOf(
  recording: Recording,
  span: Span,
  { chosen = null, kinds: wanted }: LedgerChoice = {},
): Ledger {
  const { objects, collections, marks, flows } = recording.tables;
  const has = (kind: LineKind): boolean => wanted?.has(kind) ?? true;
  const others = inOrder([
    linesOf(LedgerKind.flow, flows.col.fromMs, has('flow') ? chosenFlows(recording, span, chosen) : NONE),
    linesOf(LedgerKind.collection, collections.col.startMs, has('collection') ? begun(recording, span) : NONE),
    linesOf(LedgerKind.mark, marks.col.tMs, has('mark') ? marked(recording, span) : NONE),
  ]);
  const births = has('object') ? chosenBirths(recording, span, chosen) : NONE;
  return merged(births, objects.col.bornMs, others);
}

const NONE = new Uint32Array(0);

function emptyLedger(count: number): Ledger {
  return { tMs: new Float64Array(count), kind: new Uint8Array(count), row: new Uint32Array(count) };
}

function linesOf(kind: LedgerKindCode, atMs: Float64Array, row: Uint32Array): Ledger {
  const tMs = new Float64Array(row.length);
  for (let place = 0; place < row.length; place++) tMs[place] = atMs[row[place]!]!;
  return { tMs, kind: new Uint8Array(row.length).fill(kind), row };
}

function chosenBirths(recording: Recording, span: Span, chosen: OriginChoice): Uint32Array {
  const { originId } = recording.tables.objects.col;
  const rows = bornWithin(recording, span);
  return chosen === null ? rows : rows.filter((row) => chosen[originId[row]!] === 1);
}

function chosenFlows({ tables: { flows } }: Recording, span: Span, chosen: OriginChoice): Uint32Array {
  const { fromMs, originId } = flows.col;
  return Uint32Array.from({ length: flows.length }, (_, row) => row).filter(
    (row) => contains(span, fromMs[row]!) && (chosen === null || chosen[originId[row]!] === 1),
  );
}

function begun(recording: Recording, span: Span): Uint32Array {
  const order = collectionsByStart(recording);
  return order.rows.subarray(...placesWithin(order, span.fromMs, span.toMs));
}

function marked({ tables: { marks } }: Recording, span: Span): Uint32Array {
  return Uint32Array.from({ length: marks.length }, (_, row) => row).filter((row) =>
    contains(span, marks.col.tMs[row]!),
  );
}

function inOrder(parts: readonly Ledger[]): Ledger {
  const count = parts.reduce((sum, part) => sum + part.row.length, 0);
  const together = emptyLedger(count);
  let from = 0;
  for (const part of parts) {
    together.tMs.set(part.tMs, from);
    together.kind.set(part.kind, from);
    together.row.set(part.row, from);
    from += part.row.length;
  }
  const order = orderBy(together.tMs);
  const ordered = emptyLedger(count);
  for (let place = 0; place < count; place++) {
    ordered.tMs[place] = together.tMs[order[place]!]!;
    ordered.kind[place] = together.kind[order[place]!]!;
    ordered.row[place] = together.row[order[place]!]!;
  }
  return ordered;
}

// Births, in order, and all else, in order.
function merged(births: Uint32Array, bornMs: Float64Array, others: Ledger): Ledger {
  const ledger = emptyLedger(births.length + others.row.length);
  let place = 0;
  let other = 0;
  for (let at = 0; at <= births.length; at++) {
    const born = at < births.length ? bornMs[births[at]!]! : Infinity;
    for (; other < others.row.length && (others.tMs[other]! < born || at === births.length); other++, place++) {
      ledger.tMs[place] = others.tMs[other]!;
      ledger.kind[place] = others.kind[other]!;
      ledger.row[place] = others.row[other]!;
    }
    if (at === births.length) break;
    ledger.tMs[place] = born;
    ledger.kind[place] = LedgerKind.birth;
    ledger.row[place++] = births[at]!;
  }
  return ledger;
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
