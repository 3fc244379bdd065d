import { type AgeKind, type CurvePoint, formatPercent } from '@brisk-heron/core';
import { scaleLinear, scaleLog, type ScaleContinuousNumeric } from 'd3-scale';
import { bottomAxis, freshSvg, leftAxis, type Margins, type Svg } from '../../charts/figure.ts';
import { byteLabel, byteTicks } from '../../charts/ticks.ts';

const MARGINS: Margins = { top: 10, right: 150, bottom: 26, left: 58 };
const RISK_ROW = 15;
const LABEL_ROW = 15;

/** One curve as it is drawn. */
export interface DrawnCurve {
  readonly name: string;
  readonly points: readonly CurvePoint[];
  /** Which of the ways of drawing it has, from 0: dashes and a mark tell curves apart, in any colour. */
  readonly style: number;
  /** Its band is drawn, and its numbers at risk are written below. */
  readonly isFull: boolean;
}

/** Ways of drawing curves apart from each other: dashes, and the shape of the marks along it. */
const CURVE_STYLES: readonly {
  readonly dash: string;
  readonly mark: (x: number, y: number) => string;
  readonly colour: string;
}[] = [
  { dash: '', mark: () => '', colour: 'var(--ink)' },
  { dash: '', mark: (x, y) => `M${x - 3},${y - 3}h6v6h-6z`, colour: 'var(--kept)' },
  {
    dash: '7 3',
    mark: (x, y) => `M${x - 3.4},${y}a3.4,3.4 0 1 0 6.8,0a3.4,3.4 0 1 0 -6.8,0z`,
    colour: 'var(--attention)',
  },
  { dash: '2 3', mark: (x, y) => `M${x},${y - 4}l4,7h-8z`, colour: 'var(--promoted)' },
  { dash: '10 3 2 3', mark: (x, y) => `M${x},${y - 4}l4,4l-4,4l-4,-4z`, colour: 'var(--ink-2)' },
  { dash: '', mark: (x, y) => `M${x - 3.5},${y - 3.5}l7,7m0,-7l-7,7`, colour: 'var(--strata-1)' },
  { dash: '4 2', mark: (x, y) => `M${x - 4},${y}h8m-4,-4v8`, colour: 'var(--kept)' },
  { dash: '1 2', mark: (x, y) => `M${x},${y + 4}l4,-7h-8z`, colour: 'var(--ink)' },
];

/** Where a chart of curves has its axes. */
export interface CurveScales {
  readonly x: ScaleContinuousNumeric<number, number>;
  readonly y: ScaleContinuousNumeric<number, number>;
  readonly ticks: readonly number[];
  /** Place of an age; of one younger than the scale begins, its edge. */
  readonly xAt: (age: number) => number;
}

const LEAST: Readonly<{ [K in AgeKind]: number }> = { seconds: 1, collections: 0.5, allocated: 1024 };

/** Scales of a chart of curves: ages from the youngest that is told apart to the oldest that was seen. */
export function curveScales(
  curves: readonly DrawnCurve[],
  kind: AgeKind,
  isLog: boolean,
  { width, height }: { readonly width: number; readonly height: number },
): CurveScales {
  const most = curves.reduce((age, { points }) => Math.max(age, points[points.length - 1]?.age ?? 0), LEAST[kind] * 2);
  const rows = curves.filter(({ isFull }) => isFull).length;
  const across: [number, number] = [MARGINS.left, width - MARGINS.right];
  const x = isLog ? scaleLog([LEAST[kind], most], across) : scaleLinear([0, most], across);
  const xAt = (age: number): number => x(Math.max(isLog ? LEAST[kind] : 0, age));
  const y = scaleLinear([0, 1], [height - MARGINS.bottom - rows * RISK_ROW, MARGINS.top]);
  return { x, y, xAt, ticks: isLog ? decades(LEAST[kind], most, kind) : evenTicks(most, kind, width) };
}

function decades(from: number, to: number, kind: AgeKind): number[] {
  const ticks: number[] = [];
  const base = kind === 'allocated' ? 1024 : 10;
  for (let tick = kind === 'collections' ? 1 : from; tick <= to; tick *= base) ticks.push(tick);
  return ticks;
}

function evenTicks(most: number, kind: AgeKind, width: number): number[] {
  return kind === 'allocated' ? byteTicks(most, 6) : scaleLinear([0, most], [0, 1]).ticks(Math.max(2, width / 140));
}

/** A curve as a path of steps: level up to where a share dies, then down. */
export function stepPath(
  points: readonly CurvePoint[],
  { x, y, xAt }: CurveScales,
  of: (point: CurvePoint) => number,
): string {
  const [left] = x.range() as [number, number];
  let path = `M${left.toFixed(1)},${y(1).toFixed(1)}`;
  for (const point of points) path += `H${xAt(point.age).toFixed(1)}V${y(of(point)).toFixed(1)}`;
  return path;
}

