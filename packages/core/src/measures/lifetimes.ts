import { z } from 'zod';
import { type LifeClasses, lifeClasses } from '../analysis/survival/life-classes.ts';
import { type Charge, chargeGroups } from '../model/charge.ts';
import { formatBytes, formatPercent } from '../base/units.ts';
import { Z_95 } from '../stats/z-95.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { livesIn } from './survival.ts';

/** How the objects of a key go, in bytes of what was born in the span. */
export interface LifetimeRow extends KeyWords {
  readonly bytes: number;
  readonly bytesSe: number;
  /** Dead before a collection was lived through. */
  readonly soonBytes: number;
  readonly soonBytesSe: number;
  /** Lived through one or more, and died. */
  readonly middleBytes: number;
  readonly middleBytesSe: number;
  /** Alive when last seen. */
  readonly lastingBytes: number;
  readonly lastingBytesSe: number;
  /** What collections copied of it, about: bytes times the collections lived through, 16 at most. */
  readonly copiedBytes: number;
  /** What of it lives adds to the floor, surely. */
  readonly grows: boolean;
  readonly samples: number;
  /** What to look at, in a few words; '' for nothing. */
  readonly advice: string;
}

/** How keys' objects go, the expensive middle first. */
export interface LifetimesAnswer {
  readonly rows: readonly LifetimeRow[];
  readonly keyCount: number;
  /** Collections of the span; with none no class can be told. */
  readonly collections: number;
  /** Sums over all keys. */
  readonly all: Pick<LifetimeRow, 'bytes' | 'soonBytes' | 'middleBytes' | 'lastingBytes' | 'copiedBytes'>;
}

const MOST_ROWS = 500;
/** A key whose part of the expensive middle is below this is not worth a word. */
const WORTH_RATIO = 0.1;
const LEAST_SAMPLES = 5;

const CLASSES = piece(
  'life classes',
  (subject: Subject, { charge, ...input }: FoundInput & { readonly charge: Charge }): LifeClasses => {
    const groups = chargeGroups(subject.recording, charge);
    const lives = livesIn(subject, { ...input, charge }, 'bytes', 'collections');
    return lifeClasses(lives, groups.keys.length, groups.groupOf);
  },
  2,
);

/** How the lives of each key of a charge went, in the order of the charge's groups. */
export function classesIn(subject: Subject, look: Look): LifeClasses {
  return subject.get(CLASSES, { ...foundInput(look), charge: look.charge });
}

function lifetimesOf(subject: Subject, look: Look): LifetimesAnswer {
  const { recording } = subject;
  const { keys } = chargeGroups(recording, look.charge);
  const classes = classesIn(subject, look);
  const growing = new Set(
    subject
      .table(look)
      .rows.filter((row) => row.growthLow > 0)
      .map(({ key }) => key),
  );
  const { soon, middle, lasting, copied } = classes;
  const bytesOf = (group: number): number => soon[group]! + middle[group]! + lasting[group]!;
  const soonBytes = sumOf(soon);
  const middleBytes = sumOf(middle);
  const bytes = soonBytes + middleBytes + sumOf(lasting);
  const all = { bytes, soonBytes, middleBytes, lastingBytes: sumOf(lasting), copiedBytes: sumOf(copied) };
  const groups = Uint32Array.from({ length: classes.groups }, (_, group) => group).filter(
    (group) => bytesOf(group) > 0,
  );
  groups.sort((a, b) => middle[b]! - middle[a]! || bytesOf(b) - bytesOf(a) || a - b);
  // Of those that are shown alone: a recording may have very many keys.
  const rows = Array.from(groups.subarray(0, MOST_ROWS), (group) =>
    rowOf(classes, group, keyWords(recording, look.charge, keys[group]!), growing.has(keys[group]!), all),
  );
  return { rows, keyCount: groups.length, collections: collectionsIn(subject, look), all };
}

