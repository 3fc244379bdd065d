import { allocationFigures } from '../../src/analysis/allocation.ts';
import { chargeTable, type ChargeTable } from '../../src/analysis/charge-table.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { originSums, Sum, SUMS } from '../../src/analysis/origin-sums.ts';
import { settledSeries } from '../../src/analysis/settled-series.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { strata } from '../../src/analysis/strata.ts';
import { findObjects } from '../../src/query/find-objects.ts';
import { frameText } from '../../src/model/call-path.ts';
import { Recording } from '../../src/model/recording.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { addCollection, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

const siteTable = (recording: Recording): ChargeTable =>
  chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'site');

function world(): Recording {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let t = 0; t < 60_000; t += 50) {
    if (t % 500 === 0) addObject(recording, { bornMs: t, bytes: 2048, site: 'subscribe' });
    addObject(recording, { bornMs: t, diedMs: t + 300, bytes: 4096, site: 'parseReading' });
    if (t < 2000) addObject(recording, { bornMs: t, bytes: 50_000, site: 'loadTables' });
  }
  for (let t = 1000; t <= 60_000; t += 1000) addCollection(recording, { startMs: t, ms: 1, before: 9e6, after: 4e6 });
  return recording;
}

test('the growing site comes first, with its rate; start-up data and churn add nothing', () => {
  const recording = world();
  const table = siteTable(recording);
  expect(table.rows.map((site) => frameText(recording, site.key).functionName)).toEqual([
    'subscribe',
    'loadTables',
    'parseReading',
  ]);
  const [subscribe, load, parse] = table.rows;
  expect(subscribe!.growthBytesPerSec).toBeCloseTo(4096, 0);
  expect(subscribe!.tau).toBeCloseTo(1, 1);
  expect(load!.growthBytesPerSec).toBe(0);
  expect(load!.keptBytes).toBe(40 * 50_000);
  expect([parse!.growthBytesPerSec, parse!.keptBytes, parse!.allocCount]).toEqual([0, 0, 1200]);
});

test('sums over sites equal the events', () => {
  const recording = world();
  const table = siteTable(recording);
  expect(table.rows.reduce((sum, site) => sum + site.allocBytes, 0)).toBe(120 * 2048 + 1200 * 4096 + 40 * 50_000);
  expect(table.rows.reduce((sum, site) => sum + site.samples, 0)).toBe(recording.tables.objects.length);
});

test('what was born just before the end is too young to be kept', () => {
  const recording = world();
  const table = siteTable(recording);
  expect(table.settleMs).toBe(2000);
  expect(table.recentLeftOut).toBeGreaterThan(0);
  const subscribe = table.rows[0]!;
  // Born every 500 ms from 0 to 58,000; the recording ends at 60,001.
  expect(subscribe.keptSamples).toBe(117);
});

test('estimates carry the error of their sampling', () => {
  const recording = new Recording('recording');
  followObjects(recording);
  for (let n = 0; n < 100; n++) addObject(recording, { bornMs: n, bytes: 100, site: 'a', probability: 0.25 });
  recording.reach(1000);
  const [site] = siteTable(recording).rows;
  expect(site!.allocBytes).toBe(40_000);
  expect(site!.allocBytesSe).toBeCloseTo(Math.sqrt(100 * 0.75 * 400 ** 2), 6);
  expect(site!.allocCount).toBe(400);
});

test('strata equal counting the live bytes of every slice', () => {
  const random = seeded(21);
  const recording = new Recording('recording');
  for (let n = 0; n < 500; n++) {
    const bornMs = random() * 1000;
    addObject(recording, {
      bornMs,
      bytes: 1 + Math.floor(random() * 50),
      site: 'a',
      ...(random() < 0.6 ? { diedMs: bornMs + random() * 600 } : {}),
    });
  }
  recording.reach(1700);
  const span = { fromMs: 200, toMs: 900 };
  const layers = strata(recording, span, { bins: 35, bands: 8 });
  const { bornMs, endMs, sizeBytes } = recording.tables.objects.col;
  for (let bin = 0; bin < 35; bin++) {
    const end = 200 + (bin + 1) * 20;
    for (let band = 0; band < 8; band++) {
      let live = 0;
      for (let row = 0; row < recording.tables.objects.length; row++) {
        const ofBand = Math.min(7, Math.floor((bornMs[row]! * 8) / recording.durationMs)) === band;
        if (ofBand && bornMs[row]! < end && !(endMs[row]! < end)) live += sizeBytes[row]!;
      }
      expect(layers.bytes[band * 35 + bin]).toBeCloseTo(live, 6);
    }
  }
});

