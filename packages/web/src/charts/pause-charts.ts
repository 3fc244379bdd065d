import { scaleBand, scaleLinear, scaleLog } from 'd3-scale';
import { formatBytes, formatDuration, formatPercent, Scope } from '@brisk-heron/core';
import type { CollectionsAnswer } from '../workers/answers/collections.ts';
import { bottomAxis, freshSvg, leftAxis, type Margins, type Svg } from './figure.ts';
import { byteLabel, byteTicks, timeLabel, timeTicks } from './ticks.ts';

const MARGINS: Margins = { top: 8, right: 18, bottom: 24, left: 58 };
const DECADES = [0.01, 0.1, 1, 10, 100, 1000, 10_000, 100_000];

/** Axis label of a duration: `10 ms`, `1 s`. */
export function durationLabel(ms: number): string {
  return ms >= 1000 ? `${ms / 1000} s` : `${ms} ms`;
}

function timeAxis(svg: Svg, answer: CollectionsAnswer, width: number, height: number) {
  const { fromMs, toMs } = answer.span;
  const x = scaleLinear([fromMs, Math.max(toMs, fromMs + 1)], [MARGINS.left, width - MARGINS.right]);
  const ticks = timeTicks(fromMs, toMs, width / 90);
  const stepMs = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1000;
  bottomAxis(svg, x, { at: height - MARGINS.bottom, ticks, label: (tMs) => timeLabel(tMs, stepMs) });
  return x;
}

/** Shape of a pause by its scope: young a bare stroke, mixed a ring, whole a filled square, as on the ribbon. */
export function drawPauses(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer, chosenRow: number): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  const most = Math.max(1, answer.pauseDurationMs.reduce((a, b) => Math.max(a, b), 0));
  const least = Math.max(0.01, answer.pauseDurationMs.reduce((a, b) => Math.min(a, b), most));
  const y = scaleLog([least / 1.3, most * 1.3], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left, ticks: DECADES.filter((ms) => ms >= least / 1.3 && ms <= most * 1.3), label: durationLabel, across: width - MARGINS.left - MARGINS.right,
  });
  const shapes = pauseShapes(answer, x, (ms) => y(Math.max(least, ms)));
  svg.append('path').attr('d', shapes.young).attr('stroke', 'var(--ink-2)').attr('fill', 'none');
  svg.append('path').attr('d', shapes.mixed).attr('stroke', 'var(--ink)').attr('fill', 'var(--paper)');
  svg.append('path').attr('d', shapes.whole).attr('fill', 'var(--ink)');
  const chosen = answer.pauseRow.indexOf(chosenRow);
  if (chosen < 0) return;
  svg.append('circle').attr('cx', x(answer.pauseMs[chosen]!)).attr('cy', y(Math.max(least, answer.pauseDurationMs[chosen]!))).attr('r', 7)
    .attr('fill', 'none').attr('stroke', 'var(--attention)').attr('stroke-width', 1.5);
}

/** One path a scope, so that thousands of pauses are three elements. */
export function pauseShapes(answer: CollectionsAnswer, x: (tMs: number) => number, y: (ms: number) => number): { young: string; mixed: string; whole: string } {
  const shapes = { young: '', mixed: '', whole: '' };
  for (let place = 0; place < answer.pauseMs.length; place++) {
    const cx = x(answer.pauseMs[place]!).toFixed(1);
    const cy = y(answer.pauseDurationMs[place]!);
    if (answer.pauseScope[place] === Scope.whole) shapes.whole += `M${cx},${(cy - 2.5).toFixed(1)}h2.5v5h-5v-5z`;
    else if (answer.pauseScope[place] === Scope.mixed) shapes.mixed += `M${cx},${(cy - 2.5).toFixed(1)}a2.5,2.5 0 1 1 -.01,0z`;
    else shapes.young += `M${cx},${(cy - 2.5).toFixed(1)}v5`;
  }
  return shapes;
}

