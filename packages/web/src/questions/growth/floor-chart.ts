import { formatBytes, formatBytesLike, type GrowthAnswer } from '@brisk-heron/core';
import { scaleLinear } from 'd3-scale';
import { bottomAxis, freshSvg, leftAxis, type Margins } from '../../charts/figure.ts';
import { byteLabel, byteTicks, timeLabel, timeTicks } from '../../charts/ticks.ts';

const MARGINS: Margins = { top: 12, right: 18, bottom: 24, left: 62 };

/** What varies by less than this of itself is drawn from 0: a magnified level looks like a change. */
const LEVEL_RATIO = 0.03;

/** Geometry of the floor chart: scales' bounds and the trend's corners, before anything is drawn. */
export interface FloorLayout {
  readonly fromMs: number;
  readonly toMs: number;
  readonly leastBytes: number;
  readonly mostBytes: number;
  /** Trend line as [tMs, bytes] at its two ends; null when no trend was computed. */
  readonly line: readonly [readonly [number, number], readonly [number, number]] | null;
  /** Corners of the 95 % band, around the line's middle. */
  readonly band: readonly (readonly [number, number])[];
}

/** Places of everything in the chart of the floor, in time and bytes. */
export function floorLayout(answer: GrowthAnswer): FloorLayout {
  const { verdict, span } = answer;
  let [least, most] = [Infinity, 1];
  for (const column of [verdict.floor.bytes, answer.afterBytes])
    for (let place = 0; place < column.length; place++) {
      const bytes = column[place]!;
      if (!(bytes >= 0)) continue;
      if (bytes < least) least = bytes;
      if (bytes > most) most = bytes;
    }
  least = Math.min(least, most);
  const line = trendLine(answer);
  const withLimit = limitOfFloor(verdict) <= most * 1.6 ? verdict.limitBytes * 1.02 : 0;
  const roof = Math.max(most, withLimit) + (most - least) * 0.06;
  return {
    fromMs: span.fromMs,
    toMs: Math.max(span.toMs, span.fromMs + 1),
    leastBytes: most - least < LEVEL_RATIO * most ? 0 : Math.max(0, least - (most - least) * 0.15),
    mostBytes: roof * 1.001,
    line,
    band: line === null ? [] : trendBand(answer, line),
  };
}

// Where no trend is believed, the line is the level.
function hasTrend(kind: GrowthAnswer['verdict']['kind']): boolean {
  return kind === 'growing' || kind === 'stepping' || kind === 'shrinking';
}

function trendLine(answer: GrowthAnswer): FloorLayout['line'] {
  const { verdict } = answer;
  const { tMs } = verdict.floor;
  if (!Number.isFinite(verdict.slopeBytesPerSec + verdict.floorNowBytes) || tMs.length < 2) return null;
  const slope = hasTrend(verdict.kind) ? verdict.slopeBytesPerSec : 0;
  const at = (t: number): readonly [number, number] => [
    t,
    verdict.floorNowBytes - (slope * (answer.span.toMs - t)) / 1000,
  ];
  return [at(tMs[0]!), at(tMs[tMs.length - 1]!)];
}

// The interval is that of the slope: the band turns about the line's middle.
function trendBand(answer: GrowthAnswer, line: NonNullable<FloorLayout['line']>): (readonly [number, number])[] {
  const { slopeLow, slopeHigh } = answer.verdict;
  if (!Number.isFinite(slopeLow + slopeHigh) || !hasTrend(answer.verdict.kind)) return [];
  const [[fromMs, from], [toMs, to]] = line;
  const middleMs = (fromMs + toMs) / 2;
  const middle = (from + to) / 2;
  const at = (slope: number, t: number): readonly [number, number] => [t, middle + (slope * (t - middleMs)) / 1000];
  return [
    at(slopeLow, fromMs),
    at(slopeHigh, fromMs),
    [middleMs, middle],
    at(slopeLow, toMs),
    at(slopeHigh, toMs),
    [middleMs, middle],
  ];
}

/** No chart is as high, in pixels. */
const MOST_PIXELS = 65_536;
/** How near a click must be to a floor point, in pixels. */
const REACH = 14;

/** Place of the floor point nearest to a click, −1 when none is near. */
export function floorPointAt(
  answer: GrowthAnswer,
  size: { readonly width: number; readonly height: number },
  clickX: number,
  clickY: number,
): number {
  const { x, y } = scalesOf(floorLayout(answer), size.width, size.height);
  const { tMs, bytes } = answer.verdict.floor;
  let [best, nearest] = [-1, REACH];
  for (let place = 0; place < tMs.length; place++) {
    const distance = Math.hypot(x(tMs[place]!) - clickX, y(bytes[place]!) - clickY);
    if (distance > nearest) continue;
    best = place;
    nearest = distance;
  }
  return best;
}

function scalesOf(layout: FloorLayout, width: number, height: number) {
  return {
    x: scaleLinear([layout.fromMs, layout.toMs], [MARGINS.left, width - MARGINS.right]),
    y: scaleLinear([layout.leastBytes, layout.mostBytes], [height - MARGINS.bottom, MARGINS.top]),
  };
}

