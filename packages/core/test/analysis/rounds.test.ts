import { repeatedMarks, roundTable } from '../../src/analysis/rounds.ts';
import { frameText } from '../../src/model/call-path.ts';
import type { Recording } from '../../src/model/recording.ts';
import { addObject, followObjects, recordingOf } from '../build-recording.ts';

const ROUND_MS = 1000;

/** Six rounds between seven marks; a collection 100 ms after each mark. */
function rounds(label = 'reconnect'): Recording {
  const recording = recordingOf(
    Array.from({ length: 7 }, (_, n) => ({ startMs: n * ROUND_MS + 90, ms: 10, before: 10, after: 5 })),
    7000,
  );
  followObjects(recording);
  for (let n = 0; n < 7; n++) {
    const row = recording.tables.marks.addRow();
    recording.tables.marks.col.tMs[row] = n * ROUND_MS;
    recording.tables.marks.col.labelId[row] = recording.intern(label);
  }
  return recording;
}

const span = { fromMs: 0, toMs: 7000 };
const named = (recording: Recording) =>
  roundTable(recording, span, 'reconnect', 'site')!.keys.map((key) => ({
    ...key,
    site: frameText(recording, key.key).functionName,
  }));

test('one object more each round is a constant leak of one', () => {
  const recording = rounds();
  for (let n = 0; n < 7; n++) addObject(recording, { bornMs: n * ROUND_MS + 50, bytes: 100, site: 'subscribe' });
  for (let n = 0; n < 7; n++)
    addObject(recording, { bornMs: n * ROUND_MS + 50, diedMs: (n + 1) * ROUND_MS + 60, bytes: 400, site: 'session' });
  for (let n = 0; n < 70; n++)
    addObject(recording, { bornMs: n * 100 + 20, diedMs: n * 100 + 70, bytes: 10, site: 'parse' });
  addObject(recording, { bornMs: 2500, bytes: 5000, site: 'cache' });
  const keys = named(recording);
  expect(keys[0]).toMatchObject({
    site: 'subscribe',
    perRoundBytes: 100,
    perRoundCount: 1,
    agreeing: 6,
    isConstant: true,
    firstBytes: 100,
    lastBytes: 700,
  });
  // What is replaced each round returns to where it was; what came once is no leak by round.
  expect(keys.find(({ site }) => site === 'session')).toMatchObject({
    perRoundBytes: 0,
    isConstant: false,
    firstBytes: 400,
    lastBytes: 400,
  });
  expect(keys.find(({ site }) => site === 'cache')).toMatchObject({
    perRoundBytes: 0,
    agreeing: 5,
    isConstant: false,
    lastBytes: 5000,
  });
  expect(keys.some(({ site }) => site === 'parse')).toBe(false);
});

test('a sampled leak agrees within its error', () => {
  const recording = rounds();
  // Each seen object stands for four.
  for (let n = 0; n < 7; n++)
    for (let each = 0; each < 20 + (n % 3); each++)
      addObject(recording, { bornMs: n * ROUND_MS + 50, bytes: 100, site: 'subscribe', probability: 0.25 });
  const [key] = named(recording);
  expect(key!.isConstant).toBe(true);
  expect(key!.perRoundBytes).toBeGreaterThan(7900);
  expect(key!.perRoundCount).toBeGreaterThan(79);
  expect(key!.incrementSe[0]).toBeGreaterThan(1000);
});

test('increments that differ are no constant leak', () => {
  const recording = rounds();
  for (let n = 0; n < 7; n++)
    for (let each = 0; each < n; each++) addObject(recording, { bornMs: n * ROUND_MS + 50, bytes: 100, site: 'queue' });
  expect(named(recording)[0]).toMatchObject({ isConstant: false, agreeing: 0 });
});

test('too few marks, none, or nothing followed make no rounds', () => {
  expect(roundTable(rounds(), span, 'another', 'site')).toBeNull();
  expect(roundTable(rounds(), { fromMs: 0, toMs: 2500 }, 'reconnect', 'site')).toBeNull();
  expect(roundTable(recordingOf([], 10), span, 'reconnect', 'site')).toBeNull();
  expect(repeatedMarks(rounds(), span)).toEqual([{ label: 'reconnect', times: 7 }]);
  expect(repeatedMarks(recordingOf([], 10), span)).toEqual([]);
});

test('the moment of a mark is the first collection after it, before the next', () => {
  const table = roundTable(rounds(), span, 'reconnect', 'site')!;
  expect([Array.from(table.momentsMs), table.collected]).toEqual([[100, 1100, 2100, 3100, 4100, 5100, 6100], 7]);
});

test('what shrinks, or may be noise, is no constant leak', () => {
  const recording = rounds();
  for (let n = 0; n < 7; n++)
    addObject(recording, { bornMs: 10, diedMs: n * ROUND_MS + 80, bytes: 100, site: 'drained' });
  // One seen object that stands for a hundred, and nothing else.
  addObject(recording, { bornMs: 3050, bytes: 100, site: 'once', probability: 0.01 });
  expect(named(recording).filter(({ isConstant }) => isConstant)).toEqual([]);
});