function sumOf(column: Float64Array): number {
  return column.reduce((sum, each) => sum + each, 0);
}

function rowOf(
  classes: LifeClasses,
  group: number,
  words: KeyWords,
  grows: boolean,
  all: LifetimesAnswer['all'],
): LifetimeRow {
  const [soon, middle, lasting] = [classes.soon[group]!, classes.middle[group]!, classes.lasting[group]!];
  const [soonVariance, middleVariance] = [classes.soonVariance[group]!, classes.middleVariance[group]!];
  const lastingVariance = classes.lastingVariance[group]!;
  const [copied, samples] = [classes.copied[group]!, classes.samples[group]!];
  return {
    ...words,
    bytes: soon + middle + lasting,
    bytesSe: Math.sqrt(soonVariance + middleVariance + lastingVariance),
    soonBytes: soon,
    soonBytesSe: Math.sqrt(soonVariance),
    middleBytes: middle,
    middleBytesSe: Math.sqrt(middleVariance),
    lastingBytes: lasting,
    lastingBytesSe: Math.sqrt(lastingVariance),
    copiedBytes: copied,
    grows,
    samples,
    advice: adviceFor({ soon, middle, lasting, copied, samples, grows }, all),
  };
}

interface KeyLives {
  readonly soon: number;
  readonly middle: number;
  readonly lasting: number;
  readonly copied: number;
  readonly samples: number;
  readonly grows: boolean;
}

// What a key's lives are worth a look for. Figures are what was counted; what a change would save is at most that.
function adviceFor(of: KeyLives, all: LifetimesAnswer['all']): string {
  if (of.samples < LEAST_SAMPLES) return '';
  if (of.grows) return 'grows: look who holds it';
  const copied = `${formatBytes(of.copied)} copied`;
  if (of.middle >= WORTH_RATIO * all.middleBytes && of.middle > of.lasting)
    return `lives through collections and dies: dropping it sooner, or pooling it, saves up to ${copied}`;
  if (of.lasting > of.soon + of.middle && of.copied >= WORTH_RATIO * all.copiedBytes)
    return `lasts: made where it is to stay (pretenured), it saves up to ${copied}`;
  if (of.soon >= WORTH_RATIO * all.soonBytes)
    return `${formatPercent(of.soon / Math.max(1, of.soon + of.middle + of.lasting))} dies at once: only allocating less of it helps`;
  return '';
}

function collectionsIn(subject: Subject, look: Look): number {
  const { fromMs, toMs } = subject.spanOf(look);
  const { length, col } = subject.recording.tables.collections;
  let count = 0;
  for (let row = 0; row < length; row++) if (col.endMs[row]! >= fromMs && col.endMs[row]! < toMs) count++;
  return count;
}

/** How the objects of keys go. */
export const lifetimes = measure({
  name: 'lifetimes',
  title: 'how the objects of keys go: dead before a collection, after some, or lasting, and what to look at',
  needs: 'objects',
  ask: z.strictObject(LOOK_ASK),
  answer: (side, ask): LifetimesAnswer => lifetimesOf(side.found(ask), side.look(ask)),
  table: {
    rows: (answer: LifetimesAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'allocated', unit: 'bytes', cell: (row: LifetimeRow) => row.bytes },
      { head: 'allocated ±', unit: 'bytes', cell: (row: LifetimeRow) => Z_95 * row.bytesSe },
      { head: 'dies soon', unit: 'bytes', cell: (row: LifetimeRow) => row.soonBytes },
      { head: 'lives through some', unit: 'bytes', cell: (row: LifetimeRow) => row.middleBytes },
      { head: 'lasts', unit: 'bytes', cell: (row: LifetimeRow) => row.lastingBytes },
      { head: 'copied', unit: 'bytes', cell: (row: LifetimeRow) => row.copiedBytes },
      { head: 'to look at', cell: (row: LifetimeRow) => row.advice },
    ],
  },
});
