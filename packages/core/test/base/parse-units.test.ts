import { parseBytes, parseDuration } from '../../src/base/parse-units.ts';

test.each([
  ['256 MiB', 256 * 2 ** 20],
  ['256m', 256 * 2 ** 20],
  ['1.5 GiB', 1.5 * 2 ** 30],
  ['1,5G', 1.5 * 2 ** 30],
  ['268435456', 268_435_456],
  ['64 kb', 65_536],
  ['0', 0],
])('the size %j is %d bytes', (text, bytes) => {
  expect(parseBytes(text)).toBe(bytes);
});

test.each([
  ['8 s', 8000],
  ['500 ms', 500],
  ['2 min', 120_000],
  ['8', 8000],
  ['1.5h', 5_400_000],
])('the duration %j is %d ms', (text, ms) => {
  expect(parseDuration(text)).toBe(ms);
});

test.each(['', 'much', '-3 MiB', '3 parsecs', '1.2.3'])('%j is neither', (text) => {
  expect([parseBytes(text), parseDuration(text)]).toEqual([NaN, NaN]);
});
