import {
  type CollectionsAnswer,
  formatBytes,
  formatDuration,
  formatPercent,
  Scope,
  type SizeSeries,
} from '@brisk-heron/core';
import { scaleLinear, scaleLog } from 'd3-scale';
import { bottomAxis, freshSvg, leftAxis, type Margins, type Svg } from '../../charts/figure.ts';
import { byteLabel, byteTicks, timeLabel, timeTicks } from '../../charts/ticks.ts';
import { countText } from '../../components/figures.ts';

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

/** What stands for a pause: how long it was, or how long after the one before it began; and which is selected. */
export interface PauseDrawing {
  readonly chosenRow: number;
  readonly what: 'length' | 'gap';
}

/**
 * Shape of a pause by its scope: young a bare stroke, mixed a ring, whole a filled square, as on the ribbon. Where some
 * are picked out, the others are pale.
 */
export function drawPauses(
  element: SVGSVGElement,
  width: number,
  height: number,
  answer: CollectionsAnswer,
  { chosenRow, what }: PauseDrawing,
): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  const lengths = what === 'length' ? answer.pauseDurationMs : answer.pauseGapMs;
  const longest = lengths.reduce((a, b) => Math.max(a, b || 0), 0);
  const most = Math.max(1, longest, what === 'length' && answer.overGoal.count > 0 ? answer.goalMs : 0);
  const least = Math.max(
    0.01,
    lengths.reduce((a, b) => Math.min(a, b || Infinity), most),
  );
  const y = scaleLog([least / 1.3, most * 1.3], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: DECADES.filter((ms) => ms >= least / 1.3 && ms <= most * 1.3),
    label: durationLabel,
    across: width - MARGINS.left - MARGINS.right,
  });
  if (what === 'length' && answer.goalMs > least && answer.goalMs < most * 1.3)
    drawGoal(svg, answer.goalMs, y(answer.goalMs), width);
  const place = (ms: number): number => y(Math.max(least, ms));
  drawLayers(svg, answer, x, (at) => place(lengths[at]!));
  const at = answer.pauseRow.indexOf(chosenRow);
  if (at < 0 || Number.isNaN(lengths[at]!)) return;
  svg
    .append('circle')
    .attr('cx', x(answer.pauseMs[at]!))
    .attr('cy', place(lengths[at]!))
    .attr('r', 7)
    .attr('fill', 'none')
    .attr('stroke', 'var(--attention)')
    .attr('stroke-width', 1.5);
}

type Drawing = ReturnType<typeof freshSvg>;

function drawGoal(svg: Drawing, goalMs: number, top: number, width: number): void {
  svg
    .append('line')
    .attr('x1', MARGINS.left)
    .attr('x2', width - MARGINS.right)
    .attr('y1', top)
    .attr('y2', top)
    .attr('stroke', 'var(--attention)')
    .attr('stroke-dasharray', '5 3');
  svg
    .append('text')
    .attr('x', width - MARGINS.right)
    .attr('y', top + (top < MARGINS.top + 12 ? 12 : -3))
    .attr('text-anchor', 'end')
    .style('fill', 'var(--attention-text)')
    .text(`goal ${durationLabel(goalMs)}`);
}

// Where some are picked out, the others are pale below them.
function drawLayers(
  svg: Drawing,
  answer: CollectionsAnswer,
  x: (tMs: number) => number,
  y: (place: number) => number,
): void {
  const picked = answer.pauseChosen.includes(1);
  const layers = picked
    ? [
        { chosen: 0, opacity: 0.28 },
        { chosen: 1, opacity: 1 },
      ]
    : [{ chosen: 0, opacity: 1 }];
  for (const { chosen, opacity } of layers) {
    const shapes = pauseShapes(answer, x, y, picked ? chosen : null);
    const layer = svg.append('g').attr('opacity', opacity);
    layer
      .append('path')
      .attr('d', shapes.young)
      .attr('stroke', chosen === 1 ? 'var(--kept)' : 'var(--ink-2)')
      .attr('stroke-width', chosen === 1 ? 1.6 : 1)
      .attr('fill', 'none');
    layer
      .append('path')
      .attr('d', shapes.mixed)
      .attr('stroke', chosen === 1 ? 'var(--kept)' : 'var(--ink)')
      .attr('fill', 'var(--paper)');
    layer
      .append('path')
      .attr('d', shapes.whole)
      .attr('fill', chosen === 1 ? 'var(--kept)' : 'var(--ink)');
  }
}

