import { ribbonLayout, xOf, yOfBytes } from '../../src/ribbon/ribbon-layout.ts';
import { bandOutline, strataAt } from '../../src/ribbon/strata-hit.ts';
import { floorLayout, floorPointAt } from '../../src/questions/growth/floor-chart.ts';
import type { GrowthAnswer } from '@brisk-heron/core';
import type { RibbonAnswer } from '@brisk-heron/core';

const MIB = 1048576;
const layout = ribbonLayout(1000, 206, { fromMs: 0, toMs: 1000 }, 30 * MIB);
/** Two bins, three bands; the middle band comes in the second bin only. */
const answer = {
  window: { fromMs: 0, toMs: 1000 },
  bins: 2,
  bands: 3,
  hasStrata: true,
  bandBornBytes: Float64Array.of(20, 40, 60).map((each) => each * MIB),
  strata: Float64Array.of(10, 8, 0, 6, 4, 2).map((each) => each * MIB),
} as unknown as RibbonAnswer;
const at = (tMs: number, bytes: number) => strataAt(answer, layout, xOf(layout, tMs), yOfBytes(layout, bytes * MIB));

test.each([
  [250, 5, 0, 10],
  [250, 12, 2, 4],
  [250, 20, null, 0],
  [750, 7.9, 0, 8],
  [750, 9, 1, 6],
  [750, 15, 2, 2],
  [750, 17, null, 0],
])('at %d ms and %d MiB the pointer is on band %s with %d MiB', (tMs, bytes, band, size) => {
  expect(at(tMs, bytes)).toMatchObject({ band, bytes: size * MIB });
  expect(at(tMs, bytes)!.tMs).toBeCloseTo(tMs, 6);
});

test('the share that lives is of what was born in the band', () => {
  expect(at(750, 9)).toMatchObject({ bornBytes: 40 * MIB });
});

test('beside the picture, and below its axis, there is nothing', () => {
  expect(strataAt(answer, layout, layout.left - 1, layout.axis - 5)).toBeNull();
  expect(strataAt(answer, layout, 500, layout.axis + 5)).toBeNull();
  expect(strataAt({ ...answer, hasStrata: false }, layout, 500, layout.axis - 5)).toMatchObject({ band: null });
});

test("a band's outline runs along its lower edge and back along its upper one", () => {
  const path = bandOutline(answer, layout, 2);
  expect(path).toMatch(/^M[\d.]+,[\d.]+L[\d.]+,[\d.]+L[\d.]+,[\d.]+L[\d.]+,[\d.]+Z$/);
  const [first] = path.slice(1).split('L');
  expect(Number(first!.split(',')[1])).toBeCloseTo(yOfBytes(layout, 10 * MIB), 1);
  expect(bandOutline(answer, layout, 1)).toBe('');
});

describe('a click on the floor', () => {
  const growth = {
    span: { fromMs: 0, toMs: 1000 },
    afterBytes: new Float64Array(0),
    afterMs: new Float64Array(0),
    verdict: {
      kind: 'steady',
      floor: { tMs: Float64Array.of(100, 500, 900), bytes: Float64Array.of(4, 5, 9).map((each) => each * MIB) },
      slopeBytesPerSec: NaN,
      floorNowBytes: NaN,
      limitBytes: NaN,
    },
  } as unknown as GrowthAnswer;
  const size = { width: 700, height: 200 };
  const { fromMs, toMs, leastBytes, mostBytes } = floorLayout(growth);
  const place = (tMs: number, bytes: number): [number, number] => [
    62 + ((tMs - fromMs) / (toMs - fromMs)) * (700 - 62 - 18),
    200 - 24 - ((bytes - leastBytes) / (mostBytes - leastBytes)) * (200 - 24 - 12),
  ];

  test.each([
    [100, 4, 0],
    [500, 5, 1],
    [900, 9, 2],
  ])('at %d ms goes to point %#', (tMs, mib, point) => {
    const [x, y] = place(tMs, mib * MIB);
    expect(floorPointAt(growth, size, x + 4, y - 3)).toBe(point);
  });

  test('far from every point goes nowhere', () => {
    expect(floorPointAt(growth, size, ...place(300, 9 * MIB))).toBe(-1);
  });
});
