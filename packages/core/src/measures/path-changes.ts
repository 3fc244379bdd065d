import { z } from 'zod';
import { birthsSeenMs } from '../analysis/births-seen.ts';
import { matchKeys } from '../analysis/comparison/match-keys.ts';
import { NAME_RULES, NameRules } from '../analysis/comparison/name-rules.ts';
import { type Fate, FATES } from '../analysis/fates.ts';
import { icicle } from '../query/icicle.ts';
import { PairPaths, type PairNode, type SidePaths } from '../query/pair-paths.ts';
import { type Recursion, RECURSIONS } from '../query/path-shape.ts';
import type { PathDirection } from '../query/path-sums.ts';
import { differenceOf, withError } from '../stats/estimate.ts';
import type { StudySide } from '../study/study.ts';
import { foundInput } from '../study/subject.ts';
import { LOOK_ASK, pairMeasure } from './measure.ts';
import { PATH_SHAPE, PATH_SUMS } from './paths.ts';
import { cellWords, chainText, pathWords, type PathWord, type WordFrame, wordFrame } from './path-words.ts';

/** What a node of the tree carries on both sides, and how it differs. */
export interface SidedPath {
  readonly id: string;
  readonly a: number;
  readonly b: number;
  readonly difference: number;
  readonly low: number;
  readonly high: number;
}

/** A node of the tree of both sides in words. */
export interface ChangedPathRow extends SidedPath {
  readonly words: readonly PathWord[];
  readonly children: number;
}

/** A cell of the picture of both sides: as wide as its larger side. */
export interface ChangedPathCell extends SidedPath {
  readonly depth: number;
  readonly from: number;
  readonly to: number;
  readonly text: string;
  readonly place: string;
  readonly isOwn: boolean;
}

/** Call paths of both sides as one tree, as far as it is open, and its picture. */
export interface PathChangesAnswer {
  /** True where values are bytes a second of the time that was seen; else they are bytes. */
  readonly perSecond: boolean;
  readonly open: readonly string[];
  readonly children: ReadonlyMap<string, readonly ChangedPathRow[]>;
  readonly leftOut: number;
  readonly cells: readonly ChangedPathCell[];
  /** Everything that each side carries. */
  readonly all: readonly [number, number];
}

interface PathChangesAsk {
  readonly charge: 'site';
  readonly find: string;
  readonly fate: Fate;
  readonly direction: PathDirection;
  readonly recursion: Recursion;
  readonly open: readonly string[];
  readonly growthFrom: string | null;
  readonly focus: string | null;
  readonly rules: readonly string[] | null;
}

const MOST_CHILDREN = 400;
const LIMITS = { leastWidth: 1 / 600, mostDepth: 40, mostCells: 1200 };

function changesOfPaths(a: StudySide, b: StudySide, ask: PathChangesAsk): PathChangesAnswer {
  const perSecond = ask.fate !== 'kept';
  const [left, right] = [sideOf(a, ask, perSecond), sideOf(b, ask, perSecond)];
  const frames = ({ shape }: SidePaths): number[] => [...new Set(shape.frameId)];
  const rules = new NameRules(ask.rules ?? NAME_RULES);
  const pairs = matchKeys([left.recording, frames(left)], [right.recording, frames(right)], 'site', rules);
  const tree = new PairPaths(left, right, pairs, ask.direction);
  const open = [...new Set(['', ...ask.open, ...(ask.growthFrom === null ? [] : tree.growthWay(ask.growthFrom))])];
  const wordsOf = (ids: readonly number[]): WordFrame[] =>
    ids.map((id) => wordFrame(tree.frames[id]!.recording, tree.frames[id]!.frameId));
  const all = tree
    .children('')
    .reduce<readonly [number, number]>((sum, node) => [sum[0] + node.a, sum[1] + node.b], [0, 0]);
  return {
    perSecond,
    open,
    all,
    children: new Map(
      open.map((id) => [
        id,
        tree
          .children(id)
          .slice(0, MOST_CHILDREN)
          .map((each) => ({
            ...sided(each),
            words: pathWords(wordsOf(each.node.frameIds)),
            children: each.node.children,
          })),
      ]),
    ),
    leftOut: open.reduce((sum, id) => sum + Math.max(0, tree.tree.children(id).length - MOST_CHILDREN), 0),
    cells:
      ask.focus === null
        ? []
        : icicle(tree.tree, ask.focus, LIMITS).map(({ node, depth, from, to }) => ({
            ...sided(tree.sided(node)),
            ...{ depth, from, to },
            ...cellWords(wordsOf(node.frameIds)),
          })),
  };
}

function sided({ node, a, aVariance, b, bVariance }: PairNode): SidedPath {
  const { difference, low, high } = differenceOf(
    withError(a, Math.sqrt(aVariance)),
    withError(b, Math.sqrt(bVariance)),
  );
  return { id: node.id, a, b, difference, low, high };
}

function sideOf(side: StudySide, ask: PathChangesAsk, perSecond: boolean): SidePaths {
  const look = side.look(ask);
  const subject = side.found(ask);
  const input = { ...foundInput(look), fate: ask.fate };
  // Made for both: nothing is summed of a source that tells no objects.
  const sums = subject.get(PATH_SUMS, { ...input, recursion: ask.recursion, inBytes: true });
  const seconds = birthsSeenMs(subject.recording, subject.spanOf(look)) / 1000;
  return {
    recording: subject.recording,
    shape: subject.get(PATH_SHAPE, ask.recursion),
    sums,
    per: perSecond && seconds > 0 ? seconds : 1,
  };
}

/** Call paths of two sides as one tree. */
export const pathChanges = pairMeasure({
  name: 'pathChanges',
  title: 'call paths of two sides as one tree: A, B and the difference at every node',
  needs: 'objects',
  ask: z.strictObject({
    find: LOOK_ASK.find,
    fate: z.enum(FATES).default('all').describe('what became of it by the end of the span'),
    direction: z.enum(['entry', 'allocation']).default('entry').describe('what the tree begins with'),
    recursion: z.enum(RECURSIONS).default(RECURSIONS[0]).describe('what is done with frames that call themselves'),
    open: z.array(z.string()).default([]).describe('nodes whose children are wanted'),
    growthFrom: z
      .string()
      .nullable()
      .default('')
      .describe('node from which the way of the greatest increase is opened'),
    focus: z.string().nullable().default(null).describe('node under which a picture hangs'),
    rules: z
      .array(z.string().min(1).max(200))
      .max(100)
      .nullable()
      .default(null)
      .describe('what a build changes in names'),
  }),
  answer: (a, b, ask): PathChangesAnswer =>
    changesOfPaths(a.untilMoment(), b.untilMoment(), { ...ask, charge: 'site' }),
  table: {
    rows: (answer: PathChangesAnswer) => answer.open.flatMap((id) => answer.children.get(id) ?? []),
    columns: [
      { head: 'frames', cell: (row: ChangedPathRow) => chainText(row.words) },
      { head: 'A', unit: 'bytes', cell: (row: ChangedPathRow) => row.a },
      { head: 'B', unit: 'bytes', cell: (row: ChangedPathRow) => row.b },
      { head: 'difference', unit: 'bytes', cell: (row: ChangedPathRow) => row.difference },
    ],
  },
});
