import { axisBottom, axisLeft, type AxisScale } from 'd3-axis';
import { select, type Selection } from 'd3-selection';

/** An SVG that is drawn into. */
export type Svg = Selection<SVGSVGElement, unknown, null, undefined>;

/** Free space around a chart's plot, in pixels. */
export interface Margins {
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
  readonly left: number;
}

/** Empties an SVG element, sets its size and answers it as a selection. */
export function freshSvg(element: SVGSVGElement, width: number, height: number): Svg {
  const svg = select(element);
  svg.selectAll('*').remove();
  return svg.attr('viewBox', `0 0 ${width} ${height}`).attr('width', width).attr('height', height);
}

/** Where an axis stands, and its ticks. */
export interface AxisOptions {
  readonly at: number;
  readonly ticks: readonly number[];
  readonly label: (value: number) => string;
}

/** Axis along the bottom, without a line of its own. */
export function bottomAxis(svg: Svg, scale: AxisScale<number>, options: AxisOptions): void {
  const group = svg.append('g').attr('transform', `translate(0,${options.at})`);
  group.call(
    axisBottom(scale)
      .tickValues([...options.ticks])
      .tickFormat((value) => options.label(value))
      .tickSize(4)
      .tickPadding(3),
  );
  group.select('.domain').remove();
}

/** Axis on the left whose ticks run across the plot as rules. */
export function leftAxis(svg: Svg, scale: AxisScale<number>, options: AxisOptions & { readonly across: number }): void {
  const group = svg.append('g').attr('class', 'grid').attr('transform', `translate(${options.at},0)`);
  group.call(
    axisLeft(scale)
      .tickValues([...options.ticks])
      .tickFormat((value) => options.label(value))
      .tickSize(-options.across)
      .tickPadding(7),
  );
  group.select('.domain').remove();
}
