import { contentChange, heapContent } from '../../src/analysis/heap-content.ts';
import { liveLevels } from '../../src/analysis/live-levels.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { findPeak, usedPeak } from '../../src/analysis/peak.ts';
import { chargeText } from '../../src/model/charge.ts';
import { Recording } from '../../src/model/recording.ts';
import { addCollection, addObject, followObjects } from '../build-recording.ts';
import { seeded } from '../seeded.ts';

function mixed(seed: number): Recording {
  const random = seeded(seed);
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let n = 0; n < 40_000; n++) {
    const bornMs = n + random() * 50;
    const kind = random();
    const died =
      kind < 0.9 ? { diedMs: bornMs + random() * 400 } : kind < 0.97 ? { diedMs: bornMs + random() * 30_000 } : {};
    addObject(recording, {
      bornMs,
      bytes: 8 + Math.floor(random() * 100),
      site: `site${n % 7}`,
      probability: random() < 0.5 ? 1 : 0.5,
      ...died,
    });
  }
  return recording;
}

/** Rows that live at an instant, by definition. */
function liveRows(recording: Recording, tMs: number): number[] {
  const { length, col } = recording.tables.objects;
  return Array.from({ length }, (_, row) => row).filter((row) => col.bornMs[row]! <= tMs && !(col.endMs[row]! <= tMs));
}

test.each([1, 2, 3])('what lives at a moment is what was born and has not died (%i)', (seed) => {
  const recording = mixed(seed);
  const index = new ObjectIndex(recording);
  for (const tMs of [0, 17, 4000, 20_123.4, 39_999, recording.durationMs]) {
    const seen: number[] = [];
    index.eachLiving(tMs, tMs, ({ bornMs, sizeBytes }, at) => seen.push(bornMs[at]! * 1e6 + sizeBytes[at]!));
    const { bornMs, sizeBytes, probability } = recording.tables.objects.col;
    const living = liveRows(recording, tMs).map((row) => bornMs[row]! * 1e6 + sizeBytes[row]!);
    expect(seen.sort((a, b) => a - b)).toEqual(living.sort((a, b) => a - b));
    const content = heapContent(index, tMs, 'site');
    expect(content.total.bytes).toBeCloseTo(
      liveRows(recording, tMs).reduce((sum, row) => sum + sizeBytes[row]! / probability[row]!, 0),
      6,
    );
    expect(content.parts.reduce((sum, part) => sum + part.samples, 0)).toBe(content.total.samples);
    expect(content.bands.reduce((sum, part) => sum + part.count, 0)).toBeCloseTo(content.total.count, 6);
  }
});

test('between two moments, what lives at both adds no error', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  const sampled = { probability: 0.25, bytes: 100 };
  addObject(recording, { ...sampled, bornMs: 1, site: 'stays' });
  addObject(recording, { ...sampled, bornMs: 2, diedMs: 50, site: 'goes' });
  addObject(recording, { ...sampled, bornMs: 60, site: 'comes' });
  addObject(recording, { ...sampled, bornMs: 20, diedMs: 40, site: 'between' });
  recording.reach(100);
  const changes = contentChange(new ObjectIndex(recording), 10, 90, 'site').map(({ key, ...change }) => [
    chargeText(recording, 'site', key).split(' ')[0],
    change.beforeBytes,
    change.afterBytes,
    [change.bothBytes, change.wentBytes, change.cameBytes],
    change.changeSe,
    change.isClear,
  ]);
  const se = Math.sqrt(0.75) * 400;
  // One object in four is no clear difference: 400 ± 1.96 · 346.
  expect(changes).toEqual([
    ['comes', 0, 400, [0, 0, 400], se, false],
    ['stays', 400, 400, [400, 0, 0], 0, false],
    ['goes', 400, 0, [0, 400, 0], se, false],
  ]);
});

test('an object seen for certain is a clear difference', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  addObject(recording, { bornMs: 50, bytes: 10, site: 'comes' });
  recording.reach(100);
  expect(contentChange(new ObjectIndex(recording), 10, 90, 'site')).toMatchObject([{ changeCount: 1, isClear: true }]);
});

test('a moment before anything was followed says so', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording, 1000);
  addObject(recording, { bornMs: 1500, bytes: 10, site: 'comes' });
  recording.reach(2000);
  const index = new ObjectIndex(recording);
  expect([heapContent(index, 500, 'site').followed, heapContent(index, 1500, 'site').followed]).toEqual([false, true]);
});

describe('a burst over a heap that grows', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  followObjects(recording);
  for (let tMs = 0; tMs < 60_000; tMs += 100) addObject(recording, { bornMs: tMs, bytes: 1000, site: 'subscribe' });
  for (let tMs = 30_000; tMs < 33_000; tMs += 10)
    addObject(recording, { bornMs: tMs, diedMs: 34_000, bytes: 10_000, site: 'turn' });
  for (let tMs = 500; tMs < 60_000; tMs += 500)
    addCollection(recording, {
      startMs: tMs - 2,
      ms: 1,
      before: tMs === 32_500 ? 9_000_000 : 5_000_000,
      after: 4_000_000,
    });
  recording.reach(60_000);
  const source = { index: new ObjectIndex(recording), levels: liveLevels(recording) };

  test('is found with what went after it and what stayed', () => {
    const peak = findPeak(source, { fromMs: 0, toMs: 60_000 }, 'site')!;
    // Right after the collection of 33,000 or 33,500, and over by that of 34,000.
    expect(peak.tMs).toBeGreaterThan(32_999);
    expect(peak.tMs).toBeLessThan(33_510);
    expect(peak.afterMs).toBeGreaterThanOrEqual(34_000);
    const [turn, subscribe] = peak.changes;
    expect([chargeText(recording, 'site', turn!.key), turn!.afterBytes]).toEqual(['turn turn.js:1', 0]);
    expect(turn!.beforeBytes).toBeGreaterThan(2_900_000);
    expect(chargeText(recording, 'site', subscribe!.key)).toBe('subscribe subscribe.js:1');
    expect(subscribe!.afterBytes).toBeGreaterThanOrEqual(subscribe!.beforeBytes);
    expect(peak.overMedianRatio).toBeGreaterThan(5);
  });

  test('is not in a span without it', () => {
    const peak = findPeak(source, { fromMs: 40_000, toMs: 60_000 }, 'site')!;
    expect(peak.tMs).toBeGreaterThan(58_900);
    expect(peak.changes.map(({ key }) => chargeText(recording, 'site', key))).toEqual(['subscribe subscribe.js:1']);
  });

  test('live levels are what lives at the end of each slice', () => {
    const { sliceMs, bytes } = source.levels;
    for (const slice of [0, 5, 8192, 9000, 12_000, bytes.length - 1]) {
      const content = heapContent(source.index, (slice + 1) * sliceMs, 'site');
      expect(bytes[slice]).toBeCloseTo(content.total.bytes, 3);
    }
  });

  test('the highest use is told beside it, inside the span only', () => {
    expect(usedPeak(recording, { fromMs: 0, toMs: 60_000 })).toEqual({ tMs: 32_498, usedBytes: 9_000_000 });
    expect(usedPeak(recording, { fromMs: 0, toMs: 10_000 })!.usedBytes).toBe(5_000_000);
    expect(usedPeak(recording, { fromMs: 1, toMs: 2 })).toBeNull();
  });

  test('without followed objects there is none', () => {
    const empty = new Recording('recording');
    expect(
      findPeak({ index: new ObjectIndex(empty), levels: liveLevels(empty) }, { fromMs: 0, toMs: 10 }, 'site'),
    ).toBeNull();
  });
});
