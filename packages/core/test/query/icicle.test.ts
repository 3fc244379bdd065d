import { NONE } from '../../src/base/ids.ts';
import { Recording } from '../../src/model/recording.ts';
import { icicle } from '../../src/query/icicle.ts';
import { pathShape } from '../../src/query/path-shape.ts';
import { pathSums } from '../../src/query/path-sums.ts';
import { PathTree } from '../../src/query/path-tree.ts';
import { seeded } from '../seeded.ts';

function treeOf(paths: number) {
  const random = seeded(5);
  const recording = new Recording('recording');
  recording.addHeap('main');
  const values: number[] = [];
  for (let n = 0; n < paths; n++) {
    let pathId = NONE;
    for (let depth = 0; depth < 2 + random() * 6; depth++) {
      const name = `f${Math.floor(random() * 4)}d${depth}`;
      pathId = recording.internPath(pathId, recording.internFrame(name, `/srv/${name}.js`, 1, 1));
    }
    values[recording.internOrigin(pathId, NONE, NONE, 0)] = 1 + Math.floor(random() * 50);
  }
  const shape = pathShape(recording, 'folded');
  return new PathTree(
    shape,
    pathSums(recording, shape, Float64Array.from(values), new Float64Array(values.length)),
    'entry',
  );
}

const ALL = { leastWidth: 0, mostDepth: 99, mostCells: 1e6 };

test('each cell is as wide as its share and lies within its parent, beside its siblings', () => {
  const tree = treeOf(300);
  const cells = icicle(tree, '', ALL);
  const whole = cells.filter(({ depth }) => depth === 0).reduce((sum, { node }) => sum + node.total, 0);
  const byId = new Map(cells.map((cell) => [cell.node.id, cell]));
  for (const { node, from, to, depth } of cells) {
    expect(to - from).toBeCloseTo(node.total / whole, 9);
    const below = tree.children(node.id).map((child) => byId.get(child.id)!);
    let edge = from;
    for (const child of below) {
      expect(child.depth).toBe(depth + 1);
      expect(child.from).toBeCloseTo(edge, 9);
      edge = child.to;
    }
    expect(edge).toBeLessThanOrEqual(to + 1e-9);
  }
  expect(cells.length).toBeGreaterThan(100);
});

test('narrow cells are left out, and a limit on cells keeps the upper rows', () => {
  const tree = treeOf(300);
  expect(icicle(tree, '', { ...ALL, leastWidth: 0.02 }).every(({ from, to }) => to - from >= 0.02)).toBe(true);
  const few = icicle(tree, '', { ...ALL, mostCells: 10 });
  expect(few).toHaveLength(10);
  const rows = few.map(({ depth }) => depth);
  expect(rows).toEqual([...rows].sort((a, b) => a - b));
  expect(icicle(tree, '', { ...ALL, mostDepth: 1 }).every(({ depth }) => depth === 0)).toBe(true);
});

test('under a node, its children are the whole width; under nothing there is no cell', () => {
  const tree = treeOf(300);
  const [first] = tree.children('');
  const cells = icicle(tree, first!.id, ALL).filter(({ depth }) => depth === 0);
  expect(cells.reduce((sum, { from, to }) => sum + to - from, 0)).toBeCloseTo(1, 9);
  expect(icicle(tree, '99999', ALL)).toEqual([]);
  expect(icicle(treeOf(0), '', ALL)).toEqual([]);
});
