import { oldSpaceCycles } from '../../src/analysis/old-space.ts';
import { spanPauses } from '../../src/analysis/pause-figures.ts';
import { hasBurst } from '../../src/analysis/verdict/burst.ts';
import { growthBound } from '../../src/analysis/verdict/growth-bound.ts';
import { findProblems } from '../../src/analysis/findings/find-problems.ts';
import { contains, overlapMs, type Span } from '../../src/base/span.ts';
import type { Recording } from '../../src/model/recording.ts';
import { sizeSeries } from '../../src/measures/size-series.ts';
import { CollectionFlag, Scope } from '../../src/model/tables.ts';
import { formatDuration } from '../../src/base/units.ts';
import { median } from '../../src/stats/quantile.ts';
import { addCollection, recordingOf, type TestCollection } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

// What is added up once, in blocks and from the beginning, answers for any span what a look at all of it would.

const COUNT = 14_000;
const EVERY_MS = 10;
const LENGTH_MS = COUNT * EVERY_MS;

function spans(count: number): Span[] {
  const random = seeded(41);
  const some = Array.from({ length: count }, () => {
    const fromMs = random() * LENGTH_MS;
    return { fromMs, toMs: fromMs + random() * (LENGTH_MS - fromMs) };
  });
  return [{ fromMs: 0, toMs: LENGTH_MS }, { fromMs: 500, toMs: 500 }, ...some];
}

/** Young collections, now and then one of the old space, some of them asked for or the recorder's own. */
function many(longestMs: number): TestCollection[] {
  const random = seeded(42);
  const inBurst = (n: number): boolean => n > COUNT / 2 && n < COUNT / 2 + 20;
  return Array.from({ length: COUNT }, (_, n) => ({
    startMs: n * EVERY_MS + Math.floor(random() * 5),
    ms: random() < 0.01 ? longestMs * random() : 0.5 + random(),
    before: 60 + Math.floor(random() * (inBurst(n) ? 300 : 30)),
    after: 20 + Math.floor(random() * (inBurst(n) ? 150 : 20)),
    label: `Pause ${Math.floor(random() * 3)}`,
    scope: random() < 0.05 ? Scope.whole : random() < 0.1 ? Scope.mixed : Scope.young,
    flags: random() < 0.02 ? CollectionFlag.own : random() < 0.02 ? CollectionFlag.explicit : 0,
  }));
}

/** Tells the sizes of its old space and of large objects at each collection. */
function addSpaces(recording: Recording): Recording {
  const { collections, spaces } = recording.tables;
  const random = seeded(43);
  const used = { Old: 100, Humongous: 10 };
  for (let row = 0; row < collections.length; row++) {
    for (const name of ['Old', 'Humongous'] as const) {
      const before = used[name] + Math.floor(random() * 4);
      const frees = collections.col.scope[row] !== Scope.young;
      const after = random() < 0.1 ? before + 5 : frees ? Math.floor(before * random()) : before;
      used[name] = after;
      if (random() < 0.02) continue;
      const at = spaces.addRow();
      spaces.col.collectionRow[at] = row;
      spaces.col.nameId[at] = recording.intern(name);
      spaces.col.beforeBytes[at] = random() < 0.02 ? NaN : before;
      spaces.col.afterBytes[at] = after;
    }
  }
  return recording;
}

test.each([
  ['over nothing', 3],
  ['over hundreds of others', 5000],
])('pauses are counted and added up, of which some reach %s', (_, longestMs) => {
  const recording = recordingOf(many(longestMs), LENGTH_MS);
  const { startMs, durationMs, flags, labelId } = recording.tables.pauses.col;
  for (const span of spans(25)) {
    const found = spanPauses(recording, span);
    const byName = new Map<string, { count: number; totalMs: number; maxMs: number }>();
    const all: number[] = [];
    let insideMs = 0;
    for (let row = 0; row < COUNT; row++) {
      const endMs = startMs[row]! + durationMs[row]!;
      if (flags[row]! || startMs[row]! >= span.toMs || endMs < span.fromMs) continue;
      all.push(durationMs[row]!);
      insideMs += overlapMs(span, startMs[row]!, endMs);
      const name = recording.strings.text(labelId[row]!);
      const known = byName.get(name) ?? { count: 0, totalMs: 0, maxMs: 0 };
      byName.set(name, {
        count: known.count + 1,
        totalMs: known.totalMs + durationMs[row]!,
        maxMs: Math.max(known.maxMs, durationMs[row]!),
      });
    }
    all.sort((a, b) => a - b);
    const rank = (ratio: number): number => all[Math.max(1, Math.ceil(ratio * all.length)) - 1] ?? NaN;
    expect([found.count, found.maxMs]).toEqual([all.length, all.at(-1) ?? NaN]);
    expect([found.p50Ms, found.p95Ms, found.p99Ms]).toEqual([rank(0.5), rank(0.95), rank(0.99)]);
    expect(found.totalMs).toBeCloseTo(
      all.reduce((sum, ms) => sum + ms, 0),
      6,
    );
    if (span.toMs > span.fromMs)
      expect(found.throughputRatio).toBeCloseTo(Math.max(0, 1 - insideMs / (span.toMs - span.fromMs)), 9);
    expect([...found.byName.keys()].sort()).toEqual([...byName.keys()].sort());
    for (const [name, { count, totalMs, maxMs }] of byName) {
      expect(found.byName.get(name)).toMatchObject({ count, maxMs });
      expect(found.byName.get(name)!.totalMs).toBeCloseTo(totalMs, 6);
    }
  }
});

