import { z } from 'zod';
import { promotionFigures } from '../analysis/allocation.ts';
import { MOST_THROUGH } from '../analysis/survival/life-classes.ts';
import { contains } from '../base/span.ts';
import { chargeGroups } from '../model/charge.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { Look, Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords } from './key-words.ts';
import { classesIn } from './lifetimes.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** What a key puts into the old space. */
export interface PromotionRow extends KeyWords {
  readonly promotedBytes: number;
  readonly promotedBytesSe: number;
  /** Of that, what is dead by the end of the span. */
  readonly deadBytes: number;
  readonly samples: number;
}

/** Survivors of one age over the span's collections that print them. */
export interface AgeRow {
  /** Collections lived through. */
  readonly age: number;
  /** Mean bytes of that age at a collection, and at how many. */
  readonly meanBytes: number;
  readonly times: number;
}

/** What keys put into the old space, held against what collections promoted. */
export interface PromotionAnswer {
  readonly rows: readonly PromotionRow[];
  readonly keyCount: number;
  /** Collections that an object is taken to live through before it is promoted. */
  readonly after: number;
  /** `measured`: the number under which the keys' sum is nearest to what collections promoted. */
  readonly afterFrom: 'measured' | 'assumed';
  readonly sumBytes: number;
  readonly sumBytesSe: number;
  /** What the collections themselves promoted; null where none tells. */
  readonly measuredBytes: number | null;
  /** Age tables of the collector's log; empty where it prints none. */
  readonly ages: readonly AgeRow[];
}

const MOST_ROWS = 500;
/** Of a runtime that says nothing: most promote what was copied once. */
const ASSUMED = 2;
/** Further off than this factor, what collections say they promoted is another thing. */
const NEAR = 2;

function promotionOf(subject: Subject, look: Look): PromotionAnswer {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const classes = classesIn(subject, look);
  const { keys } = chargeGroups(recording, look.charge);
  const sumAt = (through: number, column = classes.through): number => {
    let sum = 0;
    for (let group = 0; group < classes.groups; group++) sum += column[group * (MOST_THROUGH + 1) + through]!;
    return sum;
  };
  const isWhole = look.find === '' && recording.chosenHeaps === null;
  const measured = promotionFigures(recording, span)?.totalBytes ?? null;
  const fitted = measured !== null && isWhole && measured > 0 ? nearest(sumAt, measured) : null;
  const after = fitted ?? ASSUMED;
  const at = (group: number): number => group * (MOST_THROUGH + 1) + after;
  const groups = Uint32Array.from({ length: classes.groups }, (_, group) => group)
    .filter((group) => classes.through[at(group)]! > 0)
    .sort((a, b) => classes.through[at(b)]! - classes.through[at(a)]! || a - b);
  const rows = Array.from(groups.subarray(0, MOST_ROWS), (group) => ({
    ...keyWords(recording, look.charge, keys[group]!),
    promotedBytes: classes.through[at(group)]!,
    promotedBytesSe: Math.sqrt(classes.throughVariance[at(group)]!),
    deadBytes: classes.throughDead[at(group)]!,
    samples: classes.samples[group]!,
  }));
  return {
    rows,
    keyCount: groups.length,
    after,
    afterFrom: fitted === null ? 'assumed' : 'measured',
    sumBytes: sumAt(after),
    sumBytesSe: Math.sqrt(sumAt(after, classes.throughVariance)),
    measuredBytes: measured,
    ages: ageRows(subject, look),
  };
}

// The number of collections under which the sum comes nearest, by its ratio; null where none comes near: much was moved
// by collections that do not say so.
function nearest(sumAt: (through: number) => number, measured: number): number | null {
  const off = (sum: number): number => Math.abs(Math.log(Math.max(1, sum) / measured));
  let best = 1;
  for (let through = 1; through <= MOST_THROUGH; through++) {
    if (off(sumAt(through)) < off(sumAt(best))) best = through;
  }
  return off(sumAt(best)) > Math.log(NEAR) ? null : best;
}

function ageRows(subject: Subject, look: Look): AgeRow[] {
  const span = subject.spanOf(look);
  const { ages, collections } = subject.recording.tables;
  const sums = new Map<number, { bytes: number; times: number }>();
  for (let row = 0; row < ages.length; row++) {
    if (!contains(span, collections.col.startMs[ages.col.collectionRow[row]!]!)) continue;
    const age = ages.col.age[row]!;
    const sum = sums.get(age) ?? { bytes: 0, times: 0 };
    sum.bytes += ages.col.bytes[row]!;
    sum.times++;
    sums.set(age, sum);
  }
  return [...sums]
    .map(([age, { bytes, times }]) => ({ age, meanBytes: bytes / times, times }))
    .sort((a, b) => a.age - b.age);
}

/** What keys put into the old space. */
export const promotion = measure({
  name: 'promotion',
  title: 'what keys put into the old space, held against what collections promoted; age tables of a log',
  ask: z.strictObject(LOOK_ASK),
  answer: (side, ask): PromotionAnswer => promotionOf(side.found(ask), side.look(ask)),
  table: {
    rows: (answer: PromotionAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'promoted', unit: 'bytes', cell: (row: PromotionRow) => row.promotedBytes },
      { head: 'promoted ±', unit: 'bytes', cell: (row: PromotionRow) => Z_95 * row.promotedBytesSe },
      { head: 'of it dead', unit: 'bytes', cell: (row: PromotionRow) => row.deadBytes },
    ],
  },
});
