import {
  fateValues,
  fileName,
  frameText,
  icicle,
  isOwnFile,
  packageName,
  pathShape,
  pathSums,
  PathTree,
  type Fate,
  type PathDirection,
  type PathNode,
  type Recording,
  type Recursion,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';

/** What is counted of an allocation. */
export type Measure = 'bytes' | 'objects';

/** What is asked of the call paths. */
export interface PathsAsk {
  readonly look: Look;
  readonly fate: Fate;
  readonly measure: Measure;
  readonly direction: PathDirection;
  readonly recursion: Recursion;
  /** Nodes that are open, '' for the root. */
  readonly open: readonly string[];
  /** Open the heaviest way down from this node as well; null for no more. */
  readonly heaviestFrom: string | null;
  /** Node under which the picture hangs; null for no picture. */
  readonly focus: string | null;
}

/** One frame of a node, or a run of frames that are not the engineer's own. */
export type PathWord =
  | { readonly kind: 'frame'; readonly name: string; readonly place: string; readonly isOwn: boolean }
  | { readonly kind: 'through'; readonly count: number; readonly of: string };

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
  /** Functions, files and packages of its frames in lower case, to be looked through for a word. */
  readonly words: string;
  readonly isOwn: boolean;
  readonly total: number;
  readonly totalSe: number;
}

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

export function pathsOf(evidence: Evidence, ask: PathsAsk): PathsAnswer {
  const { look, fate, measure, direction, recursion } = ask;
  const { recording } = evidence;
  const key = `${evidence.keyOf(look)} ${fate} ${measure}`;
  const values = evidence.once('fates', `${evidence.keyOf(look)} ${fate}`, () =>
    fateValues(evidence.sums(look), fate, evidence.chosen(look.find)),
  );
  const counted = !values.count.some(Number.isNaN);
  const [value, variance] =
    measure === 'bytes' || !counted ? [values.bytes, values.variance] : [values.count, values.countVariance];
  const shape = evidence.once('path shape', recursion, () => pathShape(recording, recursion), 2);
  const sums = evidence.once('path sums', `${key} ${recursion}`, () => pathSums(recording, shape, value, variance), 2);
  const tree = evidence.once(
    'path tree',
    `${key} ${recursion} ${direction}`,
    () => new PathTree(shape, sums, direction),
    2,
  );
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
        : icicle(tree, ask.focus, LIMITS).map(({ node, depth, from, to }) => ({
            id: node.id,
            depth,
            from,
            to,
            ...cellWords(recording, node),
            words: soughtWords(recording, node.frameIds),
            total: node.total,
            totalSe: Math.sqrt(node.totalVariance),
          })),
  };
}

function rowOf(recording: Recording, node: PathNode): PathRow {
  return {
    id: node.id,
    words: wordsOf(recording, node.frameIds),
    total: node.total,
    totalSe: Math.sqrt(node.totalVariance),
    self: node.self,
    selfSe: Math.sqrt(node.selfVariance),
    children: node.children,
  };
}

// The frame that says most: the last own one of the chain, else its last.
function cellWords(recording: Recording, node: PathNode): { text: string; isOwn: boolean } {
  const words = wordsOf(recording, node.frameIds);
  const own = words.filter((word) => word.kind === 'frame' && word.isOwn);
  const [first] = own.length > 0 ? own : words.slice(-1);
  return {
    text: first === undefined ? '' : first.kind === 'frame' ? first.name : `through ${first.of}`,
    isOwn: own.length > 0,
  };
}

function soughtWords(recording: Recording, frameIds: readonly number[]): string {
  return frameIds
    .map((frameId) => {
      const { functionName, file } = frameText(recording, frameId);
      return `${functionName} ${fileName(file)} ${packageName(file)}`;
    })
    .join(' ')
    .toLowerCase();
}

function wordsOf(recording: Recording, frameIds: readonly number[]): PathWord[] {
  const words: PathWord[] = [];
  frameIds.forEach((frameId, place) => {
    const { functionName, file, line } = frameText(recording, frameId);
    const isOwn = isOwnFile(file, recording.ownRules);
    const last = words[words.length - 1];
    const isEnd = place === frameIds.length - 1;
    if (isOwn || isEnd)
      words.push({
        kind: 'frame',
        name: functionName,
        place: file === '' ? '' : `${fileName(file)}${line > 0 ? `:${line}` : ''}`,
        isOwn,
      });
    else if (last?.kind === 'through') words[words.length - 1] = { ...last, count: last.count + 1 };
    else words.push({ kind: 'through', count: 1, of: packageName(file) });
  });
  return words;
}