/**
 * One path a scope, so that thousands of pauses are three elements; `y` is that of a place among the pauses, NaN for
 * none; `chosen` takes those picked out (1), the others (0), or all (null).
 */
function pauseShapes(
  answer: CollectionsAnswer,
  x: (tMs: number) => number,
  y: (place: number) => number,
  chosen: number | null = null,
): { young: string; mixed: string; whole: string } {
  const shapes = { young: '', mixed: '', whole: '' };
  for (let place = 0; place < answer.pauseMs.length; place++) {
    if (chosen !== null && answer.pauseChosen[place] !== chosen) continue;
    const cx = x(answer.pauseMs[place]!).toFixed(1);
    const cy = y(place);
    // A scale has no place for what is not known.
    if (!Number.isFinite(cy)) continue;
    if (answer.pauseScope[place] === Scope.whole) shapes.whole += `M${cx},${(cy - 2.5).toFixed(1)}h2.5v5h-5v-5z`;
    else if (answer.pauseScope[place] === Scope.mixed)
      shapes.mixed += `M${cx},${(cy - 2.5).toFixed(1)}a2.5,2.5 0 1 1 -.01,0z`;
    else shapes.young += `M${cx},${(cy - 2.5).toFixed(1)}v5`;
  }
  return shapes;
}

/** Utilisation curve: least share of any window left to the program, over the window's length. */
export function drawUtilisation(
  element: SVGSVGElement,
  width: number,
  height: number,
  answer: CollectionsAnswer,
): void {
  const svg = freshSvg(element, width, height);
  if (answer.mmu.length < 2) return;
  const longest = answer.mmu[answer.mmu.length - 1]!.windowMs;
  const x = scaleLog([1, longest], [MARGINS.left, width - MARGINS.right]);
  const y = scaleLinear([0, 1], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: [0, 0.5, 1],
    label: formatPercent,
    across: width - MARGINS.left - MARGINS.right,
  });
  bottomAxis(svg, x, {
    at: height - MARGINS.bottom,
    ticks: DECADES.filter((ms) => ms >= 1 && ms <= longest),
    label: durationLabel,
  });
  svg
    .append('path')
    .attr(
      'd',
      answer.mmu.map(({ windowMs, ratio }, place) => `${place === 0 ? 'M' : 'L'}${x(windowMs)},${y(ratio)}`).join(''),
    )
    .attr('fill', 'none')
    .attr('stroke', 'var(--kept)')
    .attr('stroke-width', 1.8);
}

/** A series as steps over its slices. */
function stepPath(
  values: Float64Array,
  answer: CollectionsAnswer,
  x: (tMs: number) => number,
  y: (value: number) => number,
): string {
  const { sliceMs } = answer.series;
  return Array.from(
    values,
    (value, slice) =>
      `${slice === 0 ? 'M' : 'L'}${x(answer.span.fromMs + slice * sliceMs).toFixed(1)},${y(value).toFixed(1)}H${x(answer.span.fromMs + (slice + 1) * sliceMs).toFixed(1)}`,
  ).join('');
}