test('allocation between collections, by its share of a span', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  addCollection(recording, { startMs: 1000, ms: 0, before: 500, after: 100 });
  addCollection(recording, { startMs: 2000, ms: 0, before: 700, after: 50 });
  addCollection(recording, { startMs: 3000, ms: 0, before: 40, after: 40 });
  expect(allocationFigures(recording, { fromMs: 0, toMs: 3000 })).toMatchObject({
    totalBytes: 1100,
    basis: 'collections',
  });
  expect(allocationFigures(recording, { fromMs: 500, toMs: 1500 })!.totalBytes).toBe(250 + 300);
  expect(allocationFigures(new Recording('recording'), { fromMs: 0, toMs: 1 })).toBeNull();
});

test('what came after the last collection may be dead as well: it is not called kept', () => {
  const recording = new Recording('recording');
  for (const heap of ['main', 'worker', 'never']) recording.addHeap(heap);
  followObjects(recording);
  // A burst with a collection every tenth of a second, then a minute in which none is needed.
  for (let t = 0; t < 5000; t += 10)
    addObject(recording, { bornMs: t, diedMs: Math.ceil((t + 1) / 100) * 100, bytes: 100, site: 'burst' });
  for (let t = 100; t <= 5000; t += 100) addCollection(recording, { startMs: t, ms: 1, before: 9e6, after: 4e6 });
  for (const heapId of [0, 2])
    for (let t = 4000; t < 65_000; t += 500)
      addObject(recording, { bornMs: t, bytes: 1000, site: heapId === 0 ? 'quiet' : 'unseen', heapId });
  addObject(recording, { bornMs: 30_000, bytes: 500, site: 'worker', heapId: 1 });
  addCollection(recording, { startMs: 50_000, ms: 1, before: 9e6, after: 4e6, heapId: 1 });
  const kept = new Map(
    siteTable(recording).rows.map((row) => [frameText(recording, row.key).functionName, row.keptBytes]),
  );
  // Two were looked at; of the worker's all; the last heap was never looked at: nothing of it can have been freed.
  expect([kept.get('burst'), kept.get('quiet'), kept.get('worker')]).toEqual([0, 3000, 500]);
  expect(kept.get('unseen')).toBeGreaterThan(100_000);
  const found = (fate: string): number[] => {
    const { objects } = findObjects(recording, `fate=${fate}`, wholeSpan(recording), 1000).part.tables;
    const bornMs = Array.from(objects.col.bornMs.subarray(0, objects.length));
    return bornMs.filter((_, row) => objects.col.sizeBytes[row] === 1000 && objects.col.originId[row] === quiet);
  };
  const quiet = recording.tables.objects.col.originId[500]!;
  expect(found('kept')).toEqual([4000, 4500, 5000]);
  expect(found('recent')).toHaveLength(118);
  expect(found('died')).toEqual([]);
});

