import type { BirthAgeMap } from '@brisk-heron/core';

/** Geometry of the map of births and ages, in CSS pixels. Pure: no drawing. */

/** Where the map's plot stands. */
export interface MapLayout {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** A region of births and ages, in milliseconds. */
export interface MapRegion {
  readonly bornFromMs: number;
  readonly bornToMs: number;
  readonly ageFromMs: number;
  readonly ageToMs: number;
}

const [LEFT, RIGHT, TOP, BOTTOM] = [62, 18, 20, 24];

/** Places of the plot in a drawing of a size. */
export function mapLayout(width: number, height: number): MapLayout {
  return {
    left: LEFT,
    right: Math.max(LEFT + 10, width - RIGHT),
    top: TOP,
    bottom: Math.max(TOP + 10, height - BOTTOM),
  };
}

/** Place of a time of birth. */
export function xOfBirth({ span }: BirthAgeMap, layout: MapLayout, bornMs: number): number {
  return layout.left + ((bornMs - span.fromMs) / (span.toMs - span.fromMs)) * (layout.right - layout.left);
}

/** Place of an age, on the rows' own scale: between two edges it is even. */
export function yOfAge({ edgesMs, rows }: BirthAgeMap, layout: MapLayout, ageMs: number): number {
  let row = 0;
  while (row < rows - 1 && edgesMs[row + 1]! <= ageMs) row++;
  const [from, to] = [edgesMs[row]!, edgesMs[row + 1]!];
  const part = Math.max(0, Math.min(1, (ageMs - from) / (to - from)));
  return layout.bottom - ((row + part) / rows) * (layout.bottom - layout.top);
}

/** The region between two corners of the plot, along the edges of its cells. */
export function regionAt(
  map: BirthAgeMap,
  layout: MapLayout,
  a: { readonly x: number; readonly y: number },
  b: { readonly x: number; readonly y: number },
): MapRegion {
  const { span, columns, rows, edgesMs } = map;
  const column = (x: number): number => ((x - layout.left) / (layout.right - layout.left)) * columns;
  const row = (y: number): number => ((layout.bottom - y) / (layout.bottom - layout.top)) * rows;
  const inside = (value: number, most: number): number => Math.max(0, Math.min(most, value));
  const from = Math.floor(inside(column(Math.min(a.x, b.x)), columns - 1));
  const to = Math.max(from + 1, Math.ceil(inside(column(Math.max(a.x, b.x)), columns)));
  const young = Math.floor(inside(row(Math.max(a.y, b.y)), rows - 1));
  const old = Math.max(young + 1, Math.ceil(inside(row(Math.min(a.y, b.y)), rows)));
  const born = (at: number): number => span.fromMs + (at / columns) * (span.toMs - span.fromMs);
  return { bornFromMs: born(from), bornToMs: born(to), ageFromMs: edgesMs[young]!, ageToMs: edgesMs[old]! };
}

const seconds = (ms: number): string => String(Math.round(ms * 10) / 10_000);

/** The find that lets through what died in a region: `born=10..20 age=0.5..2 fate=died`. */
export function regionFind({ bornFromMs, bornToMs, ageFromMs, ageToMs }: MapRegion): string {
  return `born=${seconds(bornFromMs)}..${seconds(bornToMs)} age=${seconds(ageFromMs)}..${seconds(ageToMs)} fate=died`;
}

/** A find without what it says of births, ages and fates: the map itself shows all of them. */
export function withoutRegion(find: string): string {
  return find.replace(/(?:^|\s)!?(?:born|age|fate)(?:>=|<=|=|>|<)\S+/g, '').trim();
}

/** A line of a collection's end over the map: those born at its left are as old as it is after them. */
export function collectionLine(map: BirthAgeMap, layout: MapLayout, endMs: number): string {
  const { span, edgesMs, rows } = map;
  let path = '';
  for (let row = 0; row <= rows; row++) {
    const born = endMs - edgesMs[row]!;
    if (born < span.fromMs) break;
    path += `${path === '' ? 'M' : 'L'}${xOfBirth(map, layout, born).toFixed(1)},${yOfAge(map, layout, edgesMs[row]!).toFixed(1)}`;
  }
  return path;
}

/**
 * Writes the map into pixels, a cell a pixel, `pixels[(rows − 1 − row) · columns + column]` as 0xAABBGGRR: shade by the
 * logarithm of the bytes that died there, from `LEAST_SHADE` of the cell that has most; 0 where none did.
 */
export function paintMap(pixels: Uint32Array, { died, columns, rows }: BirthAgeMap, colour: number): void {
  let most = 0;
  for (const bytes of died) most = Math.max(most, bytes);
  const least = most * LEAST_SHADE;
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const bytes = died[row * columns + column]!;
      const share = bytes <= 0 ? 0 : Math.max(FAINTEST, Math.log(bytes / least) / Math.log(1 / LEAST_SHADE));
      pixels[(rows - 1 - row) * columns + column] =
        share === 0 ? 0 : ((Math.round(255 * Math.min(1, share)) << 24) | (colour & 0xffffff)) >>> 0;
    }
}

const LEAST_SHADE = 1e-4;
const FAINTEST = 0.12;
