import type { RibbonAnswer } from '@brisk-heron/core';
import { floorLine } from '../../src/ribbon/ribbon-marks.ts';
import type { RibbonLayout } from '../../src/ribbon/ribbon-layout.ts';

const place: RibbonLayout = {
  ...{ width: 1000, height: 200, left: 0, right: 1000, top: 0, axis: 100, pauseEnd: 150, labelY: 190 },
  ...{ window: { fromMs: 0, toMs: 1000 }, mostBytes: 100 },
};
const answerOf = (floorMs: Float64Array, floorBytes: Float64Array): RibbonAnswer =>
  ({ hasStrata: false, floorMs, floorBytes }) as unknown as RibbonAnswer;
const pointsOf = (path: string): number[][] =>
  path === ''
    ? []
    : path
        .split(/[ML]/)
        .slice(1)
        .map((point) => point.split(',').map(Number));

test('few points are drawn one by one', () => {
  const path = floorLine(answerOf(Float64Array.of(0, 10, 999.5), Float64Array.of(10, 20, 30)), place);
  expect(path).toBe('M0.0,90.0L10.0,80.0L999.5,70.0');
  expect(floorLine(answerOf(new Float64Array(0), new Float64Array(0)), place)).toBe('');
});

test('of very many points each column of pixels keeps its first, least, greatest and last', () => {
  const count = 200_000;
  const floorMs = Float64Array.from({ length: count }, (_, at) => (at / count) * 1000);
  const floorBytes = Float64Array.from({ length: count }, (_, at) => 20 + ((at * 7919) % 1000) / 20);
  floorBytes[123_456] = 95;
  floorBytes[77_777] = 1;
  const points = pointsOf(floorLine(answerOf(floorMs, floorBytes), place));
  expect(points.length).toBeLessThanOrEqual(4000);
  expect(points.length).toBeGreaterThan(2000);
  expect(points.every(([x], at) => at === 0 || x! >= points[at - 1]![0]!)).toBe(true);
  expect(points.filter(([, y]) => y === 5 || y === 99)).toEqual([
    [Number(floorMs[77_777]!.toFixed(1)), 99],
    [Number(floorMs[123_456]!.toFixed(1)), 5],
  ]);
  expect(points[points.length - 1]![0]).toBe(Number(floorMs[count - 1]!.toFixed(1)));
});
