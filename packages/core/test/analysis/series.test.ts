import { floorPoints } from '../../src/analysis/floor.ts';
import { usedSeries } from '../../src/analysis/used-series.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { binExtremes, binSteps } from '../../src/query/downsample.ts';
import { addCollection, recordingOf } from '../build-recording.ts';

test('used memory joins both ends of every pause, heaps added', () => {
  const recording = recordingOf([{ startMs: 10, ms: 2, before: 100, after: 40 }]);
  recording.addHeap('worker');
  addCollection(recording, { startMs: 20, ms: 1, before: 7, after: 3, heapId: 1 });
  expect([...usedSeries(recording).tMs]).toEqual([10, 12, 20, 21]);
  expect([...usedSeries(recording).bytes]).toEqual([100, 40, 47, 43]);
});

test('slices reach what the line through the readings reaches', () => {
  const { low, high } = binExtremes(
    Float64Array.of(0, 10, 10, 20),
    Float64Array.of(0, 100, 20, 40),
    { fromMs: 0, toMs: 40 },
    4,
  );
  expect([...low]).toEqual([0, 20, 40, NaN]);
  expect([...high]).toEqual([100, 100, 40, NaN]);
});

test('a slice without a reading lies between its neighbours', () => {
  const { low, high } = binExtremes(Float64Array.of(0, 40), Float64Array.of(0, 40), { fromMs: 10, toMs: 30 }, 2);
  expect([[...low], [...high]]).toEqual([
    [10, 20],
    [20, 30],
  ]);
});

test('a step series holds until the next reading', () => {
  expect([...binSteps(Float64Array.of(5, 12, 14), Float64Array.of(50, 20, 30), { fromMs: 0, toMs: 40 }, 4)]).toEqual([
    50, 20, 30, 30,
  ]);
  expect([...binSteps(Float64Array.of(5), Float64Array.of(7), { fromMs: 10, toMs: 20 }, 2)]).toEqual([7, 7]);
  expect([...binSteps(Float64Array.of(), Float64Array.of(), { fromMs: 0, toMs: 1 }, 1)]).toEqual([NaN]);
});

test('the floor rests on whole collections, or on minima of windows', () => {
  const whole = recordingOf(
    Array.from({ length: 6 }, (_, n) => ({ startMs: n * 100, ms: 1, before: 90, after: 10 + n })),
  );
  expect(floorPoints(whole, { fromMs: 0, toMs: 1000 })).toMatchObject({
    basis: 'whole-collections',
    wholeCollections: 6,
  });
  const young = recordingOf(
    Array.from({ length: 12 }, (_, n) => ({
      startMs: n * 100,
      ms: 1,
      before: 90,
      after: 10 + (n % 3),
      scope: Scope.young,
    })),
  );
  const floor = floorPoints(young, { fromMs: 0, toMs: 2000 });
  expect([floor.basis, [...floor.bytes]]).toEqual(['window-minima', [10, 10, 10, 10]]);
});

test('a concurrent cycle counts at the lowest collection that follows it', () => {
  const cycle = { ms: 50, before: NaN, after: NaN, flags: CollectionFlag.concurrentCycle };
  const collections = Array.from({ length: 6 }, (_, n) => [
    { ...cycle, startMs: n * 1000 },
    { startMs: n * 1000 + 100, ms: 1, before: 80, after: 30, scope: Scope.mixed },
    { startMs: n * 1000 + 200, ms: 1, before: 80, after: 20 + n, scope: Scope.mixed },
  ]).flat();
  expect([...floorPoints(recordingOf(collections), { fromMs: 0, toMs: 9000 }).bytes]).toEqual([20, 21, 22, 23, 24, 25]);
});
