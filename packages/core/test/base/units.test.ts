import {
  formatAbout,
  formatBytes,
  formatBytesLike,
  formatClock,
  formatDuration,
  formatPercent,
} from '../../src/base/units.ts';

test('sizes are 1024-based and carry their unit', () => {
  expect([0, 512, 1023, 1536, 3.4 * 1048576, 256 * 1048576, -2048, -0.4, NaN].map(formatBytes)).toEqual([
    '0 B',
    '512 B',
    '1023 B',
    '1.50 KiB',
    '3.40 MiB',
    '256 MiB',
    '−2.00 KiB',
    '0 B',
    '–',
  ]);
});

test('an interval is printed in the unit of its middle', () => {
  expect(formatBytesLike(3.1 * 1048576, 3.4 * 1048576)).toBe('3.10');
  expect(formatBytesLike(900 * 1024, 3.4 * 1048576)).toBe('0.88');
});

test('durations and instants', () => {
  expect([0.314, 9.999, 92.4, 4200, 180_000, 7_500_000, NaN].map(formatDuration)).toEqual([
    '0.31 ms',
    '10.0 ms',
    '92.4 ms',
    '4.2 s',
    '3 min 0 s',
    '2 h 5 min',
    '–',
  ]);
  expect([0, 66_000, 3_723_000].map((ms) => formatClock(ms))).toEqual(['0:00', '1:06', '1:02:03']);
  expect(formatClock(66_450, true)).toBe('1:06.5');
  expect([20_000, 2_460_000, 90_000_000].map(formatAbout)).toEqual(['20 s', '41 min', '25 h']);
});

test('percentages keep small shares apart from nothing', () => {
  expect([0, 1e-6, 0.00042, 0.018, 0.92, 1].map(formatPercent)).toEqual([
    '0 %',
    '< 0.01 %',
    '0.04 %',
    '1.8 %',
    '92 %',
    '100 %',
  ]);
});
