import { z } from 'zod';
import {
  type CommonHolder,
  commonHolder,
  type HeldSet,
  heldSets,
  type HeldWay,
  heldWays,
  type Holding,
  type ObjectSets,
} from '../analysis/holding/holding.ts';
import { type Around, aroundOf } from '../analysis/holding/around.ts';
import { type OneObject, oneObject } from '../analysis/holding/one-object.ts';
import { HELD_BY, type HeldBy, isByBirth } from '../analysis/holding/object-sets.ts';
import { sampledSets } from '../analysis/holding/sampled-sets.ts';
import { Z_95 } from '../stats/z-95.ts';
import { formatBytes } from '../base/units.ts';
import type { Inventory } from '../model/heap-graph.ts';
import { readHoldingFind } from '../query/find-holding.ts';
import type { Subject } from '../study/subject.ts';
import { BIRTHS, HOLDING, inventoryAt, ONE, SETS } from './inventory-pieces.ts';
import { measure } from './measure.ts';

/** Objects of one key of an inventory, what they hold, and why they stay. */
export interface HeldGroup extends HeldSet {
  readonly shareRatio: number;
  readonly ways: readonly HeldWay[];
  readonly holder: CommonHolder | null;
  readonly sentence: string;
}

/** One inventory of those that were taken. */
export interface TakenInventory {
  readonly tMs: number;
  readonly heap: string;
  readonly takenEpochMs: number;
  /** How long the program stood still for it; NaN where that is not known. */
  readonly pauseMs: number;
  readonly objects: number;
  /** Objects in it whose birth was recorded. */
  readonly sampled: number;
}

/** What stays in a heap, and what keeps it. */
export interface HoldingAnswer {
  /** The inventories there are, in the order they were taken, and which of them this is. */
  readonly inventories: readonly TakenInventory[];
  readonly at: number;
  /** Objects that can be reached, and their own bytes. */
  readonly objects: number;
  readonly ownBytes: number;
  readonly unreachable: { readonly objects: number; readonly ownBytes: number };
  readonly takenEpochMs: number;
  readonly groups: readonly HeldGroup[];
  readonly groupCount: number;
  /** What stands around the objects of the one key that was asked; null where all were. */
  readonly around: Around | null;
  /** The one object that was asked for, with its fields; null where none was. */
  readonly object: OneObject | null;
  /** What of the find could not be understood; '' when all was. */
  readonly problem: string;
  /** What is not known of it, in sentences. */
  readonly notes: readonly string[];
  /** Why there is nothing to tell; '' where there is. */
  readonly missing: string;
}

interface HoldingAsk {
  readonly charge: HeldBy;
  readonly find: string;
  readonly most: number;
  readonly ways: number;
  readonly key: string | null;
  readonly at: number | null;
  readonly around: boolean;
  readonly object: number | null;
}

/** Lines of each list around one key. */
const MOST_AROUND = 12;
/** Fields, and referrers, of one object. */
const MOST_FIELDS = 100;

function answerOf(subject: Subject, ask: HoldingAsk): HoldingAnswer {
  const taken = takenOf(subject);
  const { inventory, at, missing } = inventoryAt(subject, ask.at);
  if (inventory === null) return { ...NOTHING, inventories: taken, missing };
  const holding = subject.get(HOLDING, at);
  const { graph, dominators } = holding;
  const { problem } = readHoldingFind(ask.find);
  const sets = subject.get(SETS, { at, charge: ask.charge, find: ask.find });
  const one = ask.key === null ? null : subject.get(ONE, { at, charge: ask.charge, find: ask.find, key: ask.key });
  const { sets: groups, count } = groupsOf(holding, sets, ask, one?.told ?? null);
  const births = subject.get(BIRTHS, at);
  const ownBytes = dominators.heldBytes[0]!;
  const all = graph.ownBytes.reduce((sum, bytes) => sum + bytes, 0);
  return {
    inventories: taken,
    at,
    objects: dominators.reached - 1,
    ownBytes,
    unreachable: { objects: graph.objects - (dominators.reached - 1), ownBytes: all - ownBytes },
    takenEpochMs: inventory.takenEpochMs,
    groups: told(holding, sets, groups, ask.ways),
    groupCount: count,
    around:
      one === null || !ask.around
        ? null
        : aroundOf(holding, sets, { set: one.told.set, seen: one.seen }, births, MOST_AROUND),
    object:
      ask.object === null || !(ask.object < graph.objects) ? null : oneObject(holding, births, ask.object, MOST_FIELDS),
    problem,
    notes: notesOf(inventory, births.object.length),
    missing: isByBirth(ask.charge) && births.object.length === 0 ? NOT_JOINED : '',
  };
}