/** Share of time left to the program, and in which the collector worked beside it. */
export function drawShares(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  const y = scaleLinear([0, 1], [height - MARGINS.bottom, MARGINS.top]).clamp(true);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: [0, 0.5, 1],
    label: formatPercent,
    across: width - MARGINS.left - MARGINS.right,
  });
  if (answer.concurrentMs !== null) {
    const path = stepPath(answer.series.concurrentRatio, answer, x, y);
    svg
      .append('path')
      .attr('d', `${path}V${y(0)}H${x(answer.span.fromMs)}z`)
      .attr('fill', 'var(--band)');
  }
  svg
    .append('path')
    .attr('d', stepPath(answer.series.throughputRatio, answer, x, y))
    .attr('fill', 'none')
    .attr('stroke', 'var(--ink)')
    .attr('stroke-width', 1.3);
}

/** Allocation, promotion and what was given back, over time, as steps. */
export function drawRates(element: SVGSVGElement, width: number, height: number, answer: CollectionsAnswer): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  const { allocBytesPerSec, promotedBytesPerSec, reclaimedBytesPerSec } = answer.series;
  const most = [allocBytesPerSec, reclaimedBytesPerSec].reduce(
    (greatest, rates) => rates.reduce((a, b) => Math.max(a, b), greatest),
    1,
  );
  const y = scaleLinear([0, most * 1.05], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: byteTicks(most, 3),
    label: (bytes) => (bytes === 0 ? '0' : `${byteLabel(bytes)}/s`),
    across: width - MARGINS.left - MARGINS.right,
  });
  svg
    .append('path')
    .attr('d', stepPath(reclaimedBytesPerSec, answer, x, y))
    .attr('fill', 'none')
    .attr('stroke', 'var(--ink-2)')
    .attr('stroke-width', 1)
    .attr('stroke-dasharray', '1 2');
  svg
    .append('path')
    .attr('d', stepPath(allocBytesPerSec, answer, x, y))
    .attr('fill', 'none')
    .attr('stroke', 'var(--ink)')
    .attr('stroke-width', 1.3);
  svg
    .append('path')
    .attr('d', stepPath(promotedBytesPerSec, answer, x, y))
    .attr('fill', 'none')
    .attr('stroke', 'var(--promoted)')
    .attr('stroke-width', 1.3)
    .attr('stroke-dasharray', '4 2');
}

/** Sizes before and after each collection: a stroke down from before, its foot what stayed. */
export function drawSizes(
  element: SVGSVGElement,
  width: number,
  height: number,
  answer: CollectionsAnswer,
  series: SizeSeries | undefined,
): void {
  const svg = freshSvg(element, width, height);
  const x = timeAxis(svg, answer, width, height);
  if (series === undefined) return;
  const most = Math.max(
    1,
    [series.beforeBytes, series.afterBytes].reduce(
      (greatest, sizes) => sizes.reduce((a, b) => Math.max(a, b || 0), greatest),
      1,
    ),
  );
  const y = scaleLinear([0, most * 1.05], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: byteTicks(most, 3),
    label: byteLabel,
    across: width - MARGINS.left - MARGINS.right,
  });
  const at = (place: number): string => x(series.tMs[place]!).toFixed(1);
  let falls = '';
  let feet = '';
  for (let place = 0; place < series.tMs.length; place++) {
    const foot = y(series.afterBytes[place]!).toFixed(1);
    if (series.beforeBytes[place]! >= 0) falls += `M${at(place)},${y(series.beforeBytes[place]!).toFixed(1)}V${foot}`;
    feet += `M${(Number(at(place)) - 1.5).toFixed(1)},${foot}h3`;
  }
  svg.append('path').attr('d', falls).attr('stroke', 'var(--after)').attr('fill', 'none');
  svg.append('path').attr('d', feet).attr('stroke', 'var(--kept)').attr('stroke-width', 2).attr('fill', 'none');
}

/** Figures of a pause in one line, for a tooltip or a reader. */
export function pauseText(answer: CollectionsAnswer): string {
  const { figures } = answer;
  if (figures.count === 0) return 'no pauses in this span';
  return `${countText(figures.count)} pauses, ${formatDuration(figures.totalMs)} in all, longest ${formatDuration(figures.maxMs)}${answer.allocation === null ? '' : `; ${formatBytes(answer.allocation.totalBytes)} allocated`}`;
}
