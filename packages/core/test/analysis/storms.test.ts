import { countCollections } from '../../src/analysis/collection-counts.ts';
import { findStorms } from '../../src/analysis/storms.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { recordingOf } from '../build-recording.ts';

const whole = (startMs: number, ms: number, before = 100, after = 50) => ({ startMs, ms, before, after });
const SPAN = { fromMs: 0, toMs: 100_000 };

test('three whole collections that come sooner than twenty pauses are a storm', () => {
  const storms = findStorms(recordingOf([whole(1000, 50), whole(1900, 50), whole(2800, 50), whole(60_000, 50)]), SPAN);
  expect(storms).toEqual([{ fromMs: 1000, toMs: 2850, rows: [0, 1, 2] }]);
});

test('rare collections are none, unless they give nothing back of a full heap', () => {
  expect(findStorms(recordingOf([whole(1000, 50), whole(21_000, 50), whole(41_000, 50)]), SPAN)).toEqual([]);
  const full = recordingOf([whole(1000, 50, 100, 98), whole(21_000, 50, 100, 98), whole(41_000, 50, 100, 97)]);
  full.heaps[0]!.limitBytes = 105;
  expect(findStorms(full, SPAN)).toHaveLength(1);
  // Far from any limit, a collection that gives little back was asked for too early.
  full.heaps[0]!.limitBytes = 4000;
  expect(findStorms(full, SPAN)).toEqual([]);
});

test("two are too few, and the recorder's own do not count", () => {
  expect(findStorms(recordingOf([whole(1000, 50), whole(1100, 50)]), SPAN)).toEqual([]);
  expect(
    findStorms(recordingOf([whole(1, 9), whole(20, 9), { ...whole(40, 9), flags: CollectionFlag.own }]), SPAN),
  ).toEqual([]);
});

test('collections are counted by scope, cycles apart, own ones apart', () => {
  const counts = countCollections(
    recordingOf([
      { ...whole(1, 1), scope: Scope.young },
      { ...whole(2, 1), scope: Scope.mixed },
      whole(3, 1),
      { ...whole(4, 1), flags: CollectionFlag.concurrentCycle },
      { ...whole(5, 1), flags: CollectionFlag.own },
    ]),
    SPAN,
  );
  expect(counts).toEqual({ count: 4, young: 1, mixed: 1, whole: 1, concurrentCycles: 1, degenerated: 0, own: 1 });
});