describe('the old space of a span', () => {
  const recording = addSpaces(recordingOf(many(3), LENGTH_MS));

  test('has the cycles that a look at the span alone finds', () => {
    // Nobody relies on one heap where there are two.
    const plain = addSpaces(recordingOf(many(3), LENGTH_MS));
    plain.addHeap('another');
    let most = 0;
    for (const span of spans(60)) {
      const found = oldSpaceCycles(recording, span);
      expect(found).toEqual(oldSpaceCycles(plain, span));
      most = Math.max(most, found.rows.length);
    }
    expect(most).toBeGreaterThan(1000);
  });

  test('is entered by what a look at the span alone finds', () => {
    // Nobody relies on an order where a collection has no time.
    const plain = addSpaces(recordingOf(many(3), LENGTH_MS));
    addCollection(plain, { startMs: NaN, ms: NaN, before: NaN, after: NaN, scope: Scope.young });
    const at = plain.tables.spaces.addRow();
    plain.tables.spaces.col.collectionRow[at] = plain.tables.collections.length - 1;
    plain.tables.spaces.col.nameId[at] = plain.intern('Old');
    for (const span of spans(40)) {
      const found = growthBound(recording, span);
      expect(found === null ? null : found.points).toBe(growthBound(plain, span)?.points ?? null);
      expect(found).toEqual(growthBound(plain, span));
    }
  });
});

test('sizes that are drawn are the largest of each slice, in whatever order collections are told', () => {
  const recording = addSpaces(recordingOf(many(3).reverse(), LENGTH_MS));
  const { collections, spaces } = recording.tables;
  for (const span of spans(25)) {
    const series = sizeSeries(recording, span);
    const old = series.find(({ name }) => name === 'Old');
    const largest = new Map<number, number>();
    for (let at = 0; at < spaces.length; at++) {
      const tMs = collections.col.startMs[spaces.col.collectionRow[at]!]!;
      const before = spaces.col.beforeBytes[at]!;
      const after = spaces.col.afterBytes[at]!;
      if (recording.strings.text(spaces.col.nameId[at]!) !== 'Old' || !contains(span, tMs)) continue;
      const slice = Math.min(1199, Math.floor((tMs - span.fromMs) * (1200 / (span.toMs - span.fromMs))));
      largest.set(slice, Math.max(largest.get(slice) ?? 0, before > after ? before : after));
    }
    const kept = Array.from(old?.tMs ?? [], (_, at) =>
      old!.beforeBytes[at]! > old!.afterBytes[at]! ? old!.beforeBytes[at]! : old!.afterBytes[at]!,
    );
    expect(kept).toEqual([...largest].sort(([a], [b]) => a - b).map(([, bytes]) => bytes));
    expect(Array.from(old?.tMs ?? [])).toEqual(Array.from(old?.tMs ?? []).sort((a, b) => a - b));
  }
});

test('bursts and gaps of a span are those of a look at the span alone', () => {
  const all = many(3);
  const recording = recordingOf(all, LENGTH_MS);
  let [bursts, told] = [0, 0];
  for (const span of spans(60)) {
    const within = all.filter(({ startMs }) => startMs >= span.fromMs && startMs <= span.toMs);
    const alone = recordingOf(within, LENGTH_MS);
    expect(hasBurst(recording, span, 1)).toBe(hasBurst(alone, span, 1));
    if (hasBurst(recording, span, 1)) bursts++;
    const starts = all
      .filter(({ startMs, flags }) => startMs >= span.fromMs && startMs < span.toMs && flags !== CollectionFlag.own)
      .map(({ startMs }) => startMs);
    const gapMs = median(starts.slice(1).map((ms, n) => ms - starts[n]!));
    const often = findProblems(recording, span).find(({ code }) => code === 'often');
    if (often === undefined) continue;
    told++;
    expect(often.sentence).toContain(`begin within ${formatDuration(gapMs)} of`);
  }
  expect(told).toBeGreaterThan(30);
  expect(bursts).toBeGreaterThan(3);
});
