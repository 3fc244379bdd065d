import { spanLengthMs, type Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { differenceOf, type Estimate, UNKNOWN, withError } from '../../stats/estimate.ts';
import { holm } from '../../stats/holm.ts';
import type { ChargeFigures } from '../charge-figures.ts';
import type { ChargeTable } from '../charge-table.ts';
import { type KeyPair, matchKeys, type MatchedBy } from './match-keys.ts';
import type { NameRules } from './name-rules.ts';

/** What of a key is compared: what it adds to the floor a second, what it allocates a second, or what it keeps. */
export const COMPARED = ['growth', 'allocated', 'kept'] as const;
export type Compared = (typeof COMPARED)[number];

/** One side's keys, with what they are counted over. */
export interface SideKeys {
  readonly recording: Recording;
  readonly table: ChargeTable | null;
  /** Time in which births were seen. */
  readonly seenMs: number;
  readonly span: Span;
}

/** A key of both sides or of one, and how it differs in what is compared. */
export interface KeyChange {
  /** The keys' ids, each of its own recording; null where the side has none. */
  readonly a: ChargeFigures | null;
  readonly b: ChargeFigures | null;
  readonly state: 'both' | 'new' | 'gone';
  readonly by: MatchedBy | null;
  readonly growth: readonly [Estimate, Estimate];
  readonly allocated: readonly [Estimate, Estimate];
  readonly kept: readonly [Estimate, Estimate];
  readonly difference: number;
  readonly low: number;
  readonly high: number;
  /** Surely different, all keys of the table being tested together. */
  readonly clear: boolean;
}

/** A side that has no such key had nothing of it: what is sampled may be missed, which the other side's error allows. */
const NOTHING: Estimate = { value: 0, low: 0, high: 0 };

/**
 * How keys differ, the greatest difference first, those that are clear before those that are not. Linear in keys but for
 * sorts. What is kept is told as it is, what grows and is allocated a second.
 */
export function compareKeys(
  a: SideKeys,
  b: SideKeys,
  charge: ChargeTable['charge'],
  { of, rules }: { readonly of: Compared; readonly rules: NameRules },
): KeyChange[] {
  const [rowsA, rowsB] = [rowsOf(a), rowsOf(b)];
  const pairs = matchKeys([a.recording, [...rowsA.keys()]], [b.recording, [...rowsB.keys()]], charge, rules);
  const changes = pairs.map((pair) => changeOf(pair, [rowsA, rowsB], [a, b], of));
  const clear = holm(changes.map(({ pValue }) => pValue));
  return changes
    .map(({ pValue: _tested, ...change }, at) => ({ ...change, clear: clear[at]! }))
    .sort(
      (x, y) =>
        Number(y.clear) - Number(x.clear) ||
        (Math.abs(y.difference) || 0) - (Math.abs(x.difference) || 0) ||
        weightOf(y) - weightOf(x),
    );
}

function weightOf({ a, b }: KeyChange): number {
  return (a?.allocBytes ?? 0) + (b?.allocBytes ?? 0);
}

function rowsOf({ table }: SideKeys): Map<number, ChargeFigures> {
  return new Map((table?.rows ?? []).map((row) => [row.key, row]));
}

function changeOf(
  { a: keyA, b: keyB, by }: KeyPair,
  [rowsA, rowsB]: readonly [ReadonlyMap<number, ChargeFigures>, ReadonlyMap<number, ChargeFigures>],
  [sideA, sideB]: readonly [SideKeys, SideKeys],
  of: Compared,
): Omit<KeyChange, 'clear'> & { readonly pValue: number } {
  const a = keyA === null ? null : rowsA.get(keyA)!;
  const b = keyB === null ? null : rowsB.get(keyB)!;
  const figures = {
    growth: [growthOf(a), growthOf(b)],
    allocated: [allocatedOf(a, sideA), allocatedOf(b, sideB)],
    kept: [keptOf(a), keptOf(b)],
  } as const;
  return {
    a,
    b,
    by,
    state: a === null ? 'new' : b === null ? 'gone' : 'both',
    ...figures,
    ...differenceOf(...figures[of]),
  };
}

function growthOf(row: ChargeFigures | null): Estimate {
  return row === null ? NOTHING : { value: row.growthBytesPerSec, low: row.growthLow, high: row.growthHigh };
}

function allocatedOf(row: ChargeFigures | null, { seenMs, span }: SideKeys): Estimate {
  if (row === null) return NOTHING;
  const seconds = Math.max(1, seenMs > 0 ? seenMs : spanLengthMs(span)) / 1000;
  return seconds > 0 ? withError(row.allocBytes / seconds, row.allocBytesSe / seconds) : UNKNOWN;
}

function keptOf(row: ChargeFigures | null): Estimate {
  return row === null ? NOTHING : withError(row.keptBytes, row.keptBytesSe);
}
