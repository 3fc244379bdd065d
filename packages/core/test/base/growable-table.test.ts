import { GrowableTable } from '../../src/base/growable-table.ts';
import { NONE } from '../../src/base/ids.ts';

test('rows survive growth, and new rows are missing in every column', () => {
  const table = new GrowableTable({ tMs: 'f64', id: 'u32', flags: 'u8' });
  for (let row = 0; row < 1000; row++) {
    expect(table.addRow()).toBe(row);
    table.col.tMs[row] = row / 2;
  }
  expect(table.length).toBe(1000);
  expect([table.col.tMs[0], table.col.tMs[999]]).toEqual([0, 499.5]);
  expect([table.col.id[999], table.col.flags[999]]).toEqual([NONE, 0]);
  expect(table.col.tMs[table.addRow()]).toBeNaN();
});

test.each([[[]], [[4, 0, 4]], [Array.from({ length: 300 }, (_, n) => (n * 7) % 100)]])(
  'picked rows are those asked for, in that order, and what comes after them is missing',
  (rows) => {
    const table = new GrowableTable({ tMs: 'f64', weight: 'f32', id: 'u32', heapId: 'u16', flags: 'u8' });
    for (let row = 0; row < 100; row++) {
      table.addRow();
      table.col.tMs[row] = row / 2;
      table.col.weight[row] = row / 4;
      table.col.id[row] = 3 * row;
      table.col.heapId[row] = table.col.flags[row] = row % 9;
    }
    const picked = table.picked(Uint32Array.from(rows));
    expect(picked.length).toBe(rows.length);
    const { col, length } = picked;
    expect(
      Array.from({ length }, (_, at) => [col.tMs[at], col.weight[at], col.id[at], col.heapId[at], col.flags[at]]),
    ).toEqual(rows.map((row) => [row / 2, row / 4, 3 * row, row % 9, row % 9]));
    const next = picked.addRow();
    expect([picked.col.tMs[next], picked.col.weight[next], picked.col.id[next], picked.col.flags[next]]).toEqual([
      NaN,
      NaN,
      NONE,
      0,
    ]);
    expect(picked.col.tMs[0]).toBe(rows.length > 0 ? rows[0]! / 2 : NaN);
  },
);

test('columns that are picked as they are asked for are those that are picked at once', () => {
  const table = new GrowableTable({ tMs: 'f64', name: 'u32', kind: 'u8' } as const);
  for (let n = 0; n < 300; n++) {
    const row = table.addRow();
    table.col.tMs[row] = n / 2;
    if (n % 3 === 0) table.col.name[row] = n;
    table.col.kind[row] = n % 7;
  }
  const rows = Uint32Array.from([299, 4, 5, 6, 0]);
  const [picked, asked] = [table.picked(rows), table.pickedAsAsked(rows)];
  expect(asked.length).toBe(picked.length);
  for (const name of ['kind', 'tMs', 'name'] as const) {
    expect(asked.col[name].slice(0, rows.length)).toEqual(picked.col[name].slice(0, rows.length));
    // Copied once, and a copy.
    expect(asked.col[name]).toBe(asked.col[name]);
  }
  asked.col.tMs[0] = 7;
  expect(table.col.tMs[299]).toBe(149.5);
  // One that was never looked at grows as well as any.
  const grown = table.pickedAsAsked(rows);
  for (let n = 0; n < 100; n++) grown.col.kind[grown.addRow()] = 9;
  expect([grown.length, grown.col.tMs[0], grown.col.kind[104], grown.col.tMs[104]]).toEqual([105, 149.5, 9, NaN]);
});

test('rows that are added together hold what is missing, and those taken back are given again', () => {
  const table = new GrowableTable({ tMs: 'f64', id: 'u32', flag: 'u8' });
  for (let n = 0; n < 5; n++) {
    const first = table.addRows(700);
    expect(first).toBe(n * 600);
    table.col.tMs.fill(n, first, first + 600);
    table.takeBack(100);
  }
  expect(table.length).toBe(3000);
  const next = table.addRow();
  expect([table.col.tMs[next], table.col.id[next], table.col.flag[next]]).toEqual([NaN, 0xffffffff, 0]);
  expect(Array.from(table.col.tMs.subarray(0, 3000))).toEqual(
    Array.from({ length: 3000 }, (_, row) => Math.floor(row / 600)),
  );
  expect(table.col.id.subarray(0, 3001).every((id) => id === 0xffffffff)).toBe(true);
});

test('where many rows are expected room is made for them at once, and wrong expectations do no harm', () => {
  const table = new GrowableTable({ tMs: 'f64' });
  table.addRows(100);
  table.expect(2000);
  table.addRows(200);
  expect(table.col.tMs.length).toBeGreaterThanOrEqual(2000);
  table.expect(10);
  table.addRows(5000);
  expect(table.length).toBe(5300);
  table.expect(1e12);
  table.addRows(10_000);
  expect(table.col.tMs.length).toBeLessThan(1e6);
});
