import { NONE } from '../../src/base/ids.ts';
import { frameText } from '../../src/model/call-path.ts';
import { Recording } from '../../src/model/recording.ts';
import { pathShape, type Recursion } from '../../src/query/path-shape.ts';
import { pathSums, type PathDirection } from '../../src/query/path-sums.ts';
import { PathTree, type PathNode } from '../../src/query/path-tree.ts';
import { seeded } from '../seeded.ts';

/** A tree over paths written as `main.serve.parse`, each with what is allocated at its end. */
function treeOf(weights: Readonly<Record<string, number>>, direction: PathDirection, recursion: Recursion = 'folded') {
  const recording = new Recording('recording');
  recording.addHeap('main');
  const values: number[] = [];
  for (const [path, bytes] of Object.entries(weights)) {
    let pathId = NONE;
    for (const name of path.split('.'))
      pathId = recording.internPath(pathId, recording.internFrame(name, `/srv/${name}.js`, 1, 1));
    values[recording.internOrigin(pathId, NONE, NONE, 0)] = bytes;
  }
  const shape = pathShape(recording, recursion);
  const sums = pathSums(
    recording,
    shape,
    Float64Array.from(values),
    Float64Array.from(values, (bytes) => 2 * bytes),
  );
  const tree = new PathTree(shape, sums, direction);
  const words = (node: PathNode): string =>
    node.frameIds.map((frameId) => frameText(recording, frameId).functionName).join('.');
  return {
    shape,
    sums,
    tree,
    told: (id: string) => tree.children(id).map((node) => [words(node), node.total, node.self, node.children]),
  };
}

const WEIGHTS = { 'main.serve.parse.split': 60, 'main.serve.parse': 10, 'main.serve.render': 20, 'main.tick.split': 5 };

test('from the entry, chains without a branch are one node, and every level adds up', () => {
  const { tree, told } = treeOf(WEIGHTS, 'entry');
  expect(told('')).toEqual([['main', 95, 0, 2]]);
  const [main] = tree.children('');
  expect(told(main!.id)).toEqual([
    ['serve', 90, 0, 2],
    ['tick.split', 5, 5, 0],
  ]);
  const [serve] = tree.children(main!.id);
  expect(told(serve!.id)).toEqual([
    ['parse', 70, 10, 1],
    ['render', 20, 20, 0],
  ]);
});

test('from the allocation, the callers of a function are told apart, whatever led to them', () => {
  const { tree, told } = treeOf(WEIGHTS, 'allocation');
  expect(told('')).toEqual([
    ['split', 65, 0, 2],
    ['render.serve.main', 20, 20, 0],
    ['parse.serve.main', 10, 10, 0],
  ]);
  expect(told(tree.children('')[0]!.id)).toEqual([
    ['parse.serve.main', 60, 60, 0],
    ['tick.main', 5, 5, 0],
  ]);
});

test('the heaviest way down is opened for as long as it carries half', () => {
  const { tree } = treeOf(WEIGHTS, 'entry');
  const opened = tree.heaviest('');
  expect(opened).toHaveLength(4);
  expect(tree.children(opened[3]!)).toMatchObject([{ total: 60, self: 60, children: 0 }]);
});

test('a function that calls itself is one node', () => {
  const recursive = { 'main.walk.walk.walk.add': 4, 'main.walk.walk.add': 3, 'main.walk': 2, 'main.walk.walk.note': 1 };
  const { tree, told } = treeOf(recursive, 'entry');
  expect(told('')).toEqual([['main.walk', 10, 2, 2]]);
  expect(told(tree.children('')[0]!.id)).toEqual([
    ['add', 7, 7, 0],
    ['note', 1, 1, 0],
  ]);
  expect(treeOf(recursive, 'allocation').told('')).toEqual([
    ['add.walk.main', 7, 7, 0],
    ['walk.main', 2, 2, 0],
    ['note.walk.main', 1, 1, 0],
  ]);
});

test('functions that call each other in turn are folded, unless they are wanted as they were', () => {
  const mutual = { 'main.even.odd.even.odd.add': 4, 'main.even.odd.even.add': 3, 'main.even.odd': 2 };
  const { tree, told } = treeOf(mutual, 'entry');
  expect(told('')).toEqual([['main.even', 9, 0, 2]]);
  expect(told(tree.children('')[0]!.id)).toEqual([
    ['odd', 6, 2, 1],
    ['add', 3, 3, 0],
  ]);
  expect(treeOf(mutual, 'allocation').told('')).toEqual([
    ['add', 7, 0, 2],
    ['odd.even.main', 2, 2, 0],
  ]);
  expect(treeOf(mutual, 'entry', 'unfolded').told('')).toEqual([['main.even.odd', 9, 2, 1]]);
});

test('folding loses nothing, and leaves no frame above itself', () => {
  const random = seeded(17);
  const weights = Object.fromEntries(
    Array.from({ length: 400 }, () => [
      Array.from({ length: 2 + Math.floor(random() * 9) }, () => 'abcd'[Math.floor(random() * 4)]).join('.'),
      1 + Math.floor(random() * 50),
    ]),
  );
  const all = Object.values(weights).reduce((sum, each) => sum + each, 0);
  for (const direction of ['entry', 'allocation'] as const) {
    const { shape, tree } = treeOf(weights, direction);
    expect(tree.children('').reduce((sum, node) => sum + node.total, 0)).toBe(all);
    for (let node = 0; node < shape.length; node++) {
      const above: number[] = [];
      for (let at = node; at !== NONE; at = shape.parentId[at]!) above.push(shape.frameId[at]!);
      expect(new Set(above).size).toBe(above.length);
    }
  }
});

test('a node that is not there has no children, one that was not opened before is found', () => {
  const { shape, sums, tree } = treeOf(WEIGHTS, 'entry');
  const deep = tree.heaviest('').at(-1)!;
  expect(new PathTree(shape, sums, 'entry').children(deep)).toEqual(tree.children(deep));
  expect(tree.children('999')).toEqual([]);
});

test.each([
  ['entry', 'folded'],
  ['entry', 'unfolded'],
  ['allocation', 'folded'],
  ['allocation', 'unfolded'],
] as const)(
  'over random paths, from the %s with recursion %s, children and what ends at a node are the whole of it',
  (direction, recursion) => {
    const random = seeded(12);
    const weights: Record<string, number> = {};
    for (let n = 0; n < 400; n++)
      weights[
        Array.from({ length: 1 + Math.floor(random() * 7) }, () => 'abcdefg'[Math.floor(random() * 7)]).join('.')
      ] = 1 + Math.floor(random() * 100);
    const { tree, sums } = treeOf(weights, direction, recursion);
    const all = Object.values(weights).reduce((sum, bytes) => sum + bytes, 0);
    expect(sums.all).toBe(all);
    expect(tree.children('').reduce((sum, node) => sum + node.total, 0)).toBe(all);
    let nodes = 0;
    const check = (node: PathNode): void => {
      nodes++;
      const below = tree.children(node.id);
      expect(below).toHaveLength(node.children);
      // Variances were given as twice the values.
      expect([node.totalVariance, node.selfVariance]).toEqual([2 * node.total, 2 * node.self]);
      expect(below.reduce((sum, child) => sum + child.total, node.self)).toBe(node.total);
      if (nodes < 3000) below.forEach(check);
    };
    tree.children('').forEach(check);
    expect(nodes).toBeGreaterThan(100);
  },
);
