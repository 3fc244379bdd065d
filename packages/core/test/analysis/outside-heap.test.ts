import { outsideHeap } from '../../src/analysis/outside-heap.ts';
import { Recording } from '../../src/model/recording.ts';

function size(recording: Recording, tMs: number, externalBytes: number, residentBytes: number, heapId = 0): void {
  const row = recording.tables.sizes.addRow();
  const { col } = recording.tables.sizes;
  col.tMs[row] = tMs;
  col.externalBytes[row] = externalBytes;
  col.residentBytes[row] = residentBytes;
  col.heapId[row] = heapId;
}

test('the last reading and the slope, of the span alone', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  for (let n = 0; n <= 2000; n++) size(recording, n * 10, 1000 + n, 50_000);
  expect(outsideHeap(recording, { fromMs: 0, toMs: 20_000 })).toEqual({
    externalBytes: 3000,
    externalBytesPerSec: expect.closeTo(100, 6) as number,
    residentBytes: 50_000,
    residentBytesPerSec: 0,
    attributedBytes: NaN,
    attributedBytesSe: NaN,
    unattributedBytes: NaN,
  });
  expect(outsideHeap(recording, { fromMs: 0, toMs: 10_000 })!.externalBytes).toBe(2000);
});

test('heaps are added, and what a heap does not tell counts as nothing', () => {
  const recording = new Recording('recording');
  recording.addHeap('main');
  recording.addHeap('worker');
  size(recording, 0, 100, 5000);
  size(recording, 10, 30, NaN, 1);
  size(recording, 20, 120, 5000);
  expect(outsideHeap(recording, { fromMs: 0, toMs: 100 })).toMatchObject({ externalBytes: 150, residentBytes: 5000 });
});

test('a log tells nothing of it', () => {
  expect(outsideHeap(new Recording('jvm-unified'), { fromMs: 0, toMs: 100 })).toBeNull();
});
