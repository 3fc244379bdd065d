import { bothClocks, parseGoal, parseInstant, wallClock, wallSpan } from '../../src/look-controls/clock-time.ts';

const START = new Date(2026, 10, 29, 23, 59, 30).getTime();
const known = { durationMs: 120_000, startEpochMs: START };
const unknown = { durationMs: 120_000, startEpochMs: NaN };

test('recording time is read as before, and only inside the recording', () => {
  expect(parseInstant('1:23.4', unknown)).toBe(83_400);
  expect(parseInstant('90 s', unknown)).toBe(90_000);
  for (const text of ['3:00', '-1', 'noon', '', '14:03:12']) expect(parseInstant(text, unknown)).toBeNaN();
});

test('a clock time is taken where the recording knows it, over midnight too', () => {
  expect(parseInstant('23:59:40', known)).toBe(10_000);
  // Inside the recording: its own time, whatever the clock said.
  expect(parseInstant('00:00:05.5', known)).toBe(5500);
  const evening = { durationMs: 60_000, startEpochMs: START };
  expect(parseInstant('2026-11-30 00:00:05.5', evening)).toBe(35_500);
  expect(parseInstant('2026-11-29 23:59:31', known)).toBe(1000);
  expect(parseInstant('2026-11-30T00:00:30', known)).toBe(60_000);
  for (const text of ['23:59:00', '12:00:00', '2026-11-28 23:59:40']) expect(parseInstant(text, known)).toBeNaN();
});

test('hours, minutes and seconds inside a long recording are its own time', () => {
  const long = { durationMs: 30 * 3_600_000, startEpochMs: START };
  expect(parseInstant('14:03:12', long)).toBe((14 * 60 + 3) * 60_000 + 12_000);
});

test('two times with a dash are a span, the second after the first', () => {
  expect(parseGoal('0:10 – 0:20', unknown)).toEqual({ fromMs: 10_000, toMs: 20_000 });
  expect(parseGoal('0:10 to 23:59:50', known)).toEqual({ fromMs: 10_000, toMs: 20_000 });
  expect(parseGoal('0:10', unknown)).toEqual({ tMs: 10_000 });
  for (const text of ['0:20 - 0:10', '0:10 - ', 'a – b', '1 - 2 - 3']) expect(parseGoal(text, unknown)).toBeNull();
});

test('both clocks are told where both are known', () => {
  expect(wallClock(START)).toBe('23:59:30');
  expect(bothClocks(1000, START)).toBe('0:01.0, 23:59:31');
  expect(bothClocks(1000, NaN)).toBe('0:01.0');
  expect(wallSpan({ fromMs: 0, toMs: 40_000 }, START)).toMatch(/^23:59:30 – 00:00:10 \S+/);
  expect(wallSpan({ fromMs: 0, toMs: 40_000 }, NaN)).toBe('');
});
