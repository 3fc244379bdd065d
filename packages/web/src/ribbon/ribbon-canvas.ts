import type { RibbonAnswer } from '@brisk-heron/core';
import { pixelColour } from '../charts/pixel-colour.ts';
import type { RibbonLayout } from './ribbon-layout.ts';
import { bandColours, paintStrata } from './strata-paint.ts';

const MOST_DENSITY = 2;

/** Paints the ribbon's layers into its canvas, in the colours of the theme in force. */
export function paintRibbon(element: HTMLCanvasElement, answer: RibbonAnswer, place: RibbonLayout): void {
  const density = Math.min(MOST_DENSITY, globalThis.devicePixelRatio || 1);
  const wide = Math.round((place.right - place.left) * density);
  const tall = Math.round((place.axis - place.top) * density);
  if (wide < 1 || tall < 1) return;
  element.width = wide;
  element.height = tall;
  const context = element.getContext('2d');
  if (context === null) return;
  const image = context.createImageData(wide, tall);
  const token = (name: string): string => getComputedStyle(element).getPropertyValue(name).trim();
  paintStrata({ pixels: new Uint32Array(image.data.buffer), width: wide, height: tall }, answer, place, {
    bands: bandColours(
      [0, 1, 2, 3].map((stop) => token(`--strata-${stop}`)),
      answer.bands,
    ),
    rest: pixelColour(token('--rest')),
    hatch: pixelColour(token('--hatch')),
    floor: pixelColour(token('--after')),
  });
  context.putImageData(image, 0, 0);
}
