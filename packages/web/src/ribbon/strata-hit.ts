import type { RibbonAnswer } from '@brisk-heron/core';
import { type RibbonLayout, timeAt, xOf, yOfBytes } from './ribbon-layout.ts';

/** What the pointer is on above the ribbon's axis. */
export interface StrataHit {
  readonly tMs: number;
  /** The band under the pointer; null above the layers. */
  readonly band: number | null;
  /** Live bytes of the band at that time, and what was seen to be born in it in all. */
  readonly bytes: number;
  readonly bornBytes: number;
}

/** The instant and the band at a point of the memory picture; null outside it. Cost: the bands. */
export function strataAt(answer: RibbonAnswer, layout: RibbonLayout, x: number, y: number): StrataHit | null {
  if (x < layout.left || x > layout.right || y > layout.axis || y < layout.top) return null;
  const tMs = timeAt(layout, x);
  const none: StrataHit = { tMs, band: null, bytes: 0, bornBytes: 0 };
  if (!answer.hasStrata || tMs < answer.window.fromMs || tMs >= answer.window.toMs) return none;
  const bin = Math.min(
    answer.bins - 1,
    Math.floor(((tMs - answer.window.fromMs) / (answer.window.toMs - answer.window.fromMs)) * answer.bins),
  );
  let stacked = 0;
  for (let band = 0; band < answer.bands; band++) {
    const bytes = answer.strata[band * answer.bins + bin]!;
    if (bytes <= 0) continue;
    stacked += bytes;
    if (yOfBytes(layout, stacked) <= y) return { tMs, band, bytes, bornBytes: answer.bandBornBytes[band]! };
  }
  return none;
}

/** Path along the lower and upper edge of a band over the window; '' for a band that is not there. */
export function bandOutline(answer: RibbonAnswer, layout: RibbonLayout, band: number): string {
  const lower: string[] = [];
  const upper: string[] = [];
  for (let bin = 0; bin < answer.bins; bin++) {
    const bytes = answer.strata[band * answer.bins + bin]!;
    if (bytes <= 0) continue;
    let under = 0;
    for (let below = 0; below < band; below++) under += Math.max(0, answer.strata[below * answer.bins + bin]!);
    const tMs = answer.window.fromMs + ((bin + 0.5) / answer.bins) * (answer.window.toMs - answer.window.fromMs);
    const x = xOf(layout, tMs).toFixed(1);
    lower.push(`${x},${yOfBytes(layout, under).toFixed(1)}`);
    upper.push(`${x},${yOfBytes(layout, under + bytes).toFixed(1)}`);
  }
  return lower.length < 2 ? '' : `M${lower.join('L')}L${upper.reverse().join('L')}Z`;
}
