import { formatPercent, type MmuPoint } from '@brisk-heron/core';
import { scaleLinear, scaleLog, type ScaleContinuousNumeric } from 'd3-scale';
import { bottomAxis, freshSvg, leftAxis, type Margins, type Svg } from '../../charts/figure.ts';
import { distribution } from './side-layout.ts';

const MARGINS: Margins = { top: 12, right: 34, bottom: 26, left: 52 };
const SHARES = [0, 0.25, 0.5, 0.75, 1];
/** Sides are told apart by their dashes as well as by colour. */
const SIDES = [
  { letter: 'A', colour: 'var(--side-a)', dash: '6 3' },
  { letter: 'B', colour: 'var(--side-b)', dash: '' },
] as const;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Draws the distributions of both sides' pauses over each other, durations on a scale of logarithms. */
export function drawDistributions(
  element: SVGSVGElement,
  size: Size,
  sides: readonly [Float64Array, Float64Array],
): void {
  const all = sides.flatMap((sorted) => [sorted[0] ?? 1, sorted[sorted.length - 1] ?? 1]).filter((ms) => ms > 0);
  const { svg, x, y } = axes(element, size, [Math.max(1e-3, Math.min(...all)), Math.max(...all)]);
  sides.forEach((sorted, at) => {
    const points = distribution(sorted);
    let path = `M${MARGINS.left},${y(0)}`;
    for (const { value, share } of points)
      path += `H${x(Math.max(value, x.domain()[0]!)).toFixed(1)}V${y(share).toFixed(1)}`;
    line(svg, `${path}H${size.width - MARGINS.right}`, at);
  });
}

/** Draws the least share of any window that was left to the program, by the window's length, for both sides. */
export function drawUtilisation(
  element: SVGSVGElement,
  size: Size,
  sides: readonly [readonly MmuPoint[], readonly MmuPoint[]],
): void {
  const all = sides.flatMap((points) => points.map(({ windowMs }) => windowMs));
  const { svg, x, y } = axes(element, size, [Math.min(...all), Math.max(...all)]);
  sides.forEach((points, at) => {
    const path = points.map(({ windowMs, ratio }) => `${x(windowMs).toFixed(1)},${y(ratio).toFixed(1)}`).join('L');
    line(svg, `M${path}`, at);
  });
}

function axes(
  element: SVGSVGElement,
  { width, height }: Size,
  domain: readonly [number, number],
): {
  readonly svg: Svg;
  readonly x: ScaleContinuousNumeric<number, number>;
  readonly y: ScaleContinuousNumeric<number, number>;
} {
  const svg = freshSvg(element, width, height);
  const x = scaleLog([domain[0], Math.max(domain[1], domain[0] * 1.01)], [MARGINS.left, width - MARGINS.right]);
  const y = scaleLinear([0, 1], [height - MARGINS.bottom, MARGINS.top]);
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: SHARES,
    label: formatPercent,
    across: width - MARGINS.left - MARGINS.right,
  });
  bottomAxis(svg, x, { at: y(0), ticks: decades(domain), label: msText });
  return { svg, x, y };
}

function decades([least, most]: readonly [number, number]): number[] {
  const ticks: number[] = [];
  for (let tick = 10 ** Math.ceil(Math.log10(least)); tick <= most; tick *= 10) ticks.push(tick);
  return ticks;
}

function msText(ms: number): string {
  return ms >= 1000 ? `${ms / 1000} s` : `${Number(ms.toPrecision(1))} ms`;
}

function line(svg: Svg, path: string, at: number): void {
  const { letter, colour, dash } = SIDES[at]!;
  const drawn = svg
    .append('path')
    .attr('d', path)
    .attr('fill', 'none')
    .attr('stroke', colour)
    .attr('stroke-width', 2)
    .attr('stroke-dasharray', dash);
  const node = drawn.node();
  if (node === null) return;
  const end = node.getPointAtLength(node.getTotalLength());
  svg
    .append('text')
    .attr('x', end.x + 5)
    .attr('y', end.y + 4 + at * 13)
    .style('fill', colour)
    .style('font-weight', 600)
    .text(letter);
}
