import { restartsOf, type RunPoint, runPoints } from '../../src/measures/history.ts';
import { Study } from '../../src/study/study.ts';
import { fixed, leak, log } from './samples.ts';

const MIB = 1024 * 1024;
const HOUR = 3_600_000;
const run = (at: number, more: Partial<RunPoint> = {}): RunPoint => ({
  program: 'tidewatch',
  startEpochMs: 1.7e12 + at * HOUR,
  durationMs: 58 * 60_000,
  verdict: 'growing',
  growthBytesPerSec: 100_000,
  growthLow: 90_000,
  growthHigh: 110_000,
  peakBytes: 512 * MIB,
  limitBytes: 512 * MIB,
  lostRatio: 0.01,
  p99Ms: 20,
  longestMs: 40,
  outOfMemory: false,
  ...more,
});

test('runs that climb to their limit one after another are told as restarts', () => {
  const runs = Array.from({ length: 15 }, (_, at) => run(at, { durationMs: (57 + (at % 3)) * 60_000 }));
  expect(restartsOf(runs)).toMatchObject({
    restarts: 14,
    sentence: '14 restarts, each after about 58 min; reached 512 MiB of 512 MiB each time.',
  });
  // In whatever order they come, and with the last under way.
  const underWay = [...runs.slice(0, 14), run(14, { durationMs: 60_000, peakBytes: 30 * MIB, verdict: 'unclear' })];
  expect(restartsOf(underWay.reverse())!.restarts).toBe(14);
});

test('what is no habit is not called one', () => {
  const steady = { verdict: 'steady', peakBytes: 100 * MIB } as const;
  expect(restartsOf([run(0), run(1)])).toBeNull();
  expect(restartsOf(Array.from({ length: 9 }, (_, at) => run(at, steady)))).toBeNull();
  // Of other lengths each, as batch jobs are; and processes that run beside each other.
  expect(restartsOf([1, 40, 3, 20, 7].map((minutes, at) => run(at, { durationMs: minutes * 60_000 })))).toBeNull();
  expect(restartsOf(Array.from({ length: 5 }, (_, at) => run(at / 100)))).toBeNull();
  expect(restartsOf([])).toBeNull();
});

test('each run of an input is a point, with what is not known as null', () => {
  const [first, second, third] = runPoints(new Study({ runs: [leak, fixed, log] }));
  expect(first).toMatchObject({ program: 'tidewatch', verdict: 'growing', outOfMemory: false });
  expect(second).toMatchObject({ verdict: 'steady' });
  expect(third!.peakBytes).toBeGreaterThan(10 * MIB);
  for (const point of [first!, second!, third!]) for (const value of Object.values(point)) expect(value).not.toBeNaN();
  expect(JSON.parse(JSON.stringify(first))).toEqual(first);
});
