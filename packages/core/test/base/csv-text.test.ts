import { csvCell, csvText } from '../../src/base/csv-text.ts';

test.each([
  [1.5, '1.5'],
  [NaN, ''],
  [Infinity, ''],
  ['subscribe alerts.js:14', 'subscribe alerts.js:14'],
  ['Map<K, V>', '"Map<K, V>"'],
  ['a "b"', '"a ""b"""'],
  ['=1+1', "'=1+1"],
  ['-x', "'-x"],
])('%j is saved as %j', (value, text) => {
  expect(csvCell(value)).toBe(text);
});

test('a table has a line of names and a line a row, each ended', () => {
  expect(
    csvText(
      ['site', 'bytes'],
      [
        ['add, parse', 12],
        ['tide', NaN],
      ],
    ),
  ).toBe('site,bytes\n"add, parse",12\ntide,\n');
  expect(csvText(['site'], [])).toBe('site\n');
});
