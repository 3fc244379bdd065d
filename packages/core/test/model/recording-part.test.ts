import { chargeTable } from '../../src/analysis/charge-table.ts';
import { allocationFigures } from '../../src/analysis/allocation.ts';
import { birthsSeenMs } from '../../src/analysis/births-seen.ts';
import { floorPoints } from '../../src/analysis/floor.ts';
import { ObjectIndex } from '../../src/analysis/object-index.ts';
import { programPauses } from '../../src/analysis/program-pauses.ts';
import { pauseFigures } from '../../src/analysis/pause-figures.ts';
import { spanSums } from '../../src/analysis/span-sums.ts';
import { usedSeries } from '../../src/analysis/used-series.ts';
import { NONE } from '../../src/base/ids.ts';
import { chargeText } from '../../src/model/charge.ts';
import { heapsApart, heapsPart } from '../../src/model/recording-part.ts';
import { Recording } from '../../src/model/recording.ts';
import { PhaseKind } from '../../src/model/tables.ts';
import { addCollection, addFlow, addObject } from '../build-recording.ts';

const SPAN = { fromMs: 0, toMs: 10_000 };

function addHeapOf(recording: Recording, heap: number): void {
  const heapId = recording.addHeap(`heap ${heap}`);
  recording.heaps[heapId]!.limitBytes = (heap + 1) * 1000;
  const phase = recording.tables.phases.addRow();
  recording.tables.phases.col.fromMs[phase] = heap * 100;
  recording.tables.phases.col.kind[phase] = heap === 1 ? PhaseKind.deaths : PhaseKind.objects;
  recording.tables.phases.col.heapId[phase] = heapId;
}

// Three heaps that take turns, or those of them that are wanted, numbered anew.
function world(wanted: readonly number[]): Recording {
  const recording = new Recording('recording');
  [0, 1, 2].forEach((heap) => {
    if (wanted.includes(heap)) addHeapOf(recording, heap);
  });
  for (let n = 0; n < 600; n++) {
    const heap = n % 3;
    if (!wanted.includes(heap)) continue;
    const heapId = wanted.indexOf(heap);
    addObject(recording, {
      bornMs: n * 15,
      bytes: 100 + heap,
      site: `site${n % 4}`,
      heapId,
      ...(n % 5 < 3 ? { diedMs: n * 15 + 40 } : {}),
    });
    if (n % 6 === heap) {
      addCollection(recording, { startMs: n * 15 + 7, ms: 1 + heap, before: 5000 + n, after: 1000 + n, heapId });
      const { spaces, collections } = recording.tables;
      const space = spaces.addRow();
      spaces.col.collectionRow[space] = collections.length - 1;
      spaces.col.afterBytes[space] = n;
    }
    if (n % 60 === heap) addFlow(recording, { fromMs: n * 15, toMs: n * 15 + 100, bytes: 300, site: 'site0', heapId });
  }
  recording.reach(10_000);
  return recording;
}

const figures = (recording: Recording) => {
  const sums = spanSums(new ObjectIndex(recording), SPAN, 500);
  const { rows } = chargeTable(recording, sums, 'site');
  return {
    rows: rows
      .map(({ key, allocBytes, keptBytes, diedBytes, growthBytesPerSec }) => [
        chargeText(recording, 'site', key),
        allocBytes,
        keptBytes,
        diedBytes,
        growthBytesPerSec.toFixed(6),
      ])
      .sort(),
    floor: floorPoints(recording, SPAN),
    used: usedSeries(recording),
    alloc: allocationFigures(recording, SPAN)?.totalBytes,
    pauses: pauseFigures(recording, programPauses(recording, SPAN), SPAN).totalMs,
    spaces: [...recording.tables.spaces.col.collectionRow.subarray(0, recording.tables.spaces.length)].map(
      (row) => recording.tables.collections.col.usedAfterBytes[row],
    ),
    limits: recording.heapLimitBytes() > 0,
  };
};

test.each([[[0]], [[2]], [[0, 2]], [[1, 2]], [[0, 1, 2]]])(
  'of the heaps %j every figure is that of a recording of them alone',
  (wanted) => {
    const part = heapsPart(world([0, 1, 2]), wanted);
    expect(figures(part)).toEqual(figures(world(wanted)));
  },
);

test('apart, each heap has the floor and the limit of a recording of it alone', () => {
  const recording = world([0, 1, 2]);
  const apart = heapsApart(recording);
  expect(apart.map((heap) => [heap.chosenHeaps, heap.heapLimitBytes()])).toEqual([
    [[0], 1000],
    [[1], 2000],
    [[2], 3000],
  ]);
  apart.forEach((heap, heapId) => expect(floorPoints(heap, SPAN)).toEqual(floorPoints(world([heapId]), SPAN)));
  expect(heapsApart(heapsPart(recording, [0, 2])).map(({ chosenHeaps }) => chosenHeaps)).toEqual([[0], [2]]);
  const one = heapsPart(recording, [1]);
  expect(heapsApart(one)).toEqual([one]);
  expect(heapsApart(new Recording('recording'))).toHaveLength(1);
});

test('limits and unwatched births are those of the heaps chosen', () => {
  const recording = world([0, 1, 2]);
  expect([
    recording.heapLimitBytes(),
    heapsPart(recording, [1, 2]).heapLimitBytes(),
    heapsPart(recording, [2]).heapLimitBytes(),
  ]).toEqual([1000, 2000, 3000]);
  expect([birthsSeenMs(heapsPart(recording, [1]), SPAN), birthsSeenMs(heapsPart(recording, [0]), SPAN)]).toEqual([
    100, 10_000,
  ]);
});

test('pauses, collections and spaces point to each other as before', () => {
  const recording = world([0, 1, 2]);
  const { tables } = heapsPart(recording, [1]);
  for (let row = 0; row < tables.pauses.length; row++) {
    const at = tables.pauses.col.collectionRow[row]!;
    expect(at).not.toBe(NONE);
    expect([tables.collections.col.heapId[at], tables.collections.col.startMs[at]]).toEqual([
      1,
      tables.pauses.col.startMs[row],
    ]);
  }
  expect(tables.pauses.length).toBeGreaterThan(10);
  expect(recording.tables.pauses.length).toBeGreaterThan(tables.pauses.length * 2);
});