/** Draws the curves with bands, labels at their ends and numbers at risk below. */
export function drawCurves(
  element: SVGSVGElement,
  size: { readonly width: number; readonly height: number },
  curves: readonly DrawnCurve[],
  { kind, isLog }: { readonly kind: AgeKind; readonly isLog: boolean },
): void {
  const svg = freshSvg(element, size.width, size.height);
  const scales = curveScales(curves, kind, isLog, size);
  const { x, y, ticks } = scales;
  leftAxis(svg, y, {
    at: MARGINS.left,
    ticks: [0, 0.25, 0.5, 0.75, 1],
    label: formatPercent,
    across: size.width - MARGINS.left - MARGINS.right,
  });
  bottomAxis(svg, x, { at: y(0), ticks, label: (age) => tickText(kind, age) });
  for (const { points, isFull, style } of curves) if (isFull) band(svg, points, scales, style);
  for (const { points, style } of curves) line(svg, points, scales, style);
  labels(svg, curves, scales);
  risks(svg, curves, scales);
}

// Without needless digits, and without the word that the axis is of.
function tickText(kind: AgeKind, age: number): string {
  if (kind === 'allocated') return byteLabel(age);
  if (kind === 'collections') return String(age);
  return age < 1000 ? `${age} ms` : `${age / 1000} s`;
}

function band(svg: Svg, points: readonly CurvePoint[], scales: CurveScales, style: number): void {
  const [first] = points;
  if (first === undefined) return;
  const upper = stepPath(points, scales, ({ high }) => high);
  const lower = [...points].reverse();
  let back = '';
  lower.forEach((point, at) => {
    const before = lower[at + 1];
    const [left] = scales.x.range() as [number, number];
    const to = before === undefined ? left : scales.xAt(before.age);
    back += `L${scales.xAt(point.age).toFixed(1)},${scales.y(before === undefined ? 1 : before.low).toFixed(1)}H${to.toFixed(1)}`;
  });
  const end = points[points.length - 1]!;
  svg
    .append('path')
    .attr('d', `${upper}V${scales.y(end.low).toFixed(1)}${back}Z`)
    .attr('fill', CURVE_STYLES[style]!.colour)
    .attr('opacity', 0.13);
}

function line(svg: Svg, points: readonly CurvePoint[], scales: CurveScales, style: number): void {
  const { dash, mark, colour } = CURVE_STYLES[style]!;
  svg
    .append('path')
    .attr(
      'd',
      stepPath(points, scales, ({ estimate }) => estimate),
    )
    .attr('fill', 'none')
    .attr('stroke', colour)
    .attr('stroke-width', style === 0 ? 2 : 1.6)
    .attr('stroke-dasharray', dash);
  const every = Math.max(1, Math.floor(points.length / 6));
  const marks = points
    .filter((_, at) => at % every === every - 1)
    .map(({ age, estimate }) => mark(scales.xAt(age), scales.y(estimate)));
  svg
    .append('path')
    .attr('class', 'marks')
    .attr('d', marks.join(''))
    .attr('fill', 'var(--paper)')
    .attr('stroke', colour)
    .attr('stroke-width', 1.4);
}

// Names at the right, moved apart where ends lie close.
function labels(svg: Svg, curves: readonly DrawnCurve[], { y, x }: CurveScales): void {
  const right = (x.range() as [number, number])[1];
  const ends = curves
    .filter(({ points }) => points.length > 0)
    .map(({ name, style, points }) => ({ name, style, at: y(points[points.length - 1]!.estimate) }))
    .sort((a, b) => a.at - b.at);
  // Those at the foot are stacked upward, so that none is cut off.
  const foot = y(0);
  let free = 0;
  ends.forEach((end, place) => {
    const at = Math.min(Math.max(end.at, free), foot - (ends.length - 1 - place) * LABEL_ROW);
    free = at + LABEL_ROW;
    const { dash, mark, colour } = CURVE_STYLES[end.style]!;
    svg
      .append('path')
      .attr('d', `M${right + 6},${at}h16`)
      .attr('stroke', colour)
      .attr('stroke-width', 1.8)
      .attr('stroke-dasharray', dash);
    svg
      .append('path')
      .attr('d', mark(right + 14, at))
      .attr('fill', 'var(--paper)')
      .attr('stroke', colour)
      .attr('stroke-width', 1.4);
    svg
      .append('text')
      .attr('x', right + 26)
      .attr('y', at + 4)
      .style('fill', 'var(--ink)')
      .text(end.name.length > 19 ? `${end.name.slice(0, 18)}…` : end.name);
  });
}

function risks(svg: Svg, curves: readonly DrawnCurve[], { x, y, ticks }: CurveScales): void {
  curves
    .filter(({ isFull }) => isFull)
    .forEach(({ points, style }, row) => {
      const at = y(0) + MARGINS.bottom + row * RISK_ROW + 8;
      svg
        .append('text')
        .attr('x', 4)
        .attr('y', at)
        .attr('class', 'risk')
        .style('fill', CURVE_STYLES[style]!.colour)
        .text(row === 0 ? 'at risk' : '');
      for (const tick of ticks) {
        const point = points.find(({ age }) => age >= tick);
        if (point !== undefined)
          svg
            .append('text')
            .attr('x', x(tick))
            .attr('y', at)
            .attr('text-anchor', 'middle')
            .attr('class', 'risk')
            .style('fill', CURVE_STYLES[style]!.colour)
            .text(Math.round(point.atRisk).toLocaleString('en'));
      }
    });
}
