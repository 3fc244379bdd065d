import { bucketLayout, movedEdge, readEdges } from '../../src/questions/collections/bucket-layout.ts';
import { DrawQueue } from '../../src/charts/draw-queue.ts';
import { pauseAt, pauseDepth, ribbonLayout, timeAt, xOf, yOfBytes, zoomed } from '../../src/ribbon/ribbon-layout.ts';
import { pixelColour } from '../../src/charts/pixel-colour.ts';
import { bandColours, paintStrata } from '../../src/ribbon/strata-paint.ts';
import { byteLabel, byteTicks, timeLabel, timeTicks } from '../../src/charts/ticks.ts';
import { sparkPath } from '../../src/charts/spark.ts';
import type { RibbonAnswer } from '@brisk-heron/core';

const MIB = 1048576;
const layout = ribbonLayout(1280, 206, { fromMs: 0, toMs: 60_000 }, 30 * MIB);

test("time and place are each other's inverse", () => {
  expect(xOf(layout, 0)).toBe(layout.left);
  expect(xOf(layout, 60_000)).toBe(layout.right);
  expect(timeAt(layout, xOf(layout, 12_345))).toBeCloseTo(12_345, 6);
});

test('memory stands on the axis and stays below the top', () => {
  expect(yOfBytes(layout, 0)).toBe(layout.axis);
  expect(yOfBytes(layout, 30 * MIB)).toBeGreaterThan(layout.top);
});

test('pauses hang deeper the longer they are, on a log scale, never out of the ribbon', () => {
  expect(pauseDepth(layout, 0.001)).toBe(3);
  expect(pauseDepth(layout, 100) - pauseDepth(layout, 10)).toBeCloseTo(
    pauseDepth(layout, 10) - pauseDepth(layout, 1),
    6,
  );
  expect(layout.axis + pauseDepth(layout, 1e9)).toBe(layout.pauseEnd);
});

test('zooming keeps the instant under the pointer in its place', () => {
  const window = zoomed({ fromMs: 0, toMs: 100 }, 0.5, 25);
  expect(window).toEqual({ fromMs: 12.5, toMs: 62.5 });
});

test('the longest of the pauses near a point is meant', () => {
  const x = xOf(layout, 30_000);
  expect(pauseAt(layout, Float64Array.of(30_000, 30_001, 59_000), Float64Array.of(1, 90, 5), x, 5)).toBe(1);
  expect(pauseAt(layout, Float64Array.of(1000), Float64Array.of(1), x, 5)).toBe(-1);
});

test('strata are painted from the oldest up, hatched where nothing is known to live', () => {
  const answer = {
    bins: 1,
    bands: 2,
    hasStrata: true,
    strata: Float64Array.of(10 * MIB, 5 * MIB),
    usedAfter: Float64Array.of(15 * MIB),
    usedHigh: Float64Array.of(30 * MIB),
  } as unknown as RibbonAnswer;
  const height = layout.axis - layout.top;
  const pixels = new Uint32Array(height);
  paintStrata({ pixels, width: 1, height }, answer, layout, {
    bands: Uint32Array.of(1, 2),
    rest: 3,
    hatch: 4,
    floor: 5,
  });
  const counts = [0, 0, 0, 0, 0];
  for (const pixel of pixels) counts[pixel]!++;
  expect(pixels[height - 1]).toBe(1);
  expect(counts[1]! / height).toBeCloseTo(10 / (30 * 1.06), 1);
  expect(counts[2]! / height).toBeCloseTo(5 / (30 * 1.06), 1);
  expect((counts[3]! + counts[4]!) / height).toBeCloseTo(15 / (30 * 1.06), 1);
  expect(counts[4]! / counts[3]!).toBeCloseTo(1 / 4, 1);
});

test('colours run along their stops, in the byte order of pixels', () => {
  expect(pixelColour('#112233')).toBe(0xff332211);
  expect([...bandColours(['#000000', '#ffffff'], 3)]).toEqual([0xff000000, 0xff808080, 0xffffffff]);
});

