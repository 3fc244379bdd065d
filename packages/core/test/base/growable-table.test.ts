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
