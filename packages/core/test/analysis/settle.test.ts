import type { ChargeTable } from '../../src/analysis/charge-table.ts';
import { floorPoints, usedAfterPoints } from '../../src/analysis/floor.ts';
import { followedSpan, growthMoments } from '../../src/analysis/growth-moments.ts';
import { settleTimeMs } from '../../src/analysis/settle-time.ts';
import { growthShares, withGrowthShares } from '../../src/analysis/verdict/growth-shares.ts';
import { Recording } from '../../src/model/recording.ts';
import { PhaseKind } from '../../src/model/tables.ts';
import { addCollection, addObject, recordingOf } from '../build-recording.ts';

function phase(recording: Recording, kind: number, fromMs: number, toMs: number): void {
  const row = recording.tables.phases.addRow();
  recording.tables.phases.col.kind[row] = kind;
  recording.tables.phases.col.fromMs[row] = fromMs;
  recording.tables.phases.col.toMs[row] = toMs;
}

describe('settle time', () => {
  test('is the 95th percentile of the lifetimes that were seen', () => {
    const recording = new Recording('recording');
    for (let n = 1; n <= 100; n++) addObject(recording, { bornMs: 0, diedMs: n * 10, bytes: 8, site: 'a' });
    recording.reach(60_000);
    expect(settleTimeMs(recording, { fromMs: 0, toMs: 60_000 })).toBe(950);
  });

  test('is two collections at least, and a third of the span at most', () => {
    const recording = recordingOf(
      [1000, 3000, 5000, 7000].map((startMs) => ({ startMs, ms: 0, before: 2, after: 1 })),
      60_000,
    );
    expect(settleTimeMs(recording, { fromMs: 0, toMs: 60_000 })).toBe(4000);
    expect(settleTimeMs(recording, { fromMs: 0, toMs: 6000 })).toBe(2000);
  });

  test('counts polls rather than collections where the source polls', () => {
    const recording = recordingOf(
      [10, 20, 30].map((startMs) => ({ startMs, ms: 0, before: 2, after: 1 })),
      60_000,
    );
    for (const tMs of [2000, 4500, 7000]) recording.tables.polls.col.tMs[recording.tables.polls.addRow()] = tMs;
    expect(settleTimeMs(recording, { fromMs: 0, toMs: 60_000 })).toBe(5000);
  });
});

describe('where growth by site is read', () => {
  test('in the longest stretch in which objects were followed', () => {
    const recording = new Recording('recording');
    phase(recording, PhaseKind.births, 0, 1000);
    phase(recording, PhaseKind.survivors, 1000, 3000);
    phase(recording, PhaseKind.births, 3000, 4000);
    phase(recording, PhaseKind.survivors, 4000, NaN);
    expect(followedSpan(recording, { fromMs: 0, toMs: 10_000 })).toEqual({ sinceMs: 4000, fromMs: 4000, toMs: 10_000 });
    expect(followedSpan(recording, { fromMs: 0, toMs: 3500 })).toEqual({ sinceMs: 1000, fromMs: 1000, toMs: 3000 });
    expect(followedSpan(recording, { fromMs: 5000, toMs: 6000 })).toEqual({ sinceMs: 4000, fromMs: 5000, toMs: 6000 });
    expect(followedSpan(recording, { fromMs: 3100, toMs: 3900 })).toBeNull();
  });

  test("at the floor's points that come a settle time after following began, else at equal moments", () => {
    const floor = floorPoints(
      recordingOf(Array.from({ length: 20 }, (_, n) => ({ startMs: n * 100, ms: 0, before: 9, after: 3 }))),
      { fromMs: 0, toMs: 2000 },
    );
    const followed = { sinceMs: 500, fromMs: 500, toMs: 2000 };
    expect([...growthMoments(floor, followed, 300)]).toEqual([
      800, 900, 1000, 1100, 1200, 1300, 1400, 1500, 1600, 1700, 1800, 1900,
    ]);
    expect(growthMoments(floor, followed, 1000)).toHaveLength(64);
    expect(growthMoments(floor, followed, 5000)).toHaveLength(0);
  });
});

describe('the floor of several heaps', () => {
  test('is their sum, from when each has told its own', () => {
    const recording = new Recording('recording');
    recording.addHeap('main');
    recording.addHeap('worker');
    for (let n = 0; n < 6; n++) {
      addCollection(recording, { startMs: n * 100, ms: 0, before: 50, after: 10 + n, heapId: 0 });
      if (n > 0) addCollection(recording, { startMs: n * 100 + 50, ms: 0, before: 20, after: 5, heapId: 1 });
    }
    expect([...floorPoints(recording, { fromMs: 0, toMs: 1000 }).bytes]).toEqual([16, 17, 17, 18, 18, 19, 19, 20, 20]);
  });

  test('used-after of every collection can be asked for', () => {
    const recording = recordingOf([
      { startMs: 1, ms: 1, before: 9, after: 4 },
      { startMs: 5, ms: 1, before: 9, after: NaN },
    ]);
    expect(usedAfterPoints(recording, { fromMs: 0, toMs: 10 })).toMatchObject({
      basis: 'all-collections',
      bytes: Float64Array.of(4),
    });
  });
});

test('the sites named are those that surely grow, and their share is of the floor’s slope', () => {
  const site = (growthBytesPerSec: number, error = 1, isOutside = false): object => ({
    growthBytesPerSec,
    growthLow: growthBytesPerSec - error,
    growthHigh: growthBytesPerSec + error,
    isOutside,
  });
  const table = (...rows: object[]): ChargeTable => ({ rows }) as unknown as ChargeTable;
  const slope = { slopeBytesPerSec: 100, slopeLow: 99, slopeHigh: 101 };
  const two = growthShares(table(site(40), site(20), site(30, 31), site(500, 1, true)), slope);
  expect([two.named.length, two.parts]).toEqual([2, 'as 2 : 1']);
  expect(two.ratio).toBeCloseTo(0.6, 12);
  expect(two.low).toBeLessThan(0.6);
  expect(two.high).toBeLessThan(0.65);
  // What sampling makes larger than the floor is all of it, and not 216 %.
  expect(growthShares(table(site(216, 150)), slope)).toMatchObject({ ratio: 1, high: 1, explainedRatio: 1 });
  expect(growthShares(table(site(90, 91)), slope).named).toEqual([]);
  expect(withGrowthShares(table(site(50)), { kind: 'steady', slopeBytesPerSec: 0 }).rows[0]!.growthShareRatio).toBe(0);
});