/** Distribution of the pauses: bars lie, one a bucket, with count and share of the paused time. */
export function drawDistribution(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer): void {
  const svg = freshSvg(element, width, height);
  const first = answer.bucketCounts.findIndex((count) => count > 0);
  if (first < 0) return;
  const places = answer.bucketCounts.map((_, place) => place).slice(first);
  const y = scaleBand(places, [4, height - 4]).paddingInner(0.35);
  const most = answer.bucketCounts.reduce((a, b) => Math.max(a, b), 1);
  const x = scaleLinear([0, most], [0, width - 210]);
  for (const place of places) {
    const top = y(place) ?? 0;
    const middle = top + y.bandwidth() / 2;
    const share = answer.figures.totalMs > 0 ? answer.bucketTotalsMs[place]! / answer.figures.totalMs : 0;
    svg.append('text').attr('x', 104).attr('y', middle).attr('dy', '0.35em').attr('text-anchor', 'end').text(`${durationLabel(answer.edgesMs[place]!)} – ${durationLabel(answer.edgesMs[place + 1]!)}`);
    svg.append('rect').attr('x', 110).attr('y', top).attr('height', y.bandwidth()).attr('width', Math.max(answer.bucketCounts[place]! > 0 ? 1 : 0, x(answer.bucketCounts[place]!))).attr('fill', 'var(--kept)');
    svg.append('text').attr('x', 116 + x(answer.bucketCounts[place]!)).attr('y', middle).attr('dy', '0.35em').text(`${answer.bucketCounts[place]} · ${formatPercent(share)}`);
  }
}

/** Utilisation curve: least share of any window left to the program, over the window's length. */
export function drawUtilisation(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer): void {
  const svg = freshSvg(element, width, height);
  if (answer.mmu.length < 2) return;
  const longest = answer.mmu[answer.mmu.length - 1]!.windowMs;
  const x = scaleLog([1, longest], [MARGINS.left, width - MARGINS.right]);
  const y = scaleLinear([0, 1], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, { at: MARGINS.left, ticks: [0, 0.5, 1], label: formatPercent, across: width - MARGINS.left - MARGINS.right });
  bottomAxis(svg, x, { at: height - MARGINS.bottom, ticks: DECADES.filter((ms) => ms >= 1 && ms <= longest), label: durationLabel });
  svg.append('path').attr('d', answer.mmu.map(({ windowMs, ratio }, place) => `${place === 0 ? 'M' : 'L'}${x(windowMs)},${y(ratio)}`).join(''))
    .attr('fill', 'none').attr('stroke', 'var(--kept)').attr('stroke-width', 1.8);
}

/** Allocation and promotion rates over time, as steps. */
export function drawRates(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  const most = answer.allocRate.reduce((a, b) => Math.max(a, b), 1);
  const y = scaleLinear([0, most * 1.05], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, { at: MARGINS.left, ticks: byteTicks(most, 3), label: (bytes) => (bytes === 0 ? '0' : `${byteLabel(bytes)}/s`), across: width - MARGINS.left - MARGINS.right });
  const binMs = (answer.span.toMs - answer.span.fromMs) / answer.allocRate.length;
  const path = (rates: Float64Array): string => Array.from(rates, (rate, bin) => {
    const x0 = x(answer.span.fromMs + bin * binMs);
    return `${bin === 0 ? 'M' : 'L'}${x0},${y(rate)}H${x(answer.span.fromMs + (bin + 1) * binMs)}`;
  }).join('');
  svg.append('path').attr('d', path(answer.allocRate)).attr('fill', 'none').attr('stroke', 'var(--ink)').attr('stroke-width', 1.3);
  svg.append('path').attr('d', path(answer.promotionRate)).attr('fill', 'none').attr('stroke', 'var(--promoted)').attr('stroke-width', 1.3).attr('stroke-dasharray', '4 2');
}

/** Figures of a pause in one line, for a tooltip or a reader. */
export function pauseText(answer: CollectionsAnswer): string {
  const { figures } = answer;
  if (figures.count === 0) return 'no pauses in this span';
  return `${figures.count} pauses, ${formatDuration(figures.totalMs)} in all, longest ${formatDuration(figures.maxMs)}${answer.allocation === null ? '' : `; ${formatBytes(answer.allocation.totalBytes)} allocated`}`;
}
