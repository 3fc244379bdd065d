import type { PathNode, PathTree } from './path-tree.ts';

/** A node's place in an icicle: its row, and where it begins and ends across, of the whole width as 1. */
export interface IcicleCell {
  readonly node: PathNode;
  readonly depth: number;
  readonly from: number;
  readonly to: number;
}

/** How much of a tree is laid out. */
export interface IcicleLimits {
  /** Cells narrower than this are left out, with all below them. */
  readonly leastWidth: number;
  readonly mostDepth: number;
  readonly mostCells: number;
}

/**
 * Lays the nodes below a node out as hanging rows: each as wide as its share, children under their parent from the
 * left, the heaviest first. Row by row, so that a limit on cells cuts depth, not breadth. Linear in the cells.
 */
export function icicle(tree: PathTree, rootId: string, limits: IcicleLimits): IcicleCell[] {
  const cells: IcicleCell[] = [];
  const whole = tree.children(rootId).reduce((sum, node) => sum + node.total, 0);
  if (!(whole > 0)) return cells;
  let row: { readonly id: string; readonly from: number }[] = [{ id: rootId, from: 0 }];
  for (let depth = 0; depth < limits.mostDepth && row.length > 0; depth++) {
    const below: { readonly id: string; readonly from: number }[] = [];
    for (const parent of row) {
      let { from } = parent;
      for (const node of tree.children(parent.id)) {
        const to = from + node.total / whole;
        if (to - from < limits.leastWidth || cells.length >= limits.mostCells) break;
        cells.push({ node, depth, from, to });
        if (node.children > 0) below.push({ id: node.id, from });
        from = to;
      }
    }
    row = below;
  }
  return cells;
}
