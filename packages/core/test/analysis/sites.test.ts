import { siteTable } from '../../src/analysis/site-figures.ts';
import { strata } from '../../src/analysis/strata.ts';
import { wholeSpan } from '../../src/analysis/analysis-report.ts';
import { allocationFigures } from '../../src/analysis/allocation.ts';
import { frameText } from '../../src/model/call-path.ts';
import { Recording } from '../../src/model/recording.ts';
import { addCollection, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

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
  const table = siteTable(recording, wholeSpan(recording), 'site');
  expect(table.sites.map((site) => frameText(recording, site.frameId).functionName)).toEqual(['subscribe', 'loadTables', 'parseReading']);
  const [subscribe, load, parse] = table.sites;
  expect(subscribe!.growthBytesPerSec).toBeCloseTo(4096, 0);
  expect([subscribe!.growthShareRatio, subscribe!.tau]).toEqual([1, expect.closeTo(1, 1) as number]);
  expect(load!.growthBytesPerSec).toBe(0);
  expect(load!.keptBytes).toBe(40 * 50_000);
  expect([parse!.growthBytesPerSec, parse!.keptBytes, parse!.allocCount]).toEqual([0, 0, 1200]);
});

test('sums over sites equal the events', () => {
  const recording = world();
  const table = siteTable(recording, wholeSpan(recording), 'site');
  expect(table.sites.reduce((sum, site) => sum + site.allocBytes, 0)).toBe(120 * 2048 + 1200 * 4096 + 40 * 50_000);
  expect(table.sites.reduce((sum, site) => sum + site.samples, 0)).toBe(recording.tables.objects.length);
});

test('what was born just before the end is too young to be kept', () => {
  const recording = world();
  const table = siteTable(recording, wholeSpan(recording), 'site');
  expect(table.settleMs).toBe(2000);
  expect(table.recentLeftOut).toBeGreaterThan(0);
  const subscribe = table.sites[0]!;
  // Born every 500 ms from 0 to 58,000; the recording ends at 60,001.
  expect(subscribe.keptSamples).toBe(117);
});

test('estimates carry the error of their sampling', () => {
  const recording = new Recording('recording');
  followObjects(recording);
  for (let n = 0; n < 100; n++) addObject(recording, { bornMs: n, bytes: 100, site: 'a', probability: 0.25 });
  recording.reach(1000);
  const [site] = siteTable(recording, wholeSpan(recording), 'site').sites;
  expect(site!.allocBytes).toBe(40_000);
  expect(site!.allocBytesSe).toBeCloseTo(Math.sqrt(100 * 0.75 * 400 ** 2), 6);
  expect(site!.allocCount).toBe(400);
});

test('strata equal counting the live bytes of every slice', () => {
  const random = seeded(21);
  const recording = new Recording('recording');
  for (let n = 0; n < 500; n++) {
    const bornMs = random() * 1000;
    addObject(recording, { bornMs, bytes: 1 + Math.floor(random() * 50), site: 'a', ...(random() < 0.6 ? { diedMs: bornMs + random() * 600 } : {}) });
  }
  recording.reach(1700);
  const span = { fromMs: 200, toMs: 900 };
  const layers = strata(recording, span, 35, 8);
  const { bornMs, diedMs, sizeBytes } = recording.tables.objects.col;
  for (let bin = 0; bin < 35; bin++) {
    const end = 200 + (bin + 1) * 20;
    for (let band = 0; band < 8; band++) {
      let live = 0;
      for (let row = 0; row < recording.tables.objects.length; row++) {
        const ofBand = Math.min(7, Math.floor((bornMs[row]! * 8) / recording.durationMs)) === band;
        if (ofBand && bornMs[row]! < end && !(diedMs[row]! < end)) live += sizeBytes[row]!;
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
  expect(allocationFigures(recording, { fromMs: 0, toMs: 3000 })).toMatchObject({ totalBytes: 1100, basis: 'collections' });
  expect(allocationFigures(recording, { fromMs: 500, toMs: 1500 })!.totalBytes).toBe(250 + 300);
  expect(allocationFigures(new Recording('recording'), { fromMs: 0, toMs: 1 })).toBeNull();
});
