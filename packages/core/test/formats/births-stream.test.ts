import { analysisReport } from '../../src/measures/analysis-report.ts';
import { wholeSpan } from '../../src/model/whole-span.ts';
import { birthsSeenMs } from '../../src/analysis/births-seen.ts';
import { chargeTable } from '../../src/analysis/charge-table.ts';
import { flowSums } from '../../src/analysis/flow-sums.ts';
import { followedSpan } from '../../src/analysis/growth-moments.ts';
import { isFollowed } from '../../src/analysis/heap-content.ts';
import { liveLevels } from '../../src/analysis/live-levels.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { outsideHeap } from '../../src/analysis/outside-heap.ts';
import { verdictClauses } from '../../src/analysis/verdict/sentence.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { strata } from '../../src/analysis/strata.ts';
import { judge } from '../../src/analysis/verdict/verdict.ts';
import { samplesSeen, silences } from '../../src/analysis/what-was-seen.ts';
import { StreamParser } from '../../src/formats/stream/stream-parser.ts';
import { chargeText } from '../../src/model/charge.ts';
import { frameText } from '../../src/model/call-path.ts';
import type { Recording } from '../../src/model/recording.ts';
import { onHeap, spacesOf } from '../../src/model/space.ts';
import { findOrigins } from '../../src/query/find-origins.ts';

function read(...lines: object[]): Recording {
  const parser = new StreamParser();
  parser.write(new TextEncoder().encode(lines.map((line) => `${JSON.stringify({ h: '1', ...line })}\n`).join('')));
  parser.end();
  return parser.recording;
}

const HELLO = {
  k: 'hello',
  schema: 'brisk-heron/stream@1',
  epochMs: 1_800_000_000_000,
  program: 'weir',
  runtime: 'Node.js',
  interval: 65536,
  births: 'all',
};
const FRAMES = {
  k: 'frames',
  first: 0,
  fn: ['main', 'keep', 'load'],
  file: ['/srv/app.js', '/srv/app.js', '/srv/app.js'],
  line: [1, 5, 9],
  col: [1, 1, 1],
};
const PATHS = { k: 'paths', first: 0, parent: [-1, 0, 0], frame: [0, 1, 2] };

/**
 * A heap whose site `keep` keeps 64 KiB a second on the heap, and `load` as much outside it, with a floor point each
 * second.
 */
function growing(hello: object = {}): Recording {
  const seconds = Array.from({ length: 30 }, (_, at) => at);
  return read(
    { ...HELLO, ...hello },
    FRAMES,
    PATHS,
    { k: 'types', first: 0, name: ['Buffer'], outside: [1] },
    { k: 'phase', t: 0, kind: 'objects' },
    ...seconds.flatMap((at) => [
      { k: 'born', from: at * 1000, to: at * 1000 + 500, interval: 1, id: [2 * at], path: [1], size: [65536] },
      {
        k: 'born',
        from: at * 1000,
        to: at * 1000 + 500,
        interval: 1,
        id: [2 * at + 1],
        path: [2],
        size: [65536],
        at: [at * 1000 + 100],
        type: [0],
      },
      {
        k: 'gc',
        t: at * 1000 + 600,
        ms: 2,
        scope: 'whole',
        label: 'Mark-Compact',
        own: true,
        before: 4e6 + at * 65536,
        after: 1e6 + at * 65536,
      },
      { k: 'size', t: at * 1000 + 700, used: 2e6, external: 100_000 + at * 65536, resident: 5e7 },
    ]),
    { k: 'bye', t: 30_000, reason: 'exit 0' },
  );
}

test('what lies outside the heap is in every table, and no part of the floor, the layers or the shares of growth', () => {
  const recording = growing();
  expect(recording.issues.first).toEqual([]);
  const table = chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'ownFrame');
  const rows = new Map(table.rows.map((row) => [chargeText(recording, 'ownFrame', row.key), row]));
  expect(rows.get('keep app.js:5')).toMatchObject({ isOutside: false });
  expect(rows.get('load app.js:9')).toMatchObject({ isOutside: true });
  expect(rows.get('load app.js:9')!.growthLow).toBeGreaterThan(0);
  const all = 30 * 65536;
  expect(liveLevels(recording).bytes.at(-1)).toBeCloseTo(all, -3);
  const { bornBytes } = strata(recording, wholeSpan(recording), { bins: 8 });
  expect(bornBytes.reduce((sum, each) => sum + each, 0)).toBeCloseTo(all, -3);
  const spaces = chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'space');
  expect(
    spaces.rows.map((row) => [chargeText(recording, 'space', row.key), Math.round(row.allocBytes / 65536)]).sort(),
  ).toEqual([
    ['outside the heap', 30],
    ['the heap', 30],
  ]);
});

