import { NONE } from '../base/ids.ts';
import type { PathShape } from './path-shape.ts';
import type { PathDirection, PathSums } from './path-sums.ts';

/** One node of a tree of call paths: the frames from the root down to it. */
export interface PathNode {
  /** Frame ids from the root to the node, joined by commas. */
  readonly id: string;
  /** Frames that the node folds: more than one where a chain has no branch and carries nothing of its own. */
  readonly frameIds: readonly number[];
  readonly total: number;
  readonly totalVariance: number;
  /**
   * What ends here: allocated by this frame (from the entry), or reached from no further caller (from the allocation).
   */
  readonly self: number;
  readonly selfVariance: number;
  readonly children: number;
}

/** A node while it is walked: its paths, each with the place that the walk has reached on it. */
interface Walk {
  readonly frameIds: readonly number[];
  /**
   * Nodes of the shape: from the entry the node itself, from the allocation the ancestors reached; parallel to
   * `leaves`.
   */
  readonly at: readonly number[];
  /** Paths whose self value is carried; from the entry the same as `at`. */
  readonly leaves: readonly number[];
}

/**
 * A tree of call paths, expanded node by node. From the entry a node is a call path; from the allocation it is a chain
 * of callers, whatever led to them. Children come heaviest first; those that carry nothing are left out. Expanding
 * costs the paths through the node.
 */
export class PathTree {
  private readonly shape: PathShape;
  private readonly sums: PathSums;
  private readonly direction: PathDirection;
  private readonly childrenOf: readonly (readonly number[])[];
  private readonly walks = new Map<string, readonly { readonly node: PathNode; readonly walk: Walk }[]>();

  constructor(shape: PathShape, sums: PathSums, direction: PathDirection) {
    this.shape = shape;
    this.sums = sums;
    this.direction = direction;
    this.childrenOf = direction === 'entry' ? childLists(shape) : [];
  }

  /** Children of a node, '' for the root; none for a node that is not there. */
  children(id: string): readonly PathNode[] {
    return this.expanded(id).map(({ node }) => node);
  }

  /** Ids from a node down its heaviest children, for as long as one carries at least half of what its parent does. */
  heaviest(id: string): string[] {
    const ids = [id];
    for (let at = id; ;) {
      const [first] = this.children(at);
      if (first === undefined || first.children === 0) return ids;
      ids.push((at = first.id));
      const next = this.children(at)[0];
      if (next === undefined || next.total < HALF * first.total) return ids;
    }
  }

  /** What a node carries of other sums over the same shape, as of what was kept of it; 0 for a node that is not there. */
  carried(id: string, sums: PathSums): number {
    const values = this.direction === 'entry' ? sums.total : sums.self;
    return this.find(id)?.leaves.reduce((all, pathId) => all + values[pathId]!, 0) ?? 0;
  }

  private expanded(id: string): readonly { readonly node: PathNode; readonly walk: Walk }[] {
    const known = this.walks.get(id);
    if (known !== undefined) return known;
    const walk = id === '' ? null : this.find(id);
    const found =
      walk === undefined
        ? []
        : this.groupsBelow(walk)
            .map((below) => this.folded(below, id))
            .sort((a, b) => b.node.total - a.node.total);
    this.walks.set(id, found);
    return found;
  }

  // The walk of a node, looked up among the children of its parent; undefined when there is no such node.
  private find(id: string): Walk | undefined {
    for (let cut = id.lastIndexOf(','); ; cut = id.lastIndexOf(',', cut - 1)) {
      const parent = cut < 0 ? '' : id.slice(0, cut);
      const siblings = this.walks.get(parent) ?? (cut < 0 ? this.expanded('') : undefined);
      const found = siblings?.find(({ node }) => node.id === id);
      if (found !== undefined) return found.walk;
      if (cut < 0) return this.byPrefix(id);
    }
  }

  // A node that was not expanded to before: from the root down, through the nodes whose ids it begins with.
  private byPrefix(id: string): Walk | undefined {
    let parent = '';
    for (;;) {
      const next = this.expanded(parent).find(({ node }) => id === node.id || id.startsWith(`${node.id},`));
      if (next === undefined) return undefined;
      if (next.node.id === id) return next.walk;
      parent = next.node.id;
    }
  }

  private groupsBelow(walk: Walk | null): Walk[] {
    const { parentId, frameId } = this.shape;
    const groups = new Map<number, { at: number[]; leaves: number[] }>();
    const add = (frame: number, at: number, leaf: number): void => {
      let group = groups.get(frame);
      if (group === undefined) groups.set(frame, (group = { at: [], leaves: [] }));
      group.at.push(at);
      group.leaves.push(leaf);
    };
    if (this.direction === 'entry') {
      const roots =
        walk === null
          ? this.childrenOf[this.childrenOf.length - 1]!
          : walk.at.flatMap((pathId) => this.childrenOf[pathId]!);
      for (const pathId of roots) if (this.sums.total[pathId]! > 0) add(frameId[pathId]!, pathId, pathId);
    } else if (walk === null) {
      for (let pathId = 0; pathId < this.sums.self.length; pathId++)
        if (this.sums.self[pathId]! > 0) add(frameId[pathId]!, pathId, pathId);
    } else {
      walk.at.forEach((pathId, place) => {
        const parent = parentId[pathId]!;
        if (parent !== NONE) add(frameId[parent]!, parent, walk.leaves[place]!);
      });
    }
    return [...groups].map(([frame, group]) => ({ frameIds: [frame], ...group }));
  }

  // Goes down while there is one way only and nothing ends on it.
  private folded(walk: Walk, parentId: string): { node: PathNode; walk: Walk } {
    let reached = walk;
    let below = this.groupsBelow(reached);
    while (below.length === 1 && this.endsHere(reached, this.sums.self) === 0) {
      reached = { ...below[0]!, frameIds: [...reached.frameIds, ...below[0]!.frameIds] };
      below = this.groupsBelow(reached);
    }
    const carried = this.direction === 'entry' ? this.sums.total : this.sums.self;
    const variance = this.direction === 'entry' ? this.sums.totalVariance : this.sums.selfVariance;
    const sum = (values: Float64Array): number => reached.leaves.reduce((all, pathId) => all + values[pathId]!, 0);
    const id = `${parentId === '' ? '' : `${parentId},`}${reached.frameIds.join(',')}`;
    const [self, selfVariance] = [
      this.endsHere(reached, this.sums.self),
      this.endsHere(reached, this.sums.selfVariance),
    ];
    return {
      walk: reached,
      node: {
        id,
        frameIds: reached.frameIds,
        total: sum(carried),
        totalVariance: sum(variance),
        self,
        selfVariance,
        children: below.length,
      },
    };
  }

  // Sum of a value of the paths that end on a node.
  private endsHere(walk: Walk, value: Float64Array): number {
    const { parentId } = this.shape;
    if (this.direction === 'entry') return walk.at.reduce((all, pathId) => all + value[pathId]!, 0);
    return walk.at.reduce(
      (all, pathId, place) => all + (parentId[pathId] === NONE ? value[walk.leaves[place]!]! : 0),
      0,
    );
  }
}

const HALF = 0.5;

// Children of each node, and last those without a parent.
function childLists({ length, parentId }: PathShape): number[][] {
  const lists: number[][] = Array.from({ length: length + 1 }, () => []);
  for (let node = 0; node < length; node++) lists[parentId[node] === NONE ? length : parentId[node]!]!.push(node);
  return lists;
}