/** Draws used-after of every collection, the floor's points, the trend with its band, and the limit. */
export function drawFloor(element: SVGSVGElement, width: number, height: number, answer: GrowthAnswer): void {
  const layout = floorLayout(answer);
  const svg = freshSvg(element, width, height);
  const { x, y } = scalesOf(layout, width, height);
  const ticks = timeTicks(layout.fromMs, layout.toMs, width / 90);
  const stepMs = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1000;
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: byteTicks(layout.mostBytes, 4, layout.leastBytes),
    label: byteLabel,
    across: width - MARGINS.left - MARGINS.right,
  });
  bottomAxis(svg, x, { at: height - MARGINS.bottom, ticks, label: (tMs) => timeLabel(tMs, stepMs) });
  // One path for all rings: thousands of elements would stop the page.
  const rings = Array.from(
    answer.afterMs,
    (tMs, place) => `M${(x(tMs) + 1.8).toFixed(1)},${y(answer.afterBytes[place]!).toFixed(1)}a1.8,1.8 0 1 1 0,-.01z`,
  );
  svg
    .append('path')
    .attr('d', rings.join(''))
    .attr('fill', 'none')
    .attr('stroke', 'var(--ink-2)')
    .attr('stroke-opacity', 0.75);
  if (layout.band.length > 0) {
    svg
      .append('polygon')
      .attr('points', layout.band.map(([tMs, bytes]) => `${x(tMs)},${y(bytes)}`).join(' '))
      .attr('fill', 'var(--band)')
      .attr('opacity', 0.8);
  }
  if (layout.line !== null) {
    const [[fromMs, from], [toMs, to]] = layout.line;
    svg
      .append('line')
      .attr('x1', x(fromMs))
      .attr('y1', y(from))
      .attr('x2', x(toMs))
      .attr('y2', y(to))
      .attr('stroke', 'var(--kept)')
      .attr('stroke-width', 2);
  }
  svg
    .append('path')
    .attr('d', squares(answer.verdict.floor, x, y))
    .attr('fill', 'var(--ink)')
    .style('cursor', 'pointer');
  drawLimit(svg, answer, layout, { x: width - MARGINS.right, y });
  const label = trendLabel(answer);
  // Where the floor does not run: above a line that is low on the right, below one that is high.
  const isLow = layout.line !== null && y(layout.line[1][1]) > height / 2;
  if (label !== '')
    svg
      .append('text')
      .attr('x', width - MARGINS.right)
      .attr('y', isLow ? MARGINS.top + 14 : height - MARGINS.bottom - 8)
      .attr('text-anchor', 'end')
      .style('fill', 'var(--kept)')
      .style('font-weight', 500)
      // A rim of paper, for circles may lie under it.
      .style('paint-order', 'stroke')
      .style('stroke', 'var(--paper)')
      .style('stroke-width', 4)
      .style('stroke-linejoin', 'round')
      .text(label);
}

// A square for each point; of those that fall on one pixel the first.
function squares(
  { tMs, bytes }: GrowthAnswer['verdict']['floor'],
  x: (tMs: number) => number,
  y: (bytes: number) => number,
): string {
  const drawn = new Set<number>();
  const parts: string[] = [];
  for (let place = 0; place < tMs.length; place++) {
    const [left, top] = [x(tMs[place]!) - 3, y(bytes[place]!) - 3];
    const pixel = Math.round(left) * MOST_PIXELS + Math.round(top);
    if (drawn.has(pixel)) continue;
    drawn.add(pixel);
    parts.push(`M${left.toFixed(1)},${top.toFixed(1)}h6v6h-6z`);
  }
  return parts.join('');
}

function drawLimit(
  svg: ReturnType<typeof freshSvg>,
  answer: GrowthAnswer,
  layout: FloorLayout,
  place: { x: number; y: (bytes: number) => number },
): void {
  const limitBytes = limitOfFloor(answer.verdict);
  if (!(limitBytes <= layout.mostBytes)) return;
  svg
    .append('line')
    .attr('x1', MARGINS.left)
    .attr('x2', place.x)
    .attr('y1', place.y(limitBytes))
    .attr('y2', place.y(limitBytes))
    .attr('stroke', 'var(--attention)')
    .attr('stroke-dasharray', '5 3');
  svg
    .append('text')
    .attr('x', MARGINS.left + 4)
    .attr('y', place.y(limitBytes) - 3)
    .style('fill', 'var(--attention-text)')
    .text(`${formatBytes(limitBytes)} limit`);
}

// The limit of one heap among several says nothing of the sum that is drawn.
function limitOfFloor({ limitHeap, limitBytes }: GrowthAnswer['verdict']): number {
  return limitHeap === null ? limitBytes : NaN;
}

/** What the trend rests on: `3.40 MiB/min (3.1–3.8), 12 whole collections, p < 0.001`. */
export function trendLabel(answer: GrowthAnswer): string {
  const { verdict } = answer;
  if (!Number.isFinite(verdict.slopeBytesPerSec)) return '';
  const minute = verdict.slopeBytesPerSec * 60;
  const range = Number.isFinite(verdict.slopeLow + verdict.slopeHigh)
    ? ` (${formatBytesLike(verdict.slopeLow * 60, minute)} to ${formatBytesLike(verdict.slopeHigh * 60, minute)})`
    : '';
  const p = verdict.pValue < 0.001 ? 'p < 0.001' : `p = ${verdict.pValue.toFixed(3)}`;
  const basis = {
    'whole-collections': 'whole collections',
    'window-minima': 'window minima',
    'all-collections': 'collections',
  }[verdict.floor.basis];
  return `${formatBytes(minute)}/min${range}, ${verdict.floor.tMs.length} ${basis}, ${p}`;
}