test('outside memory is told apart by space, and what no path is known of is unattributed', () => {
  const recording = growing();
  expect(Array.from(spacesOf(recording)!)).toEqual([0, 1]);
  expect(Array.from(onHeap(recording)!)).toEqual([1, 0]);
  expect(Array.from(onHeap(recording, Uint8Array.of(0, 1))!)).toEqual([0, 0]);
  expect(Array.from(findOrigins(recording, 'space=outside')!)).toEqual([0, 1]);
  expect(Array.from(findOrigins(recording, '!space=outside')!)).toEqual([1, 0]);
  const outside = outsideHeap(recording, wholeSpan(recording))!;
  expect(outside.attributedBytes).toBe(30 * 65536);
  expect(outside.unattributedBytes).toBe(Math.max(0, 100_000 + 29 * 65536 - 30 * 65536));
  expect(
    outsideHeap(read(HELLO, { k: 'size', t: 5, used: 1, external: 7 }), { fromMs: 0, toMs: 10 })!.attributedBytes,
  ).toBeNaN();
});

test.each([
  [true, /from 1 site or what it calls/],
  [false, /from 1 site$/],
])('where inlined is %j the sentence says what the blame rests on', (inlined, expected) => {
  const recording = growing({ inlined });
  const table = chargeTable(recording, spanSums(new ObjectIndex(recording), wholeSpan(recording)), 'ownFrame');
  const clause = verdictClauses({ verdict: judge(recording, wholeSpan(recording)), table }).find(
    ({ evidence }) => evidence === 'sites',
  );
  expect(clause!.text).toMatch(expected);
});

test('a frame that was told as it runs moves to its place in the source, also for what is told later', () => {
  const recording = read(
    HELLO,
    FRAMES,
    PATHS,
    { k: 'places', frame: [1], file: ['file:///srv/src/keep.ts'], line: [40], col: [3] },
    { k: 'frames', first: 3, fn: ['keep'], file: ['/srv/app.js'], line: [5], col: [1] },
    { k: 'paths', first: 3, parent: [0], frame: [3] },
  );
  expect(frameText(recording, 1)).toEqual({
    functionName: 'keep',
    file: 'file:///srv/src/keep.ts',
    line: 40,
    column: 3,
  });
  expect(recording.tables.frames.length).toBe(3);
  expect(recording.tables.paths.length).toBe(3);
  expect(read(HELLO, FRAMES, { k: 'places', frame: [7], file: ['a'], line: [1], col: [1] }).issues.byCode).toEqual({
    'unknown-reference': 1,
  });
});

test('in a blind phase nothing is followed, and what was is lost from sight, not dead', () => {
  const recording = read(
    HELLO,
    FRAMES,
    PATHS,
    { k: 'phase', t: 0, kind: 'objects' },
    { k: 'born', from: 0, to: 10, interval: 1, id: [2], path: [1], size: [100] },
    { k: 'phase', t: 1000, kind: 'blind' },
    { k: 'phase', t: 3000, kind: 'objects' },
    { k: 'bye', t: 4000, reason: 'exit 0' },
  );
  expect([recording.tables.objects.col.endMs[0], recording.tables.objects.col.lost[0]]).toEqual([1000, 1]);
  expect([500, 2000, 3500].map((t) => isFollowed(recording, t))).toEqual([true, false, true]);
  expect(birthsSeenMs(recording, { fromMs: 0, toMs: 4000 })).toBe(2000);
  expect(followedSpan(recording, { fromMs: 0, toMs: 4000 })).toMatchObject({ fromMs: 0, toMs: 1000 });
});

