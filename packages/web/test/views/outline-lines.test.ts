import { cellBeside, outlineLines } from '../../src/components/outline-lines.ts';

test('rows stand under their open parents, and only there', () => {
  const row = (id: string, children = 0) => ({ id, words: [], children });
  const children = new Map([
    ['', [row('a', 2), row('b', 1)]],
    ['a', [row('a,c'), row('a,d', 1)]],
    ['a,d', [row('a,d,e')]],
  ]);
  const told = (open: string[]) =>
    outlineLines(children, open).map(({ row: { id }, depth, isOpen }) => [id, depth, isOpen]);
  expect(told([''])).toEqual([
    ['a', 0, false],
    ['b', 0, false],
  ]);
  // What is open and has not come yet is not shown open.
  expect(told(['', 'a', 'b'])).toEqual([
    ['a', 0, true],
    ['a,c', 1, false],
    ['a,d', 1, false],
    ['b', 0, false],
  ]);
  expect(told(['a,d', 'a']).map(([id]) => id)).toEqual(['a', 'a,c', 'a,d', 'a,d,e', 'b']);
});

test('arrows go to the cell beside, above and below', () => {
  const cells = [
    { depth: 0, from: 0, to: 0.6 },
    { depth: 0, from: 0.6, to: 1 },
    { depth: 1, from: 0, to: 0.2 },
    { depth: 1, from: 0.6, to: 0.9 },
  ];
  expect(['ArrowDown', 'ArrowRight', 'ArrowLeft', 'ArrowUp', 'x'].map((key) => cellBeside(cells, 0, key))).toEqual([
    2, 1, -1, -1, -1,
  ]);
  expect([
    cellBeside(cells, 3, 'ArrowUp'),
    cellBeside(cells, 3, 'ArrowLeft'),
    cellBeside(cells, 1, 'ArrowDown'),
  ]).toEqual([1, 2, 3]);
  expect(cellBeside([], 0, 'ArrowDown')).toBe(-1);
});
