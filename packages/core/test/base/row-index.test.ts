import { NO_ROW, RowIndex } from '../../src/base/row-index.ts';
import { seeded } from '../seeded.ts';

test.each([1, 2, 3, 4])('ids that come and go are found as a map finds them (%i)', (seed) => {
  const random = seeded(seed);
  const index = new RowIndex();
  const known = new Map<number, number>();
  // Ids that rise, ids that are far apart, and ids beyond 32 bits: each kind falls on places of its own.
  const someId = (n: number): number => {
    const kind = Math.floor(random() * 3);
    return kind === 0 ? n % 500 : kind === 1 ? Math.floor(random() * 300) * 4096 : 2 ** 40 + Math.floor(random() * 300);
  };
  for (let n = 0; n < 20_000; n++) {
    const id = someId(n);
    if (random() < 0.55) {
      if (index.add(id, n) === known.has(id))
        throw new Error(`id ${id} was ${known.has(id) ? 'added twice' : 'not added'}`);
      if (!known.has(id)) known.set(id, n);
    } else {
      index.delete(id);
      known.delete(id);
    }
    if (n % 2000 !== 0) continue;
    expect(index.size).toBe(known.size);
    expect(Array.from(known.keys(), (each) => index.get(each))).toEqual([...known.values()]);
    expect(index.get(-7)).toBe(NO_ROW);
  }
  const rows: number[] = [];
  index.forEachRow((row) => rows.push(row));
  expect(rows.sort((a, b) => a - b)).toEqual([...known.values()].sort((a, b) => a - b));
});

test('rows that moved are found where they are, those left out are known as such, and nothing is left after clearing', () => {
  const index = new RowIndex();
  for (let id = 0; id < 1000; id++) index.add(id, id);
  index.moveRows(Uint32Array.from({ length: 1000 }, (_, row) => (row % 2 === 0 ? row / 2 : 0xffffffff)));
  expect([index.get(10), index.get(11), index.get(1000)]).toEqual([5, 0xffffffff, NO_ROW]);
  index.delete(11);
  expect([index.get(11), index.size]).toEqual([NO_ROW, 999]);
  index.clear();
  expect([index.get(10), index.size]).toEqual([NO_ROW, 0]);
});

test('ids that want the same places are told apart as well', () => {
  const index = new RowIndex();
  const idOf = (n: number): number => n * 65_536 + (n % 7) * 2 ** 33;
  for (let n = 0; n < 20_000; n++) expect(index.add(idOf(n), n)).toBe(true);
  for (let n = 0; n < 20_000; n += 3) index.delete(idOf(n));
  for (let n = 0; n < 20_000; n++) if (index.get(idOf(n)) !== (n % 3 === 0 ? NO_ROW : n)) throw new Error(`id of ${n}`);
  expect(index.size).toBe(13_333);
});
