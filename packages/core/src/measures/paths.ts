import { z } from 'zod';
import { type Fate, FATES, fateValues } from '../analysis/fates.ts';
import type { Recording } from '../model/recording.ts';
import { icicle, type IcicleCell } from '../query/icicle.ts';
import { pathShape, type Recursion, RECURSIONS } from '../query/path-shape.ts';
import { type PathDirection, pathSums } from '../query/path-sums.ts';
import { type PathNode, PathTree } from '../query/path-tree.ts';
import { Z_95 } from '../stats/z-95.ts';
import { piece } from '../study/piece.ts';
import { foundInput, type FoundInput, type Look, type Subject } from '../study/subject.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { cellWords, chainText, framesOf, pathWords, type PathWord, soughtWords } from './path-words.ts';

/** What is counted of an allocation. */
export const COUNTED = ['bytes', 'objects'] as const;
export type Counted = (typeof COUNTED)[number];

/** What is asked of the call paths. */
export interface PathsAsk {
  readonly look: Look;
  readonly fate: Fate;
  readonly counted: Counted;
  readonly direction: PathDirection;
  readonly recursion: Recursion;
  /** Nodes that are open, '' for the root. */
  readonly open: readonly string[];
  /** Open the heaviest way down from this node as well; null for no more. */
  readonly heaviestFrom: string | null;
  /** Node under which the picture hangs; null for no picture. */
  readonly focus: string | null;
}

/** A node of the tree in words. */
export interface PathRow {
  readonly id: string;
  readonly words: readonly PathWord[];
  readonly total: number;
  readonly totalSe: number;
  readonly self: number;
  readonly selfSe: number;
  readonly children: number;
}

/** A cell of the picture. */
export interface PathCell {
  readonly id: string;
  readonly depth: number;
  readonly from: number;
  readonly to: number;
  readonly text: string;
  /** Where the frame that it names is: `alerts.js:14`; '' where that is not known. */
  readonly place: string;
  /** Share of it that was kept; NaN where only some fate is counted, or nothing. */
  readonly keptRatio: number;
  /** True on the heaviest way down. */
  readonly isHeaviest: boolean;
  /** Functions, files and packages of its frames in lower case, to be looked through for a word. */
  readonly words: string;
  readonly isOwn: boolean;
  readonly total: number;
  readonly totalSe: number;
}

/** The tree of call paths as far as it is open, and its picture. */
export interface PathsAnswer {
  /** Everything the fate and the find let through, with and without a path. */
  readonly all: number;
  readonly withoutPath: number;
  /** Open nodes, those of the heaviest way included, and the children of each. */
  readonly open: readonly string[];
  readonly children: ReadonlyMap<string, readonly PathRow[]>;
  /** Nodes that are left out below open ones, each lighter than those that are there. */
  readonly leftOut: number;
  readonly cells: readonly PathCell[];
  /** False where the source tells bytes and no objects. */
  readonly counted: boolean;
}

const MOST_CHILDREN = 400;
const LIMITS = { leastWidth: 1 / 600, mostDepth: 40, mostCells: 1200 };

/** Answers `paths` of a subject that the look was found in. */
export function pathsOf(subject: Subject, ask: PathsAsk): PathsAnswer {
  const { look, fate, counted: wanted, direction, recursion } = ask;
  const { recording } = subject;
  const input = { ...foundInput(look), fate };
  const counted = !subject.get(FATE_VALUES, input).count.some(Number.isNaN);
  const summed = { ...input, recursion, inBytes: wanted === 'bytes' || !counted };
  const sums = subject.get(PATH_SUMS, summed);
  const tree = subject.get(PATH_TREE, { ...summed, direction });
  const shadeOf = shadesOf(subject, tree, summed, ask.focus ?? '');
  const open = [...new Set(['', ...ask.open, ...(ask.heaviestFrom === null ? [] : tree.heaviest(ask.heaviestFrom))])];
  return {
    all: sums.all,
    withoutPath: sums.withoutPath,
    open,
    counted,
    children: new Map(
      open.map((id) => [
        id,
        tree
          .children(id)
          .slice(0, MOST_CHILDREN)
          .map((node) => rowOf(recording, node)),
      ]),
    ),
    leftOut: open.reduce((sum, id) => sum + Math.max(0, tree.children(id).length - MOST_CHILDREN), 0),
    cells:
      ask.focus === null
        ? []
        : icicle(tree, ask.focus, LIMITS).map((cell) => ({ ...cellOf(recording, cell), ...shadeOf(cell.node) })),
  };
}

