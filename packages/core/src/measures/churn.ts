import { z } from 'zod';
import { birthsSeenMs } from '../analysis/births-seen.ts';
import type { ChargeFigures } from '../analysis/charge-figures.ts';
import { type MedianLifetime, medianLifetimes } from '../analysis/median-lifetimes.ts';
import { youngCaused } from '../analysis/young-fill.ts';
import { type Charge, type ChargeGroups, chargeGroups } from '../model/charge.ts';
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
  const shown = rows.slice(0, MOST_ROWS);
  const { causes, lifetimes } = subject.get(CHURN, {
    ...foundInput(look),
    charge: look.charge,
    keys: shown.map(({ key }) => key),
  });
  return {
    keyCount: rows.length,
    collections: fill.collections,
    seenMs: birthsSeenMs(recording, span),
    rows: shown.map(rowOf),
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

type ChurnInput = FoundInput & { readonly charge: Charge; readonly keys: readonly number[] };

// What some keys caused, and how long what they allocated lived: a recording may have very many of them.
const CHURN = piece('churn', (subject: Subject, input: ChurnInput) => {
  const groups = groupsOfKeys(chargeGroups(subject.recording, input.charge), input.keys);
  const found = subject.chosen(input.find);
  const chosen = Uint8Array.from(groups.groupOf, (group, origin) =>
    group < input.keys.length && (found === null || found[origin] === 1) ? 1 : 0,
  );
  const of = { chosen, flows: subject.flows(input) };
  const caused = youngCaused(subject.recording, subject.fill(input), groups, of);
  const medians = medianLifetimes(subject.recording, subject.spanOf(input), groups, of);
  return {
    causes: new Map(input.keys.map((key, group) => [key, caused[group]!])),
    lifetimes: new Map(input.keys.map((key, group) => [key, medians[group]!])),
  };
});

// Groups of these keys alone, in their order; of other origins the group is one behind the last.
function groupsOfKeys({ groupOf, keys }: ChargeGroups, wanted: readonly number[]): ChargeGroups {
  const place = new Map(wanted.map((key, at) => [key, at]));
  const placeOf = Uint32Array.from(keys, (key) => place.get(key) ?? wanted.length);
  return { groupOf: groupOf.map((group) => placeOf[group]!), keys: Uint32Array.from(wanted) };
}

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
