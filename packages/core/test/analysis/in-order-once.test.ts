import { bornWithin, objectsByBirth } from '../../src/analysis/birth-order.ts';
import { floorPoints } from '../../src/analysis/floor.ts';
import { lostTime } from '../../src/analysis/lost-time.ts';
import { LossReader } from '../../src/analysis/loss-curve.ts';
import { pauseKinds } from '../../src/analysis/pause-kinds.ts';
import { programPauses, sortedDurations } from '../../src/analysis/program-pauses.ts';
import { spanPauses } from '../../src/analysis/pause-figures.ts';
import { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { ledgerOf } from '../../src/query/ledger.ts';
import { addObject, recordingOf } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

// What is put in order once answers for any span what a look at everything would.

const LENGTH_MS = 10_000;

/** Pauses that overlap, some of them long enough to reach over many others, some of the recorder's own. */
function overlapping(): Recording {
  const random = seeded(21);
  return recordingOf(
    Array.from({ length: 700 }, () => ({
      startMs: Math.floor(random() * LENGTH_MS),
      ms: random() < 0.02 ? 900 : 1 + Math.floor(random() * 20),
      before: 10,
      after: 5,
      label: `Pause ${Math.floor(random() * 3)}`,
      scope: random() < 0.3 ? Scope.whole : Scope.young,
      flags: random() < 0.1 ? CollectionFlag.own : 0,
    })),
    LENGTH_MS,
  );
}

function spans(count: number): { fromMs: number; toMs: number }[] {
  const random = seeded(22);
  return Array.from({ length: count }, () => {
    const fromMs = Math.floor(random() * LENGTH_MS);
    return { fromMs, toMs: fromMs + Math.floor(random() * 3000) };
  });
}

test('pauses of a span, those that reach into it among them, however long ago they began', () => {
  const recording = overlapping();
  const { startMs, durationMs, flags, labelId } = recording.tables.pauses.col;
  const rows = Array.from({ length: recording.tables.pauses.length }, (_, row) => row).filter((row) => !flags[row]!);
  let apart = 0;
  for (const span of spans(200)) {
    const expected = rows
      .filter((row) => startMs[row]! < span.toMs && startMs[row]! + durationMs[row]! >= span.fromMs)
      .sort((a, b) => startMs[a]! - startMs[b]! || a - b);
    const found = programPauses(recording, span);
    expect(Array.from(found.rows)).toEqual(expected);
    expect(Array.from(found.durationMs)).toEqual(expected.map((row) => durationMs[row]!));
    if (found.places.before.length > 0) apart++;
    const sorted = expected.map((row) => durationMs[row]!).sort((a, b) => a - b);
    expect(Array.from(sortedDurations(recording, found))).toEqual(sorted);
    expect(spanPauses(recording, span)).toMatchObject({ count: sorted.length, maxMs: sorted.at(-1) ?? NaN });
    const byName = new Map<string, number[]>();
    for (const row of expected) {
      const name = recording.strings.text(labelId[row]!);
      byName.set(name, [...(byName.get(name) ?? []), durationMs[row]!]);
    }
    const kinds = pauseKinds(recording, found, span, 'label');
    expect(kinds.map(({ name, count, maxMs }) => `${name} ${count} ${maxMs}`).sort()).toEqual(
      [...byName].map(([name, of]) => `${name} ${of.length} ${Math.max(...of)}`).sort(),
    );
  }
  // Of some spans a pause reaches in that is not the last one before it.
  expect(apart).toBeGreaterThan(20);
});

test('time lost in a span is what its milliseconds lose', () => {
  const recording = overlapping();
  const { startMs, durationMs, flags } = recording.tables.pauses.col;
  const stopped = new Uint8Array(LENGTH_MS + 1000);
  for (let row = 0; row < recording.tables.pauses.length; row++)
    if (!flags[row]!) stopped.fill(1, startMs[row]!, startMs[row]! + durationMs[row]!);
  for (const span of spans(300)) {
    const { lostMs, curve } = lostTime(recording, span);
    expect(lostMs).toBeCloseTo(
      stopped.subarray(span.fromMs, span.toMs).reduce((sum, each) => sum + each, 0),
      6,
    );
    // Asked in any order: before the first instant, between and after the last.
    const reader = new LossReader(curve);
    const ahead = reader.until(span.toMs);
    expect([reader.until(-5), reader.until(span.toMs)]).toEqual([0, ahead]);
  }
  expect(new LossReader({ tMs: new Float64Array(0), untilMs: new Float64Array(0) }).within(spans(1)[0]!)).toBe(0);
});

test('a cycle whose lowest size comes after the span’s end is told by the lowest that lies in it', () => {
  const young = (startMs: number, after: number) => ({ startMs, ms: 1, before: 90, after, scope: Scope.young });
  const cycle = (startMs: number) => ({
    startMs,
    ms: 50,
    before: NaN,
    after: NaN,
    flags: CollectionFlag.concurrentCycle,
  });
  const recording = recordingOf(
    [cycle(0), young(100, 40), young(200, 20), cycle(300), young(400, 35), young(500, 30), young(600, 10)],
    1000,
  );
  const floor = (toMs: number): number[] => Array.from(floorPoints(recording, { fromMs: 0, toMs }, 1).bytes);
  expect(floor(1000)).toEqual([20, 10]);
  expect(floor(550)).toEqual([20, 30]);
  expect(floor(450)).toEqual([20, 35]);
  expect(floor(150)).toEqual([40]);
});

describe('objects in order of their births', () => {
  const plainly = (bornMs: Float64Array, length: number): number[] =>
    Array.from({ length }, (_, row) => row).sort((a, b) => bornMs[a]! - bornMs[b]! || a - b);

  test.each([
    ['nearly in order', 5],
    ['in no order', LENGTH_MS],
  ])('%s, however many come at a time', (_, jitterMs) => {
    const random = seeded(23);
    const recording = new Recording('recording');
    recording.addHeap('main');
    const { objects } = recording.tables;
    for (let more = 1; more < 600; more += 57) {
      for (let n = 0; n < more; n++)
        addObject(recording, { bornMs: Math.floor(objects.length + random() * jitterMs), bytes: 8, site: 'site' });
      const { bornMs } = objects.col;
      expect(Array.from(objectsByBirth(recording))).toEqual(plainly(bornMs, objects.length));
      const span = { fromMs: objects.length / 3, toMs: objects.length / 2 };
      const within = plainly(bornMs, objects.length).filter(
        (row) => bornMs[row]! >= span.fromMs && bornMs[row]! < span.toMs,
      );
      expect(Array.from(bornWithin(recording, span))).toEqual(within);
      expect(Array.from(ledgerOf(recording, span).row)).toEqual(within);
    }
  });

  test('rows that have moved are ordered anew', () => {
    const recording = new Recording('recording');
    recording.addHeap('main');
    for (const bornMs of [5, 3, 4]) addObject(recording, { bornMs, bytes: 8, site: 'site' });
    expect(Array.from(objectsByBirth(recording))).toEqual([1, 2, 0]);
    recording.tables.objects.col.bornMs.set([1, 2, 3]);
    recording.thinnings.push({ beforeMs: 1, removed: 1 } as (typeof recording.thinnings)[number]);
    expect(Array.from(objectsByBirth(recording))).toEqual([0, 1, 2]);
  });
});
