import { holm } from '../../stats/holm.ts';
import { differenceOf, type Estimate, quotient, scaled, UNKNOWN } from '../../stats/estimate.ts';
import type { FigureUnit, SideFigure, SideFigures, SideUnits } from './side-figures.ts';

/** What an amount is told per. */
export const PERS = ['all', 'second', 'allocatedMiB', 'collection', 'round'] as const;
export type Per = (typeof PERS)[number];

/** One figure of both sides; NaN is not known. */
export interface FigureChange {
  readonly name: string;
  readonly unit: FigureUnit;
  readonly per: Per;
  readonly a: Estimate;
  readonly b: Estimate;
  readonly difference: number;
  readonly low: number;
  readonly high: number;
  readonly pValue: number;
  /** Surely different, all figures per the same being tested together. */
  readonly clear: boolean;
}

/** Every figure that both sides have, per everything that both had; those of one name follow each other. */
export function compareFigures(a: SideFigures, b: SideFigures): FigureChange[] {
  const all: Omit<FigureChange, 'clear'>[] = [];
  for (const one of a.figures.values()) {
    const other = b.figures.get(one.name);
    if (other === undefined) continue;
    for (const per of PERS) {
      if (per !== 'all' && !one.isAmount) continue;
      const [left, right] = [over(one, per, a.units), over(other, per, b.units)];
      if (Number.isNaN(left.value) || Number.isNaN(right.value)) continue;
      // Pauses and kinds of collections that neither side has.
      if (one.unit !== 'bytes' && left.value === 0 && right.value === 0) continue;
      all.push({ name: one.name, unit: one.unit, per, a: left, b: right, ...differenceOf(left, right) });
    }
  }
  const clear = new Set<object>();
  for (const per of PERS) {
    const tested = all.filter((each) => each.per === per);
    const found = holm(tested.map(({ pValue }) => pValue));
    tested.forEach((each, at) => {
      if (found[at]) clear.add(each);
    });
  }
  return all.map((each) => ({ ...each, clear: clear.has(each) }));
}

function over({ name, estimate }: SideFigure, per: Per, units: SideUnits): Estimate {
  if (per === 'all') return estimate;
  // What was allocated a MiB allocated says nothing.
  if (per === 'allocatedMiB')
    return name === 'allocated' || !Number.isFinite(units.allocatedMiB.high)
      ? UNKNOWN
      : quotient(estimate, units.allocatedMiB);
  if (per === 'collection' && name === 'collections') return UNKNOWN;
  const by = units[per];
  return by > 0 ? scaled(estimate, 1 / by) : UNKNOWN;
}
