import type { BirthAgeMap, CurvePoint } from '@brisk-heron/core';
import { curveScales, stepPath } from '../../src/questions/survival/curve-chart.ts';
import {
  collectionLine,
  mapLayout,
  paintMap,
  regionAt,
  regionFind,
  xOfBirth,
  yOfAge,
} from '../../src/questions/survival/map-layout.ts';
import { ageText, differenceText, rangeText, shareText } from '../../src/questions/survival/survival-words.ts';

const point = (age: number, estimate: number): CurvePoint => ({
  ...{ age, estimate, low: estimate - 0.1, high: estimate + 0.1 },
  ...{ earliest: estimate, latest: estimate, atRisk: 100 },
});
const curve = [point(10, 0.8), point(100, 0.5), point(1000, 0.2)];
const drawn = [{ name: 'all', points: curve, style: 0, isFull: true }];

test('a curve is level up to where a share dies, and ends where nothing older was seen', () => {
  const scales = curveScales(drawn, 'seconds', true, { width: 800, height: 300 });
  const path = stepPath(curve, scales, ({ estimate }) => estimate);
  expect(path.match(/H/g)).toHaveLength(3);
  expect(scales.x(1000)).toBeCloseTo(650, 6);
  expect(scales.y(0)).toBeGreaterThan(scales.y(1));
  expect(scales.ticks).toEqual([1, 10, 100, 1000]);
});

test('a share has its band behind it, and a dash stands for what was not seen', () => {
  expect(shareText(null)).toBe('–');
  expect(shareText(point(500, 0.5))).toBe('50 % (40–60 %)');
});

test('ages, ranges and differences are told in words', () => {
  expect(ageText('collections', 1)).toBe('1 collection');
  expect(ageText('allocated', 2 * 2 ** 20)).toBe('2.00 MiB');
  expect(rangeText('seconds', { low: null, high: null }, 12_000)).toBe('over 12.0 s, not reached');
  expect(rangeText('collections', { low: 2, high: null }, 9)).toBe('over 2 collections, not reached');
  expect(rangeText('seconds', { low: 0, high: 250 }, 900)).toBe('under 250 ms');
  expect(differenceText({ z: -9, pValue: 1e-8, says: 'outlives' })).toBe('outlives the rest, surely');
  expect(differenceText({ z: 2.2, pValue: 0.03, says: 'sooner' })).toBe('dies sooner than the rest, likely');
  expect(differenceText({ z: NaN, pValue: NaN, says: 'unknown' })).toBe('');
});

const map: BirthAgeMap = {
  ...{ span: { fromMs: 0, toMs: 100_000 }, columns: 4, rows: 2, edgesMs: Float64Array.of(0, 1000, 100_000) },
  ...{ died: Float64Array.of(1, 0, 0, 0, 0, 0, 0, 1e6), alive: new Float64Array(4), deaths: 2, living: 0 },
  wholeMs: Float64Array.of(50_000),
};
const layout = mapLayout(480, 244);

test('a region that is drawn lies along the cells, and is found by birth and age', () => {
  const inner = { x: xOfBirth(map, layout, 30_000), y: yOfAge(map, layout, 500) };
  const region = regionAt(map, layout, inner, { x: inner.x + 2, y: inner.y + 2 });
  expect(region).toEqual({ bornFromMs: 25_000, bornToMs: 50_000, ageFromMs: 0, ageToMs: 1000 });
  expect(regionFind(region)).toBe('born=25..50 age=0..1 fate=died');
  const beyond = regionAt(map, layout, { x: -50, y: -50 }, { x: 9000, y: 9000 });
  expect(beyond).toEqual({ bornFromMs: 0, bornToMs: 100_000, ageFromMs: 0, ageToMs: 100_000 });
});

test('a collection runs back from its end, and leaves the map where the span begins', () => {
  expect(collectionLine(map, layout, 50_000).startsWith(`M${xOfBirth(map, layout, 50_000).toFixed(1)}`)).toBe(true);
  expect(collectionLine(map, layout, 50_000).match(/L/g)).toHaveLength(1);
});

test('cells without deaths stay empty, the fullest is darkest, the least is still seen', () => {
  const pixels = new Uint32Array(8);
  paintMap(pixels, map, 0xff102030);
  expect(pixels[0]! >>> 0).toBe(0);
  expect(pixels[3]! >>> 24).toBe(255);
  expect(pixels[4]! >>> 24).toBeGreaterThan(20);
  expect(pixels[4]! & 0xffffff).toBe(0x102030);
});
