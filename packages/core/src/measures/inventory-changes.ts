import { z } from 'zod';
import {
  type ChangedKey,
  inventoryChanges as changesOf,
  type KeyAmounts,
} from '../analysis/holding/inventory-changes.ts';
import { commonHolder } from '../analysis/holding/holding.ts';
import { HELD_BY, type HeldBy } from '../analysis/holding/object-sets.ts';
import { formatBytes } from '../base/units.ts';
import { readHoldingFind } from '../query/find-holding.ts';
import type { StudySide } from '../study/study.ts';
import { HOLDING, inventoryAt, SETS } from './inventory-pieces.ts';
import { pairMeasure } from './measure.ts';

/** A key in two inventories, with who holds it in both. */
export interface ChangedHolding extends ChangedKey {
  /** The reference that keeps nearly all of it, where that is the same in both; '' elsewhere. */
  readonly holder: string;
}

/** What came, what went and what grew between two inventories. */
export interface InventoryChangesAnswer {
  readonly rows: readonly ChangedHolding[];
  readonly count: number;
  /** Collections that only grew, and who holds them, in sentences; those of the program's own types first. */
  readonly growing: readonly string[];
  readonly notes: readonly string[];
  readonly problem: string;
  /** Why there is nothing to tell; '' where there is. */
  readonly missing: string;
}

interface ChangesAsk {
  readonly charge: HeldBy;
  readonly find: string;
  readonly most: number;
  readonly atA: number | null;
  readonly atB: number | null;
}

/** Of so many rows the holder is looked for, of large inventories fewer: each takes a pass over objects and references. */
const MOST_HOLDERS = 60;
const LEAST_HOLDERS = 4;
const MOST_WORK = 2e8;
/** Growth of less is nothing to speak of. */
const LEAST_GROWTH = 1.1;
const LEAST_BYTES = 64 * 1024;
const MOST_KEYS = 500;

function changes(a: StudySide, b: StudySide, ask: ChangesAsk): InventoryChangesAnswer {
  const { problem } = readHoldingFind(ask.find);
  const nothing = { rows: [], count: 0, growing: [], notes: [], problem };
  const [inA, inB] = [inventoryAt(a.subject, ask.atA), inventoryAt(b.subject, ask.atB)];
  if (inA.inventory === null) return { ...nothing, missing: `A: ${inA.missing}` };
  if (inB.inventory === null) return { ...nothing, missing: `B: ${inB.missing}` };
  if (inA.inventory === inB.inventory)
    return { ...nothing, missing: 'A and B are one inventory: expected two, one taken later' };
  const sideOf = ({ subject }: StudySide, at: number) => ({
    holding: subject.get(HOLDING, at),
    sets: subject.get(SETS, { at, charge: ask.charge, find: ask.find }),
  });
  const [sideA, sideB] = [sideOf(a, inA.at), sideOf(b, inB.at)];
  const { rows, count, byNumber } = changesOf(sideA, sideB, ask.most);
  const work = [sideA, sideB].reduce((sum, { holding: { graph } }) => sum + graph.objects + graph.edgeTo.length, 1);
  const holders = Math.min(MOST_HOLDERS, Math.max(LEAST_HOLDERS, Math.floor(MOST_WORK / work)));
  const told = rows.map((row, at) => ({ ...row, holder: at < holders ? sameHolder(sideA, sideB, row.key) : '' }));
  return {
    rows: told,
    count,
    growing: [...told.filter(({ isOwn }) => isOwn), ...told.filter(({ isOwn }) => !isOwn)]
      .filter(grows)
      .map(growthSentence),
    notes: [
      byNumber
        ? 'Objects are followed one by one, by the numbers that the runtime gives them.'
        : 'Objects cannot be followed one by one: a JVM moves them, and V8 keeps their numbers only where that was asked for. What came is what there is more of.',
    ],
    problem,
    missing: '',
  };
}

type SideParts = Parameters<typeof changesOf>[0];

function sameHolder(a: SideParts, b: SideParts, key: string): string {
  const [of, ofB] = [a, b].map(({ holding, sets }) => commonHolder(holding, sets, sets.keys.indexOf(key)));
  if (!of || !ofB || of.reference === '' || of.reference !== ofB.reference) return '';
  return of.reference;
}

function grows({ a, b, holder }: ChangedHolding): boolean {
  const isMore = (of: (amounts: KeyAmounts) => number): boolean => of(b) > LEAST_GROWTH * of(a);
  return (
    holder !== '' &&
    a.objects > 0 &&
    isMore(({ objects }) => objects) &&
    b.heldBytes - a.heldBytes >= LEAST_BYTES &&
    isMore(({ heldBytes }) => heldBytes)
  );
}

function growthSentence({ key, a, b, holder, went }: ChangedHolding): string {
  const only = went === 0 ? ' Not one went.' : '';
  return `${holder} grew from ${a.objects.toLocaleString('en')} to ${b.objects.toLocaleString('en')} ${key} (${formatBytes(a.heldBytes)} to ${formatBytes(b.heldBytes)} held).${only}`;
}

/** What came, what went, and whose held bytes grew between two inventories. */
export const inventoryChanges = pairMeasure({
  name: 'inventoryChanges',
  title: 'two inventories: what came, what went, whose held bytes grew, and which collections only grow',
  needs: 'anything',
  ask: z.strictObject({
    charge: z.enum(HELD_BY).default('type').describe('what objects are told together by'),
    find: z.string().max(2000).default('').describe('which objects, as of `holding`; empty for all'),
    most: z.number().int().min(1).max(MOST_KEYS).default(20).describe('how many keys at most'),
    atA: z.number().int().min(0).nullable().default(null).describe('which inventory of A, from 0; null for the last'),
    atB: z.number().int().min(0).nullable().default(null).describe('which inventory of B, from 0; null for the last'),
  }),
  answer: (a, b, ask): InventoryChangesAnswer => changes(a, b, ask),
  table: {
    rows: (answer: InventoryChangesAnswer) => answer.rows,
    columns: [
      { head: 'key', cell: (row: ChangedHolding) => row.key },
      { head: 'objects A', cell: (row: ChangedHolding) => row.a.objects },
      { head: 'objects B', cell: (row: ChangedHolding) => row.b.objects },
      { head: 'held A', cell: (row: ChangedHolding) => row.a.heldBytes, unit: 'bytes' },
      { head: 'held B', cell: (row: ChangedHolding) => row.b.heldBytes, unit: 'bytes' },
      { head: 'kept by', cell: (row: ChangedHolding) => row.holder },
    ],
  },
});
