import { NONE } from '../base/ids.ts';
import type { Recording } from '../model/recording.ts';
import type { PathShape } from './path-shape.ts';
import { type PathDirection, type PathSums, rolledUp } from './path-sums.ts';
import { type PathNode, PathTree } from './path-tree.ts';

/** One side's call paths with what they carry. */
export interface SidePaths {
  readonly recording: Recording;
  readonly shape: PathShape;
  readonly sums: PathSums;
  /** What values are divided by, so that sides of different length compare. */
  readonly per: number;
}

/** A frame of a merged tree: B's words where B has it. */
export interface PairFrame {
  readonly recording: Recording;
  readonly frameId: number;
}

/** What a node carries on each side, with variances. */
export interface PairNode {
  readonly node: PathNode;
  readonly a: number;
  readonly aVariance: number;
  readonly b: number;
  readonly bVariance: number;
}

/**
 * Call paths of two recordings as one tree: paths whose frames are the same, one after another, are the same path. Nodes
 * are as heavy as their paths' larger sides. Linear in the paths of both.
 */
export class PairPaths {
  readonly frames: readonly PairFrame[];
  readonly tree: PathTree;
  private readonly a: PathSums;
  private readonly b: PathSums;

  /** `pairs`: frames of A and B that are the same; null for one that the other side has not. */
  constructor(
    a: SidePaths,
    b: SidePaths,
    pairs: readonly { readonly a: number | null; readonly b: number | null }[],
    direction: PathDirection,
  ) {
    this.frames = pairs.map((pair) =>
      pair.b === null ? { recording: a.recording, frameId: pair.a! } : { recording: b.recording, frameId: pair.b },
    );
    const [frameOfA, frameOfB] = [new Map<number, number>(), new Map<number, number>()];
    pairs.forEach((pair, at) => {
      if (pair.a !== null) frameOfA.set(pair.a, at);
      if (pair.b !== null) frameOfB.set(pair.b, at);
    });
    const merged = new MergedShape(this.frames.length);
    const [nodesA, nodesB] = [merged.add(a.shape, frameOfA), merged.add(b.shape, frameOfB)];
    const shape = merged.shape();
    this.a = transferred(shape, nodesA, a);
    this.b = transferred(shape, nodesB, b);
    const self = this.a.self.map((value, node) => Math.max(value, this.b.self[node]!));
    this.tree = new PathTree(shape, rolledUp(shape, self, new Float64Array(shape.length)), direction);
  }

  /** Children of a node with both sides, heaviest first. */
  children(id: string): PairNode[] {
    return this.tree.children(id).map((node) => this.sided(node));
  }

  /** A node with both sides. */
  sided(node: PathNode): PairNode {
    const of = (sums: PathSums): number => this.tree.carried(node.id, sums);
    return { node, a: of(this.a), aVariance: of(variances(this.a)), b: of(this.b), bVariance: of(variances(this.b)) };
  }

  /** Ids from a node down the children that grew most, for as long as one has at least half of its parent's increase. */
  growthWay(id: string): string[] {
    const ids = [id];
    for (let at = id, least = 0; ;) {
      const most = this.children(at)
        .filter(({ a, b }) => b - a > least)
        .sort((x, y) => y.b - y.a - (x.b - x.a))[0];
      if (most === undefined || most.node.children === 0) return ids;
      ids.push((at = most.node.id));
      least = (most.b - most.a) / 2;
    }
  }
}

const cached = new WeakMap<PathSums, PathSums>();

// The variances in the place of the values, so that they are carried alike.
function variances(sums: PathSums): PathSums {
  let turned = cached.get(sums);
  if (turned === undefined) {
    turned = { ...sums, self: sums.selfVariance, total: sums.totalVariance };
    cached.set(sums, turned);
  }
  return turned;
}

/** A shape that grows by the paths of several recordings; parents come before children. */
class MergedShape {
  private readonly parents: number[] = [];
  private readonly frames: number[] = [];
  private readonly known = new Map<number, number>();
  private readonly frameCount: number;

  constructor(frameCount: number) {
    this.frameCount = frameCount;
  }

  /** Adds a shape whose frames are called otherwise here. Answers each node's place. */
  add({ length, parentId, frameId }: PathShape, frameOf: ReadonlyMap<number, number>): Uint32Array {
    const places = new Uint32Array(length);
    for (let node = 0; node < length; node++) {
      const parent = parentId[node] === NONE ? NONE : places[parentId[node]!]!;
      const frame = frameOf.get(frameId[node]!)!;
      const key = (parent === NONE ? 0 : parent + 1) * this.frameCount + frame;
      let place = this.known.get(key);
      if (place === undefined) {
        place = this.parents.length;
        this.known.set(key, place);
        this.parents.push(parent);
        this.frames.push(frame);
      }
      places[node] = place;
    }
    return places;
  }

  shape(): PathShape {
    return {
      length: this.parents.length,
      parentId: Uint32Array.from(this.parents),
      frameId: Uint32Array.from(this.frames),
      nodeOf: new Uint32Array(),
    };
  }
}

function transferred(shape: PathShape, places: Uint32Array, { sums, per }: SidePaths): PathSums {
  const [self, variance] = [new Float64Array(shape.length), new Float64Array(shape.length)];
  for (let node = 0; node < places.length; node++) {
    self[places[node]!]! += sums.self[node]! / per;
    variance[places[node]!]! += sums.selfVariance[node]! / per ** 2;
  }
  return rolledUp(shape, self, variance);
}
