import { costSeries } from '../../src/analysis/cost-series.ts';
import { pauseBuckets, usualEdges } from '../../src/analysis/pause-buckets.ts';
import { pauseKinds } from '../../src/analysis/pause-kinds.ts';
import { programPauses } from '../../src/analysis/program-pauses.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { recordingOf } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const MIB = 1024 * 1024;

test('every pause is in one bucket, whatever the edges', () => {
  const random = seeded(11);
  for (let round = 0; round < 50; round++) {
    const pauses = Float64Array.from({ length: Math.floor(random() * 40) }, () => random() * 300);
    const edges = Array.from({ length: Math.floor(random() * 6) }, () => random() * 400 - 50);
    const { edgesMs, counts, totalsMs } = pauseBuckets(pauses, edges);
    expect(edgesMs[0]).toBe(0);
    expect([...edgesMs].sort((a, b) => a - b)).toEqual(edgesMs);
    counts.forEach((count, n) =>
      expect(count).toBe(pauses.filter((ms) => ms >= edgesMs[n]! && ms < edgesMs[n + 1]!).length),
    );
    expect(counts.reduce((a, b) => a + b, 0)).toBe(pauses.length);
    expect(totalsMs.reduce((a, b) => a + b, 0)).toBeCloseTo(
      pauses.reduce((a, b) => a + b, 0),
      6,
    );
  }
});

test.each([
  [[], [0, 1]],
  [[0.3], [0, 0.5]],
  [
    [3, 40],
    [0, 5, 10, 20, 50],
  ],
  [
    [5, 5],
    [0, 10],
  ],
  [
    [0, 0],
    [0, 1],
  ],
])('usual edges of pauses %j are %j', (pauses, edges) => {
  expect(usualEdges(Float64Array.from(pauses))).toEqual(edges);
});

test('kinds by label and by cause, the costliest first', () => {
  const recording = recordingOf(
    [
      { startMs: 0, ms: 2, before: 1, after: 1, scope: Scope.young, label: 'young' },
      { startMs: 100, ms: 30, before: 1, after: 1, label: 'whole' },
      { startMs: 200, ms: 4, before: 1, after: 1, scope: Scope.young, label: 'young' },
    ],
    1000,
  );
  const cause = recording.intern('asked for');
  const none = recording.intern('');
  recording.tables.pauses.col.causeId.set([cause, cause, none]);
  const span = { fromMs: 0, toMs: 1000 };
  const selection = programPauses(recording, span);
  expect(
    pauseKinds(recording, selection, span, 'label').map(
      ({ name, scope, count, totalMs, meanMs, p50Ms, maxMs, timeRatio }) => [
        name,
        scope,
        count,
        totalMs,
        meanMs,
        p50Ms,
        maxMs,
        timeRatio,
      ],
    ),
  ).toEqual([
    ['whole', Scope.whole, 1, 30, 30, 30, 30, 0.03],
    ['young', Scope.young, 2, 6, 3, 2, 4, 0.006],
  ]);
  expect(pauseKinds(recording, selection, span, 'cause').map(({ name, count }) => [name, count])).toEqual([
    ['asked for', 2],
    ['(no cause told)', 1],
  ]);
});

test('the series add up to the totals, and lie in their slices', () => {
  const recording = recordingOf(
    [
      { startMs: 950, ms: 100, before: 30 * MIB, after: 10 * MIB, scope: Scope.young },
      { startMs: 2000, ms: 50, before: 20 * MIB, after: 10 * MIB },
      { startMs: 2500, ms: 10, before: 90 * MIB, after: 10 * MIB, flags: CollectionFlag.own },
    ],
    4000,
  );
  recording.tables.collections.col.promotedBytes[0] = 4 * MIB;
  const span = { fromMs: 0, toMs: 4000 };
  const series = costSeries(recording, span, 4);
  expect(Array.from(series.throughputRatio)).toEqual([0.95, 0.95, 0.95, 1]);
  expect(Array.from(series.promotedBytesPerSec)).toEqual([4 * MIB, 0, 0, 0]);
  expect(Array.from(series.reclaimedBytesPerSec)).toEqual([20 * MIB, 0, 10 * MIB, 0]);
  // 30 until 950 ms, 10 from 1050 to 2000, 80 from 2050 to 2500.
  expect(series.allocBytesPerSec.reduce((a, b) => a + b, 0)).toBeCloseTo(120 * MIB, 3);
  expect(series.allocBytesPerSec[3]).toBe(0);
});

test('a concurrent cycle is spread over its time; without a clock nothing is known', () => {
  const recording = recordingOf(
    [{ startMs: 500, ms: 1000, before: 1, after: 1, flags: CollectionFlag.concurrentCycle }],
    2000,
  );
  recording.tables.collections.col.concurrentMs[0] = 600;
  const span = { fromMs: 0, toMs: 2000 };
  expect(Array.from(costSeries(recording, span, 2).concurrentRatio)).toEqual([0.3, 0.3]);
  recording.hasClock = false;
  expect(Array.from(costSeries(recording, span, 2).concurrentRatio)).toEqual([0, 0]);
});