function cellOf(
  recording: Recording,
  { node, depth, from, to }: IcicleCell,
): Omit<PathCell, 'keptRatio' | 'isHeaviest'> {
  return {
    id: node.id,
    depth,
    from,
    to,
    ...cellWords(framesOf(recording, node.frameIds)),
    words: soughtWords(framesOf(recording, node.frameIds)),
    total: node.total,
    totalSe: Math.sqrt(node.totalVariance),
  };
}

// What the picture shades by: the share that was kept, where all fates are counted, and the heaviest way down.
function shadesOf(
  subject: Subject,
  tree: PathTree,
  summed: SumsInput,
  focus: string,
): (node: PathNode) => Pick<PathCell, 'keptRatio' | 'isHeaviest'> {
  const heaviest = new Set(tree.heaviest(focus));
  const kept = summed.fate === 'all' ? subject.get(PATH_SUMS, { ...summed, fate: 'kept' }) : null;
  return ({ id, total }) => ({
    keptRatio: kept === null || !(total > 0) ? NaN : Math.min(1, Math.max(0, tree.carried(id, kept) / total)),
    isHeaviest: heaviest.has(id),
  });
}

function rowOf(recording: Recording, node: PathNode): PathRow {
  return {
    id: node.id,
    words: pathWords(framesOf(recording, node.frameIds)),
    total: node.total,
    totalSe: Math.sqrt(node.totalVariance),
    self: node.self,
    selfSe: Math.sqrt(node.selfVariance),
    children: node.children,
  };
}

type FateInput = FoundInput & { readonly fate: Fate };
type SumsInput = FateInput & { readonly recursion: Recursion; readonly inBytes: boolean };

const FATE_VALUES = piece('fates', (subject: Subject, { fate, ...input }: FateInput) =>
  fateValues(subject.sums(input), fate, subject.chosen(input.find)),
);

/** How paths lie, with recursion folded or not. */
export const PATH_SHAPE = piece(
  'path shape',
  (subject: Subject, recursion: Recursion) => pathShape(subject.recording, recursion),
  2,
);

/** What each path carries. */
export const PATH_SUMS = piece(
  'path sums',
  (subject: Subject, { recursion, inBytes, ...input }: SumsInput) => {
    const values = subject.get(FATE_VALUES, input);
    const [value, variance] = inBytes ? [values.bytes, values.variance] : [values.count, values.countVariance];
    return pathSums(subject.recording, subject.get(PATH_SHAPE, recursion), value, variance);
  },
  4,
);

const PATH_TREE = piece(
  'path tree',
  (subject: Subject, { direction, ...input }: SumsInput & { readonly direction: PathDirection }) =>
    new PathTree(subject.get(PATH_SHAPE, input.recursion), subject.get(PATH_SUMS, input), direction),
  2,
);

/** The tree of call paths, from the entry or from the allocation. */
export const paths = measure({
  name: 'paths',
  title: 'the tree of call paths, from the entry or from the allocation',
  needs: 'objects',
  ask: z.strictObject({
    ...LOOK_ASK,
    fate: z.enum(FATES).default('all').describe('what became of it by the end of the span'),
    counted: z.enum(COUNTED).default('bytes').describe('what is summed'),
    direction: z.enum(['entry', 'allocation']).default('entry').describe('what the tree begins with'),
    recursion: z.enum(RECURSIONS).default(RECURSIONS[0]).describe('what is done with frames that call themselves'),
    open: z.array(z.string()).default([]).describe('nodes whose children are wanted'),
    heaviestFrom: z.string().nullable().default('').describe('node from which the heaviest way is opened'),
    focus: z.string().nullable().default(null).describe('node under which a picture hangs'),
  }),
  answer: (side, ask): PathsAnswer => pathsOf(side.found(ask), { look: side.look(ask), ...ask }),
  table: {
    rows: (answer: PathsAnswer) => answer.open.flatMap((id) => answer.children.get(id) ?? []),
    columns: [
      { head: 'frames', cell: (row: PathRow) => chainText(row.words) },
      { head: 'total', unit: 'bytes', cell: (row: PathRow) => row.total },
      { head: 'total ±', unit: 'bytes', cell: (row: PathRow) => Z_95 * row.totalSe },
      { head: 'self', unit: 'bytes', cell: (row: PathRow) => row.self },
    ],
  },
});
