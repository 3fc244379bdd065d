import { allocationFigures, promotionFigures } from '../../src/analysis/allocation.ts';
import { countCollections } from '../../src/analysis/collection-counts.ts';
import { costSeries } from '../../src/analysis/cost-series.ts';
import { findExhaustion } from '../../src/analysis/verdict/exhaustion.ts';
import { findStorms } from '../../src/analysis/storms.ts';
import { contains, type Span } from '../../src/base/span.ts';
import type { Recording } from '../../src/model/recording.ts';
import { CollectionFlag, Scope, type ScopeCode } from '../../src/model/tables.ts';
import { median } from '../../src/stats/quantile.ts';
import { recordingOf } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

// Sums that are kept by blocks of collections answer for any span what a look at each would.

const LENGTH_MS = 20_000;
const SCOPES: readonly ScopeCode[] = [Scope.young, Scope.young, Scope.mixed, Scope.whole];

function manyCollections(isRising: boolean): Recording {
  const random = seeded(61);
  let atMs = 0;
  let used = 1000;
  const recording = recordingOf(
    Array.from({ length: 1500 }, () => {
      // Of some the next begins at once.
      const ms = Math.floor(random() * 9);
      const startMs = isRising ? atMs : Math.floor(random() * (LENGTH_MS - 10));
      atMs += ms + (random() < 0.2 ? 0 : Math.floor(random() * 12));
      const before = used + Math.floor(random() * 5000);
      used = Math.floor(random() * before);
      const flags =
        random() < 0.1 ? CollectionFlag.own : random() < 0.1 ? CollectionFlag.concurrentCycle : CollectionFlag.explicit;
      return { startMs, ms, before, after: used, scope: SCOPES[Math.floor(random() * 4)]!, flags };
    }),
    LENGTH_MS,
  );
  const { promotedBytes, scope } = recording.tables.collections.col;
  for (let row = 0; row < 1500; row++)
    promotedBytes[row] = scope[row] === Scope.whole ? NaN : Math.floor(random() * 900) - 100;
  return recording;
}

function spans(): Span[] {
  const random = seeded(62);
  const some = Array.from({ length: 120 }, () => {
    const fromMs = Math.floor(random() * LENGTH_MS);
    return { fromMs, toMs: fromMs + Math.floor(random() ** 2 * (LENGTH_MS - fromMs)) };
  });
  return [{ fromMs: 0, toMs: LENGTH_MS }, ...some];
}

/** Share of a stretch inside a span, an instant by whether it lies in it. */
function shareInside(fromMs: number, toMs: number, span: Span): number {
  if (toMs <= fromMs) return contains(span, fromMs) ? 1 : 0;
  return Math.max(0, Math.min(toMs, span.toMs) - Math.max(fromMs, span.fromMs)) / (toMs - fromMs);
}