test('flows that were worked out count as inferred', () => {
  const recording = read(
    HELLO,
    FRAMES,
    PATHS,
    { k: 'flow', from: 0, to: 1000, path: [1], bytes: [5000], se: [400], count: [50], inferred: true },
    { k: 'flow', from: 0, to: 1000, path: [2], bytes: [300] },
  );
  const sums = flowSums(recording, { fromMs: 0, toMs: 500 });
  expect(Array.from(sums.inferred)).toEqual([2500, 0]);
  expect(Array.from(sums.bytes)).toEqual([2500, 150]);
});

test('how much of the samples was looked at is told by the part inside a span', () => {
  const recording = read(
    HELLO,
    { k: 'look', from: 0, to: 1000, taken: 100, seen: 90, reads: 5, ms: 2 },
    { k: 'look', from: 1000, to: 2000, taken: 300, seen: 30, reads: 5, ms: 4 },
  );
  expect(samplesSeen(recording, { fromMs: 0, toMs: 2000 })).toEqual({
    taken: 400,
    seen: 120,
    seenRatio: 0.3,
    cpuMs: 6,
  });
  expect(samplesSeen(recording, { fromMs: 500, toMs: 1000 })).toEqual({
    taken: 50,
    seen: 45,
    seenRatio: 0.9,
    cpuMs: 1,
  });
  expect(samplesSeen(recording, { fromMs: 5000, toMs: 6000 })!.seenRatio).toBeNaN();
  expect(samplesSeen(read(HELLO), { fromMs: 0, toMs: 1 })).toBeNull();
});

test('where nothing was heard for a while no share of time is claimed', () => {
  const collection = { k: 'gc', t: 100, ms: 5, scope: 'young', label: 'Scavenge', before: 9e6, after: 4e6 };
  const heard = read(HELLO, collection, { k: 'bye', t: 20_000, reason: 'exit 0' });
  const unheard = read(
    HELLO,
    collection,
    { k: 'silence', from: 1000, to: 18_000 },
    { k: 'bye', t: 20_000, reason: 'exit 0' },
  );
  expect(analysisReport(heard).pauses.throughputRatio).toBeGreaterThan(0.99);
  expect(analysisReport(unheard)).toMatchObject({
    pauses: { throughputRatio: null, mmu: [] },
    silences: [{ fromMs: 1000, toMs: 18_000, heap: '1' }],
  });
  expect(silences(unheard, { fromMs: 0, toMs: 900 })).toEqual([]);
  expect(analysisReport(heard)).not.toHaveProperty('silences');
});

test('heaps of one name are told apart by a number', () => {
  const recording = read(
    { ...HELLO, heapName: 'pool.js' },
    { ...HELLO, h: '2', heapName: 'pool.js' },
    { ...HELLO, h: '3', heapName: 'pool.js' },
  );
  expect(recording.heaps.map((heap) => heap.name)).toEqual(['pool.js', 'pool.js (2)', 'pool.js (3)']);
  const named = read(
    { ...HELLO, heapName: 'worker pool.js' },
    { ...HELLO, h: '2', heapName: 'worker 2' },
    { k: 'name', h: '2', name: 'worker pool.js' },
    { k: 'name', h: '2', name: 'worker pool.js (2)' },
  );
  expect(named.heaps.map((heap) => heap.name)).toEqual(['worker pool.js', 'worker pool.js (2)']);
});

test("of V8's scaled estimates those that can be of one object alone are that object's own size", () => {
  const born = { k: 'born', from: 0, to: 10, id: [1, 2, 3], path: [1, 1, 1], size: [40e6, 150_000, 66_000] };
  const { objects } = read(
    { ...HELLO, births: 'some', collector: 'V8' },
    FRAMES,
    PATHS,
    { k: 'phase', t: 0, kind: 'survivors' },
    born,
  ).tables;
  expect(objects.col.probability[0]).toBe(1);
  expect(objects.col.probability[1]).toBeCloseTo(1 - Math.exp(-150_000 / 65536), 6);
  expect(objects.col.probability[2]).toBeNaN();
  // Of another source nothing is known.
  expect(
    read({ ...HELLO, births: 'some' }, FRAMES, PATHS, { k: 'phase', t: 0, kind: 'survivors' }, born).tables.objects.col
      .probability[0],
  ).toBeNaN();
});