const NOT_JOINED =
  'of no object of this inventory it is known where it was allocated: a JVM tells it while it is recorded, Node does not';

function groupsOf(
  holding: Holding,
  sets: ObjectSets,
  { key, most }: HoldingAsk,
  one: HeldSet | null,
): { readonly sets: readonly HeldSet[]; readonly count: number } {
  if (sets.sampled !== null) {
    const all = sampledSets(holding, sets, key === null ? most : Infinity);
    if (key === null) return all;
    const found = all.sets.filter((each) => each.key === key);
    return { sets: found, count: found.length };
  }
  if (key === null) return heldSets(holding, sets, most);
  return one === null ? { sets: [], count: 0 } : { sets: [one], count: 1 };
}

function takenOf({ recording }: Subject): TakenInventory[] {
  return recording.inventories.map(({ tMs, heapId, takenEpochMs, pauseMs, graph, sampled }) => ({
    tMs,
    heap: recording.heaps[heapId]?.name ?? '',
    takenEpochMs,
    pauseMs,
    objects: graph.objects,
    sampled: sampled.object.length,
  }));
}

const NOTHING: HoldingAnswer = {
  inventories: [],
  at: -1,
  objects: 0,
  ownBytes: 0,
  unreachable: { objects: 0, ownBytes: 0 },
  takenEpochMs: NaN,
  groups: [],
  groupCount: 0,
  around: null,
  object: null,
  problem: '',
  notes: [],
  missing: '',
};

function told(holding: Holding, sets: ObjectSets, groups: readonly HeldSet[], mostWays: number): HeldGroup[] {
  const order = groups.map(({ set }) => set);
  const ways = mostWays === 0 ? [] : heldWays(holding, sets, order, mostWays);
  return groups.map((group, at) => {
    const holder = mostWays === 0 ? null : commonHolder(holding, sets, group.set);
    const own = scaledTo(group, ways[at] ?? []);
    const shareRatio = group.heldBytes / Math.max(1, holding.dominators.heldBytes[0]!);
    const told = { ...group, shareRatio, ways: own, holder, sentence: '' };
    return mostWays === 0 ? told : { ...told, sentence: sentenceOf(told, own, holder) };
  });
}

// Ways of samples are shares: of as many objects and bytes as there are thought to be.
function scaledTo({ sampled, objects, ownBytes }: HeldSet, ways: readonly HeldWay[]): readonly HeldWay[] {
  if (sampled === null) return ways;
  return ways.map((way) => ({
    ...way,
    objects: Math.round(way.shareRatio * objects),
    ownBytes: way.shareRatio * ownBytes,
  }));
}

/** From this share on, how many are not kept says more than the share. */
const ALL_BUT = 0.99;

function sentenceOf(group: HeldGroup, ways: readonly HeldWay[], holder: CommonHolder | null): string {
  const isOne = group.objects === 1;
  const who = whoWords(group, isOne);
  const { objects } = group;
  if (holder !== null) {
    const { reference, type, root, shareRatio, referrers } = holder;
    const more = referrers > 1 ? `, referred to by ${(referrers - 1).toLocaleString('en')} more` : '';
    const what = reference === '' ? type : `${reference} (${type}${more})`;
    const keeps = `stay${isOne ? 's' : ''} because ${what}, root: ${root}, keeps`;
    const others = Math.round((1 - shareRatio) * objects);
    if (isOne) return `${who} ${keeps} it; it is not reachable otherwise.`;
    if (others === 0) return `${who} ${keeps} them; none is reachable otherwise.`;
    return `${who} ${keeps} ${shareRatio < ALL_BUT ? percent(shareRatio) : `all but ${others.toLocaleString('en')}`} of them; the ${others === 1 ? 'other is' : 'others are'} reachable otherwise.`;
  }
  const first = ways[0];
  if (first === undefined) return `${who}: nothing keeps them.`;
  return `${who} ${isOne ? 'stays' : 'stay'} by several ways: the shortest of ${percent(first.shareRatio)} is ${first.steps.join(' → ')}; no single object keeps them.`;
}