test('ticks are round instants and sizes', () => {
  expect(timeTicks(0, 60_000, 6)).toEqual([0, 10_000, 20_000, 30_000, 40_000, 50_000, 60_000]);
  expect(timeTicks(100, 190, 4)).toEqual([100, 150]);
  expect([timeLabel(90_000, 10_000), timeLabel(1500, 500), timeLabel(1234, 2)]).toEqual(['1:30', '0:01.5', '1.234 s']);
  expect(byteTicks(30 * MIB, 3).map(byteLabel)).toEqual(['0', '10 MiB', '20 MiB', '30 MiB']);
  expect(byteTicks(0, 3)).toEqual([0]);
});

test('a spark reaches from its left to its right end', () => {
  expect(sparkPath([0, 5, 10], 20, 12)).toBe('M0.0,11.0L10.0,6.0L20.0,1.0');
  expect([sparkPath([1], 20, 12), sparkPath([0, 0], 20, 12)]).toEqual(['', 'M0,11.5H20']);
});

test('buckets stand side by side over their edges, and an edge that is moved reads as a figure', () => {
  const layout = bucketLayout(
    { edgesMs: [0, 1, 2, 5, 10, 20], counts: [0, 4, 8, 0, 2], totalsMs: [0, 6, 30, 0, 30] },
    500,
    150,
  );
  expect(layout.bars.map(({ bucket }) => bucket)).toEqual([1, 2, 3, 4]);
  for (let n = 1; n < layout.bars.length; n++)
    expect(layout.bars[n]!.x - (layout.bars[n - 1]!.x + layout.bars[n - 1]!.width)).toBeCloseTo(1, 6);
  expect(layout.bars[1]!.height).toBeCloseTo(2 * layout.bars[0]!.height, 6);
  expect(layout.bars[2]!.height).toBe(0);
  expect(layout.handles.map(({ ms }) => ms)).toEqual([1, 2, 5, 10]);
  for (const { x, ms } of layout.handles) expect(layout.msAt(x)).toBeCloseTo(ms, 6);
  expect(movedEdge([0, 1, 2, 5], 2, 3.14159)).toEqual([1, 3.1, 5]);
});

test('pauses that are all short, or none at all, still have buckets', () => {
  expect(bucketLayout({ edgesMs: [0, 1], counts: [3], totalsMs: [0.3] }, 400, 150).bars).toHaveLength(1);
  expect(bucketLayout({ edgesMs: [0, 1], counts: [0], totalsMs: [0] }, 400, 150).bars[0]).toMatchObject({
    count: 0,
    height: 0,
  });
});

test.each([
  ['1, 5, 20', [1, 5, 20]],
  ['0.5;2 9', [0.5, 2, 9]],
  ['', null],
  ['1, soon', null],
  ['-3', null],
  ['0', null],
])('edges typed as %j are %j', (text, edges) => {
  expect(readEdges(text)).toEqual(edges);
});

test('charts are drawn one a frame, each once however often it was asked for', () => {
  const frames: (() => void)[] = [];
  const queue = new DrawQueue((run) => frames.push(run));
  const done: string[] = [];
  const [a, b, gone] = [{}, {}, {}];
  queue.ask(a, () => done.push('a, out of date'));
  queue.ask(b, () => done.push('b'));
  queue.ask(gone, () => done.push('gone'));
  queue.ask(a, () => done.push('a'));
  queue.drop(gone);
  const seen: string[][] = [];
  while (frames.length > 0) {
    frames.shift()!();
    seen.push([...done]);
  }
  expect(seen).toEqual([['a'], ['a', 'b'], ['a', 'b']]);
  queue.ask(b, () => done.push('b again'));
  frames.shift()!();
  expect(done).toEqual(['a', 'b', 'b again']);
});
