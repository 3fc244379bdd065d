import { z } from 'zod';
import { birthsSeenMs } from '../analysis/births-seen.ts';
import type { ChargeFigures } from '../analysis/charge-table.ts';
import { type MedianLifetime, medianLifetimes } from '../analysis/median-lifetimes.ts';
import { youngCaused } from '../analysis/young-fill.ts';
import { type Charge, chargeGroups } from '../model/charge.ts';
import { Z_95 } from '../stats/z-95.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords, typeWord } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** How fast a key allocates, how soon that dies, and what it makes the collector do. */
export interface ChurnRow extends KeyWords {
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

/** Answers `churn` of a subject that the look was found in. */
export function churnOf(subject: Subject, look: Look): ChurnAnswer {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const rows = [...subject.table(look).rows]
    .filter((row) => row.allocBytes > 0)
    .sort((a, b) => b.allocBytes - a.allocBytes);
  const fill = subject.fill(look);
  const { causes, lifetimes } = subject.get(CHURN, { ...foundInput(look), charge: look.charge });
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

// What each key caused, and how long what it allocated lived.
const CHURN = piece('churn', (subject: Subject, input: FoundInput & { readonly charge: Charge }) => {
  const groups = chargeGroups(subject.recording, input.charge);
  const of = { chosen: subject.chosen(input.find), flows: subject.flows(input) };
  const caused = youngCaused(subject.recording, subject.fill(input), groups, of);
  const medians = medianLifetimes(subject.recording, subject.spanOf(input), groups, of);
  return {
    causes: new Map(Array.from(groups.keys, (key, group) => [key, caused[group]!])),
    lifetimes: new Map(Array.from(groups.keys, (key, group) => [key, medians[group]!])),
  };
});

/** How fast keys allocate, how soon that dies, and what it makes the collector do. */
export const churn = measure({
  name: 'churn',
  title: 'how fast keys allocate, how long that lives, and the collections that it causes',
  needs: 'objects',
  ask: z.strictObject(LOOK_ASK),
  answer: (side, ask): ChurnAnswer => churnOf(side.found(ask), side.look(ask)),
  table: {
    rows: (answer: ChurnAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'allocated', unit: 'bytes', cell: (row: ChurnRow) => row.allocBytes },
      { head: 'allocated ±', unit: 'bytes', cell: (row: ChurnRow) => Z_95 * row.allocBytesSe },
      { head: 'died', unit: 'bytes', cell: (row: ChurnRow) => row.diedBytes },
      { head: 'young collections caused', cell: (row: ChurnRow) => row.caused },
    ],
  },
});
