import type { SeriesPattern } from '@brisk-heron/core';
import { exactBytes, patternText, plusMinus, settingBytes, shortType } from '../../src/components/figures.ts';
import type { GrowthRow } from '@brisk-heron/core';

test('an estimate carries its error, an exact figure none', () => {
  expect(plusMinus(1024)).toBe('± 1.96 KiB');
  expect(plusMinus(0)).toBe('');
});

test('exact bytes are there for the pointer, and say their base', () => {
  expect(exactBytes(1_234_567.4)).toBe('1,234,567 bytes (1 MiB = 1,048,576)');
  expect(exactBytes(NaN)).toBe('unknown');
});

const row = (pattern: SeriesPattern, perRound: GrowthRow['perRound'] = null) => ({ pattern, perRound });

test.each([
  [row({ kind: 'rises-steadily' }), 'rises steadily'],
  [row({ kind: 'too-young' }), 'nothing old enough'],
  [row({ kind: 'falls' }), 'falls'],
  [row({ kind: 'steps', stepBytes: 524_288, times: 4, periodMs: 30_000 }), '+512 KiB each 30.0 s'],
  [row({ kind: 'steps', stepBytes: 524_288, times: 4, periodMs: NaN }), '+512 KiB 4 times'],
  [row({ kind: 'steady' }, { count: 1, bytes: 128, rounds: 12, of: 12 }), '+1 a round'],
  [row({ kind: 'steady' }, { count: NaN, bytes: 2048, rounds: 9, of: 10 }), '+2.00 KiB a round'],
])('%j is said to be: %s', (given, text) => {
  expect(patternText(given)).toBe(text);
});

test.each([
  [65_536, '64 KiB'],
  [1_048_576, '1 MiB'],
  [1_572_864, '1.5 MiB'],
  [10_485_760, '10 MiB'],
  [102_400, '100 KiB'],
])('a setting of %d bytes reads %s', (bytes, text) => {
  expect(settingBytes(bytes)).toBe(text);
});

test.each([
  ['java.util.HashMap.Node[]', 'HashMap.Node[]'],
  ['byte[]', 'byte[]'],
  ['Weirkeeper.Reading', 'Weirkeeper.Reading'],
  ['weir.Gate (lambda)', 'Gate (lambda)'],
  [null, '–'],
])('the type %s is %s in short', (type, short) => {
  expect(shortType(type)).toBe(short);
});
