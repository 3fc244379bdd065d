import { lastKnownAlive } from '../../src/analysis/last-known-alive.ts';
import { settleTimeMs } from '../../src/analysis/settle-time.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, PhaseKind, Scope } from '../../src/model/tables.ts';
import { addObject, followObjects, recordingOf } from '../build-recording.ts';

const young = (startMs: number) => ({ startMs, ms: 10, before: 9, after: 5, scope: Scope.young });
const whole = (startMs: number, flags = 0) => ({ startMs, ms: 50, before: 9, after: 5, flags });

function withObject(recording: Recording, bornMs: number, diedMs: number, slackMs: number): number {
  addObject(recording, { bornMs, diedMs, bytes: 8, site: 'open' });
  recording.tables.objects.col.diedSlackMs[0] = slackMs;
  return lastKnownAlive(recording)(0);
}

function followed(...collections: Parameters<typeof recordingOf>[0]): Recording {
  const recording = recordingOf(collections, 10_000);
  followObjects(recording);
  return recording;
}

test('what a young collection noticed was alive at the collection before', () => {
  expect(withObject(followed(young(1000), young(2000), young(3000)), 1500, 3010, 1000)).toBe(2010);
});

test('what a whole collection noticed may have been dead since the whole collection before began', () => {
  expect(withObject(followed(whole(1000), young(2000), young(3000), whole(4000)), 500, 4050, 1040)).toBe(1000);
});

test('it was alive at its birth at least', () => {
  expect(withObject(followed(young(2000), whole(4000)), 1500, 4050, 2040)).toBe(1500);
  expect(withObject(followed(), 1500, 4050, 100)).toBe(3950);
});

test('what is noticed between collections was found by a concurrent one', () => {
  const cycle = { startMs: 1000, ms: 900, before: 9, after: 5, flags: CollectionFlag.concurrentCycle };
  expect(withObject(followed(cycle, young(2500), young(3000)), 1200, 3400, 390)).toBe(1200);
  expect(withObject(followed(cycle, young(2500), young(3000)), 200, 3400, 390)).toBe(1000);
});

test('a cycle that has not ended notices nothing yet', () => {
  expect(withObject(followed(young(2000), young(3000), whole(2500, CollectionFlag.unfinished)), 2100, 3010, 1000)).toBe(
    2100,
  );
});

test('what a recorder that polls says is taken as it is', () => {
  const recording = recordingOf([whole(1000), whole(2000)], 10_000);
  const row = recording.tables.phases.addRow();
  recording.tables.phases.col.kind[row] = PhaseKind.survivors;
  recording.tables.phases.col.fromMs[row] = 0;
  expect(withObject(recording, 500, 2050, 1000)).toBe(1050);
});

test('an object that is not dead has no such time, and the settle time goes to the middle of what is known', () => {
  const recording = followed(young(1000), young(2000), young(3000), whole(4000));
  addObject(recording, { bornMs: 500, bytes: 8, site: 'open' });
  addObject(recording, { bornMs: 1000, diedMs: 4050, bytes: 8, site: 'open' });
  recording.tables.objects.col.diedSlackMs[1] = 1000;
  expect([0, 1].map(lastKnownAlive(recording))).toEqual([NaN, 1000]);
  // Its middle, 1525 ms, is less than two collections; by the source's word alone it would be 2550.
  expect(settleTimeMs(recording, { fromMs: 0, toMs: 10_000 })).toBe(2000);
});