function whoWords({ key, objects, ownBytes, heldBytes, heldIsExact, sampled }: HeldGroup, isOne: boolean): string {
  const held = heldBytes > ownBytes ? `, holding ${heldIsExact ? '' : 'at least '}${formatBytes(heldBytes)}` : '';
  const count = objects.toLocaleString('en');
  if (sampled === null) return `${count} ${key} ${isOne ? 'object' : 'objects'} (${formatBytes(ownBytes)}${held})`;
  const errors = `${formatBytes(ownBytes)} ± ${formatBytes(Z_95 * sampled.ownSe)}`;
  const judged = `judged by ${sampled.samples.toLocaleString('en')} that ${sampled.samples === 1 ? 'was' : 'were'} sampled`;
  const many = `${count} ± ${Math.round(Z_95 * sampled.objectsSe).toLocaleString('en')}`;
  return `About ${many} objects allocated at ${key} (${errors}${held === '' ? '' : `${held} ± ${formatBytes(Z_95 * sampled.heldSe)}`}; ${judged})`;
}

function percent(ratio: number): string {
  const percents = 100 * ratio;
  return `${percents > 0 && percents < 1 ? percents.toPrecision(1) : Math.round(percents)} %`;
}

function notesOf({ defects, notes, source, graph }: Inventory, sampled: number): string[] {
  return [
    ...defects,
    source === 'jvm'
      ? 'A JVM tells no sizes: they follow from the fields and from the distances of objects in memory.'
      : 'V8 tells which object refers to which; weak references are left out.',
    sampled === 0
      ? 'Which line allocated an object is not known of an inventory alone.'
      : `Which line allocated an object is known of ${sampled.toLocaleString('en')} of ${graph.objects.toLocaleString('en')}, those that were sampled.`,
    ...notes,
  ];
}

/** Who holds the objects of a heap, by an inventory of it. */
export const holding = measure({
  name: 'holding',
  title:
    'what stays in a heap and what keeps it, by an inventory: objects, held bytes, ways from the roots, a sentence',
  ask: z.strictObject({
    at: z.number().int().min(0).nullable().default(null).describe('which inventory, from 0; null for the last'),
    charge: z.enum(HELD_BY).default('type').describe('what objects are told together by'),
    find: z
      .string()
      .max(2000)
      .default('')
      .describe('which objects: words of types, `own>1MiB`, `held>10MiB`, `field=cache`, `site=alerts`; empty for all'),
    most: z.number().int().min(1).max(500).default(20).describe('how many keys at most'),
    ways: z
      .number()
      .int()
      .min(0)
      .max(100)
      .default(5)
      .describe('how many ways of each at most; 0 for none, and no sentence'),
    key: z.string().max(2000).nullable().default(null).describe('one key alone; null for those that hold most'),
    object: z
      .number()
      .int()
      .min(0)
      .nullable()
      .default(null)
      .describe('an object to be told with its fields, by its row'),
    around: z.boolean().default(true).describe('whether what stands around the objects of one key is told'),
  }),
  answer: (side, ask): HoldingAnswer => answerOf(side.subject, ask),
  contract: {
    schema: 'brisk-heron/holding@1',
    of: (answer: HoldingAnswer) => ({
      objects: answer.objects,
      ownBytes: answer.ownBytes,
      unreachable: answer.unreachable,
      groups: answer.groups.map(({ set: _, isOwn: _own, holder: _holder, sampled, ...group }) => ({
        ...group,
        sampled: sampled?.samples ?? 0,
        ...(sampled === null ? {} : { objectsSe: sampled.objectsSe, ownSe: sampled.ownSe, heldSe: sampled.heldSe }),
      })),
      groupCount: answer.groupCount,
      inventories: answer.inventories,
      at: answer.at,
      ...(answer.around === null ? {} : { around: answer.around }),
      ...(answer.object === null ? {} : { object: answer.object }),
      notes: answer.notes,
      missing: answer.missing === '' ? null : answer.missing,
    }),
  },
  table: {
    rows: (answer: HoldingAnswer) => answer.groups,
    columns: [
      { head: 'key', cell: (row: HeldGroup) => row.key },
      { head: 'objects', cell: (row: HeldGroup) => row.objects, unit: 'count' },
      { head: 'own', cell: (row: HeldGroup) => row.ownBytes, unit: 'bytes' },
      { head: 'held', cell: (row: HeldGroup) => row.heldBytes, unit: 'bytes' },
      { head: 'share', cell: (row: HeldGroup) => row.shareRatio, unit: 'ratio' },
      { head: 'stays by', cell: (row: HeldGroup) => row.holder?.reference ?? row.ways[0]?.steps.join(' → ') ?? '' },
    ],
  },
});
