import { pixelColour } from '../charts/pixel-colour.ts';
import type { RibbonAnswer } from '@brisk-heron/core';
import { type RibbonLayout, yOfBytes } from './ribbon-layout.ts';

/** Colours of the memory picture as 0xAABBGGRR words, the order in which pixels lie in memory. */
export interface StrataPalette {
  /** Oldest band first. */
  readonly bands: Uint32Array;
  /** Ground and hatching of what is used but not known to live: churn, and what was not sampled. */
  readonly rest: number;
  readonly hatch: number;
  /** Used after collections, where no object was seen. */
  readonly floor: number;
}

/** Pixels to write into: `pixels[y · width + x]`. */
export interface PixelGrid {
  readonly pixels: Uint32Array;
  readonly width: number;
  readonly height: number;
}

/**
 * Writes the memory picture into pixels: one column of the image for each bin, layers from the oldest up, then what is
 * used beyond them. The grid is overwritten; 0 is transparent. Linear in the pixels.
 */
export function paintStrata(grid: PixelGrid, answer: RibbonAnswer, layout: RibbonLayout, palette: StrataPalette): void {
  const { pixels, width, height } = grid;
  pixels.fill(0);
  const scale = height / (layout.axis - layout.top);
  const rowOf = (bytes: number): number => Math.max(0, Math.round((yOfBytes(layout, bytes) - layout.top) * scale));
  for (let x = 0; x < width; x++) {
    const bin = Math.min(answer.bins - 1, Math.floor((x / width) * answer.bins));
    const high = answer.usedHigh[bin]!;
    const after = answer.usedAfter[bin]!;
    let bottom = height;
    let stacked = 0;
    if (answer.hasStrata) {
      for (let band = 0; band < answer.bands; band++) {
        const bytes = answer.strata[band * answer.bins + bin]!;
        if (bytes <= 0) continue;
        stacked += bytes;
        const top = rowOf(stacked);
        for (let y = top; y < bottom; y++) pixels[y * width + x] = palette.bands[band]!;
        // A line in the colour of a layer below tells thick layers apart.
        if (bottom - top > 3) pixels[top * width + x] = palette.bands[Math.max(0, band - 2)]!;
        bottom = top;
      }
    } else if (after > 0) {
      const top = rowOf(after);
      for (let y = top; y < bottom; y++) pixels[y * width + x] = palette.floor;
      bottom = top;
    }
    if (high > 0)
      for (let y = rowOf(high); y < bottom; y++)
        pixels[y * width + x] = (x + y) % 5 === 0 ? palette.hatch : palette.rest;
  }
}

/** Colours for `count` bands along the stops, oldest first. */
export function bandColours(stops: readonly string[], count: number): Uint32Array {
  return Uint32Array.from({ length: count }, (_, band) => {
    const at = (band / Math.max(1, count - 1)) * (stops.length - 1);
    const lower = Math.min(stops.length - 2, Math.floor(at));
    return mixed(pixelColour(stops[lower]!), pixelColour(stops[lower + 1]!), at - lower);
  });
}

function mixed(a: number, b: number, share: number): number {
  let colour = 0xff000000;
  for (const shift of [0, 8, 16]) {
    const from = (a >>> shift) & 255;
    colour |= Math.round(from + (((b >>> shift) & 255) - from) * share) << shift;
  }
  return colour >>> 0;
}
