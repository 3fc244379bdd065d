import { exactBytes, patternOf, plusMinus, settingBytes, shortType } from '../../src/components/figures.ts';
import { matchesFind } from '../../src/views/find.ts';

const site = { functionName: 'parseReading', place: 'wire.js:2', type: null };

test.each([['', true], [null, true], ['parse', true], ['PARSE wire', true], ['wire parse', true], ['weir', false], ['parse weir', false]])('find %j: %s', (find, found) => {
  expect(matchesFind(site, find)).toBe(found);
});

test('types can be found', () => {
  expect(matchesFind({ ...site, type: 'Reading[]' }, 'reading[]')).toBe(true);
});

test('an estimate carries its error, an exact figure none', () => {
  expect(plusMinus(1024)).toBe('± 1.96 KiB');
  expect(plusMinus(0)).toBe('');
});

test('exact bytes are there for the pointer, and say their base', () => {
  expect(exactBytes(1_234_567.4)).toBe('1,234,567 bytes (1 MiB = 1,048,576)');
  expect(exactBytes(NaN)).toBe('unknown');
});

test.each([
  [{ growthLow: 5, growthHigh: 9, tau: 0.95 }, 'rises steadily'], [{ growthLow: 5, growthHigh: 9, tau: 0.5 }, 'rises'],
  [{ growthLow: -9, growthHigh: -2, tau: -1 }, 'falls'], [{ growthLow: 0, growthHigh: 3, tau: 0.7 }, 'unclear'], [{ growthLow: -1, growthHigh: 1, tau: 0 }, 'steady'],
])('%j is said to be: %s', (figures, pattern) => {
  expect(patternOf({ ...figures, liveBytes: Float64Array.of(1, 2) })).toBe(pattern);
});

test('a site whose objects are all too young has no pattern', () => {
  expect(patternOf({ growthLow: 0, growthHigh: 0, tau: 0, liveBytes: new Float64Array(4) })).toBe('nothing old enough');
});

test.each([[65_536, '64 KiB'], [1_048_576, '1 MiB'], [1_572_864, '1.5 MiB'], [10_485_760, '10 MiB'], [102_400, '100 KiB']])('a setting of %d bytes reads %s', (bytes, text) => {
  expect(settingBytes(bytes)).toBe(text);
});

test.each([['java.util.HashMap.Node[]', 'HashMap.Node[]'], ['byte[]', 'byte[]'], ['Weirkeeper.Reading', 'Weirkeeper.Reading'], ['weir.Gate (lambda)', 'Gate (lambda)'], [null, '–']])('the type %s is %s in short', (type, short) => {
  expect(shortType(type)).toBe(short);
});