describe.each([
  ['one after the other', true],
  ['in no order', false],
])('collections that come %s', (_, isRising) => {
  const recording = manyCollections(isRising);
  const { startMs, endMs, usedBeforeBytes, usedAfterBytes, promotedBytes, scope, flags } =
    recording.tables.collections.col;
  const rows = Array.from({ length: recording.tables.collections.length }, (_, row) => row);
  // What was allocated between one collection's end and the next one's start.
  const ended = [...rows].sort((a, b) => endMs[a]! - endMs[b]! || a - b);
  const steps = ended.map((row, at) => ({
    fromMs: at === 0 ? 0 : endMs[ended[at - 1]!]!,
    toMs: startMs[row]!,
    bytes: Math.max(0, usedBeforeBytes[row]! - (at === 0 ? 0 : usedAfterBytes[ended[at - 1]!]!)),
  }));

  test('counts, what was promoted, what was allocated', () => {
    for (const span of spans()) {
      const touched = rows.filter((row) => startMs[row]! >= span.fromMs && startMs[row]! <= span.toMs);
      const own = touched.filter((row) => flags[row]! & CollectionFlag.own).length;
      const cycles = touched.filter((row) => flags[row]! & CollectionFlag.concurrentCycle).length;
      const mixed = touched.filter((row) => flags[row]! === CollectionFlag.explicit && scope[row] === Scope.mixed);
      const counted = { count: touched.length - own, own, concurrentCycles: cycles, mixed: mixed.length };
      expect(countCollections(recording, span)).toMatchObject(counted);
      const told = rows.filter((row) => contains(span, startMs[row]!) && !Number.isNaN(promotedBytes[row]!));
      expect(promotionFigures(recording, span)?.totalBytes ?? 0).toBe(
        told.reduce((sum, row) => sum + promotedBytes[row]!, 0),
      );
      const total = steps.reduce((sum, step) => sum + step.bytes * shareInside(step.fromMs, step.toMs, span), 0);
      expect(allocationFigures(recording, span)?.totalBytes).toBeCloseTo(total, 3);
    }
  });

  test('series of what was allocated, promoted and given back', () => {
    for (const span of spans().slice(0, 40)) {
      const slices = 7;
      const series = costSeries(recording, span, slices);
      for (let slice = 0; slice < slices && span.toMs > span.fromMs; slice++) {
        const seconds = series.sliceMs / 1000;
        const sliceOf = (tMs: number): number => Math.min(6, Math.floor((tMs - span.fromMs) / series.sliceMs));
        const program = rows.filter(
          (row) =>
            contains(span, startMs[row]!) && sliceOf(startMs[row]!) === slice && !(flags[row]! & CollectionFlag.own),
        );
        const promoted = program.reduce((sum, row) => sum + Math.max(0, promotedBytes[row]! || 0), 0);
        expect(series.promotedBytesPerSec[slice]).toBeCloseTo(promoted / seconds, 3);
        const reclaimed = program
          .filter((row) => !(flags[row]! & CollectionFlag.concurrentCycle))
          .reduce((sum, row) => sum + usedBeforeBytes[row]! - usedAfterBytes[row]!, 0);
        expect(series.reclaimedBytesPerSec[slice]).toBeCloseTo(reclaimed / seconds, 3);
      }
      const seconds = series.sliceMs / 1000;
      const total = steps.reduce((sum, step) => sum + step.bytes * shareInside(step.fromMs, step.toMs, span), 0);
      expect(series.allocBytesPerSec.reduce((sum, perSec) => sum + perSec * seconds, 0)).toBeCloseTo(total, 2);
    }
  });
});

test('a storm leaves a heap full from where the median gain of what follows is little', () => {
  const random = seeded(63);
  let full = 0;
  for (let round = 0; round < 300; round++) {
    const most = random() * 0.12;
    const recording = recordingOf(
      Array.from({ length: 3 + Math.floor(random() * 30) }, (_, at) => {
        const before = 850 + Math.floor(random() * 150);
        return { startMs: 100 * at, ms: 50, before, after: Math.floor(before * (1 - random() * most)) };
      }),
    );
    recording.heaps[0]!.limitBytes = 1000;
    const { usedBeforeBytes, usedAfterBytes, startMs } = recording.tables.collections.col;
    const span = { fromMs: 0, toMs: recording.durationMs };
    const [storm] = findStorms(recording, span);
    const gains = (storm?.rows ?? []).map((row) => 1 - usedAfterBytes[row]! / usedBeforeBytes[row]!);
    const first = gains.findIndex(
      (_, at) => usedAfterBytes[storm!.rows[at]!]! >= 850 && median(gains.slice(at)) < 0.05,
    );
    // Where the floor is at the limit the heap is full as well.
    const atLimit = Array.from(usedAfterBytes.subarray(0, recording.tables.collections.length)).findIndex(
      (bytes) => bytes >= 900,
    );
    const candidates = [first >= 0 && gains.length - first >= 3 ? startMs[storm!.rows[first]!]! : Infinity];
    if (atLimit >= 0 && gains.length >= 5) candidates.push(startMs[atLimit]! + 50);
    const fromMs = Math.min(...candidates);
    expect(findExhaustion(recording, span)?.fromMs ?? Infinity).toBe(fromMs);
    if (fromMs === candidates[0] && fromMs < Infinity) full++;
  }
  expect(full).toBeGreaterThan(50);
});

test('a storm of very many collections is looked at once', () => {
  const recording = recordingOf(
    Array.from({ length: 100_000 }, (_, at) => ({ startMs: 100 * at, ms: 50, before: 1000, after: 880 })),
  );
  recording.heaps[0]!.limitBytes = 1000;
  // Near the limit, but each gives a good deal back.
  expect(findExhaustion(recording, { fromMs: 0, toMs: recording.durationMs })).toBeNull();
});
