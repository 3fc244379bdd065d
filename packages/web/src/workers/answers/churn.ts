import {
  birthsSeenMs,
  chargeGroups,
  medianLifetimes,
  youngCaused,
  type ChargeFigures,
  type MedianLifetime,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { keyWords, typeWord, type KeyWords } from './key-words.ts';

/** How fast a key allocates, how soon that dies, and what it makes the collector do. */
export interface ChurnRow extends KeyWords {
  readonly key: number;
  readonly type: string | null;
  readonly allocBytes: number;
  readonly allocBytesSe: number;
  /** Bytes dead by the span's end, of those of which it is known. */
  readonly diedBytes: number;
  /** Null for a key of which nothing was seen to be born in the span. */
  readonly lifetime: MedianLifetime | null;
  /** Young collections it caused, with their standard error from sampling; NaN where there are none. */
  readonly caused: number;
  readonly causedSe: number;
  readonly samples: number;
}

/** Keys by the rate at which they allocate. */
export interface ChurnAnswer {
  readonly rows: readonly ChurnRow[];
  readonly keyCount: number;
  /** Young collections of the program in the span. */
  readonly collections: number;
  /** Part of the span in which births could be seen: what rates are per. */
  readonly seenMs: number;
}

const MOST_ROWS = 200;

export function churnOf(evidence: Evidence, look: Look): ChurnAnswer {
  const { recording } = evidence;
  const span = evidence.spanOf(look);
  const rows = [...evidence.table(look).rows]
    .filter((row) => row.allocBytes > 0)
    .sort((a, b) => b.allocBytes - a.allocBytes);
  const fill = evidence.fill(look);
  const { causes, lifetimes } = evidence.once('churn', `${evidence.keyOf(look)} ${look.charge}`, () => {
    const groups = chargeGroups(recording, look.charge);
    const of = { chosen: evidence.chosen(look.find), flows: evidence.flows(look) };
    const [caused, medians] = [youngCaused(recording, fill, groups, of), medianLifetimes(recording, span, groups, of)];
    return {
      causes: new Map(Array.from(groups.keys, (key, group) => [key, caused[group]!])),
      lifetimes: new Map(Array.from(groups.keys, (key, group) => [key, medians[group]!])),
    };
  });
  return {
    keyCount: rows.length,
    collections: fill.collections,
    seenMs: birthsSeenMs(recording, span),
    rows: rows.slice(0, MOST_ROWS).map(rowOf),
  };

  function rowOf(row: ChargeFigures): ChurnRow {
    const { key, allocBytes, allocBytesSe, diedBytes, samples } = row;
    const caused = fill.collections === 0 ? NaN : (causes.get(key) ?? 0);
    return {
      key,
      allocBytes,
      allocBytesSe,
      diedBytes,
      samples,
      ...keyWords(recording, look.charge, key),
      type: typeWord(recording, row.typeId),
      lifetime: lifetimes.get(key) ?? null,
      caused,
      causedSe: caused * (allocBytesSe / allocBytes),
    };
  }
}
