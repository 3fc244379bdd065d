import { historyLayout } from '../../src/home/history-layout.ts';
import type { RunPoint } from '@brisk-heron/core';

const run = (startEpochMs: number | null, durationMs: number, peakBytes: number, limitBytes: number | null = null) =>
  ({ startEpochMs, durationMs, peakBytes, limitBytes }) as RunPoint;
const SIZE = { width: 100, height: 50 };

test('runs stand where they were, as wide as they took and as high as they reached', () => {
  const { runs, limitY } = historyLayout([run(1000, 100, 20, 40), run(1300, 100, 40, 40)], SIZE);
  expect(runs).toEqual([
    { left: 0, width: 25, height: 25 },
    { left: 75, width: 25, height: 50 },
  ]);
  expect(limitY).toBe(0);
});

test('without a clock they stand one after another, and a limit far away is not drawn', () => {
  const { runs, limitY } = historyLayout([run(null, 300, 10, 1000), run(null, 100, 5, 1000)], SIZE);
  expect(runs.map(({ left, width }) => [left, width])).toEqual([
    [0, 75],
    [75, 25],
  ]);
  expect([runs[0]!.height, limitY]).toEqual([50, null]);
  expect(historyLayout([], SIZE).runs).toEqual([]);
});