/** The sums by definition, object by object. */
function naiveSums(
  recording: Recording,
  span: { fromMs: number; toMs: number },
  settleMs: number,
  moments: Float64Array,
) {
  const { length, col } = recording.tables.objects;
  const found = {
    alloc: 0,
    kept: 0,
    keptOfSpan: 0,
    keptSamples: 0,
    recent: 0,
    live: Array.from(moments, () => 0),
    liveCount: Array.from(moments, () => 0),
  };
  for (let row = 0; row < length; row++) {
    const [born, bytes, count] = [
      col.bornMs[row]!,
      col.sizeBytes[row]! / col.probability[row]!,
      1 / col.probability[row]!,
    ];
    const end = Number.isNaN(col.endMs[row]!) ? Infinity : col.endMs[row]!;
    const inSpan = born >= span.fromMs && born < span.toMs;
    if (inSpan) found.alloc += bytes;
    if (born < span.toMs && end >= span.toMs) {
      if (span.toMs - born < settleMs) found.recent++;
      else {
        found.kept += bytes;
        found.keptSamples++;
        if (inSpan) found.keptOfSpan += bytes;
      }
    }
    moments.forEach((tMs, moment) => {
      if (born + settleMs > tMs || end <= tMs) return;
      found.live[moment]! += bytes;
      found.liveCount[moment]! += count;
    });
  }
  return found;
}

test.each([1, 2, 3, 4, 5, 6])(
  'sums from the index equal going through the objects one by one, also after it has grown (%i)',
  (seed) => {
    const random = seeded(seed);
    const recording = new Recording('recording');
    recording.addHeap('main');
    followObjects(recording);
    const index = new ObjectIndex(recording);
    const mostMs = 40_000;
    for (let part = 0; part < 3; part++) {
      for (let n = 0; n < 15_000 * (part + 1); n++) {
        // Births nearly in order; most die soon, some late, some never.
        const bornMs = Math.max(0, ((n / (15_000 * (part + 1)) + part) * mostMs) / 3 + random() * 200 - 100);
        const kind = random();
        const died =
          kind < 0.8 ? { diedMs: bornMs + random() * 900 } : kind < 0.95 ? { diedMs: bornMs + random() * 20_000 } : {};
        addObject(recording, {
          bornMs,
          bytes: 1 + Math.floor(random() * 500),
          site: `site${Math.floor(random() * 5)}`,
          probability: random() < 0.5 ? 1 : 0.25,
          ...died,
        });
      }
      // What was followed dies later than the index saw it.
      const { col, length } = recording.tables.objects;
      for (let row = 0; row < length; row++)
        if (Number.isNaN(col.endMs[row]!) && random() < 0.3)
          col.endMs[row] = Math.max(col.bornMs[row]!, recording.durationMs - random() * 5000);
      const fromMs = random() * recording.durationMs * 0.8;
      const span = { fromMs, toMs: fromMs + random() * (recording.durationMs - fromMs) };
      for (const settleMs of [0, random() * 300, random() * 4000, 15_000]) {
        const moments = Float64Array.from(
          { length: 9 },
          () => span.fromMs + random() * (span.toMs - span.fromMs),
        ).sort();
        const sums = originSums(index, span, settleMs);
        const origins = recording.tables.origins.length;
        const { rowOf, changes } = settledSeries(index, settleMs, moments, {
          groupOf: Uint32Array.from({ length: origins }, (_, origin) => origin),
          groups: origins,
          chosen: null,
        });
        const naive = naiveSums(recording, span, settleMs, moments);
        const total = (place: number): number =>
          Array.from({ length: origins }, (_, origin) => sums[origin * SUMS + place]!).reduce(
            (sum, each) => sum + each,
            0,
          );
        expect(total(Sum.alloc)).toBeCloseTo(naive.alloc, 3);
        expect([total(Sum.keptSamples), total(Sum.recentSamples)]).toEqual([naive.keptSamples, naive.recent]);
        expect([total(Sum.kept), total(Sum.keptOfSpan)]).toEqual([naive.kept, naive.keptOfSpan]);
        const at = (which: number, moment: number): number =>
          rowOf.reduce((sum, row) => {
            const own = row < 0 ? [] : Array.from(changes.subarray(row * 20, row * 20 + 2 * moment + 2));
            return sum + own.filter((_, place) => place % 2 === which).reduce((a, b) => a + b, 0);
          }, 0);
        expect(Array.from(moments, (_, moment) => Math.round(at(0, moment)))).toEqual(naive.live.map(Math.round));
        expect(Array.from(moments, (_, moment) => Math.round(at(1, moment)))).toEqual(naive.liveCount.map(Math.round));
      }
    }
  },
);
