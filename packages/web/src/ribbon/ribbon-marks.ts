import { type Overview, OWN_KIND, type RibbonAnswer, Scope, type Span } from '@brisk-heron/core';
import { byteLabel, byteTicks, timeLabel, timeTicks } from '../charts/ticks.ts';
import { pauseDepth, type RibbonLayout, xOf, yOfBytes } from './ribbon-layout.ts';

/** Places of everything that is drawn over the ribbon's layers, in CSS pixels. Pure geometry: no drawing. */

const FLAG_GAP = 60;
/** Marks that are nearer than this to the one before are not drawn; the list of marks has them. */
const MARK_GAP = 3;
/** What holds nearly everywhere is no place to go to. */
const MARKED_RATIO = 0.6;
const PIXELS_A_TICK = 110;
/** Lengths that are named where there is room for three, and where there is not. */
const PAUSE_TICKS_MS = [1, 10, 100] as const;
const FEW_PAUSE_TICKS_MS = [100] as const;
const LOW_PAUSES = 34;
const PIXELS_A_SIZE = 26;

/** Ticks of the ribbon's three axes with their labels. */
export function ribbonAxes(place: RibbonLayout) {
  const all = timeTicks(place.window.fromMs, place.window.toMs, place.width / PIXELS_A_TICK);
  // A window may begin before its recording does.
  const ticks = all.filter((tMs) => tMs >= 0);
  const stepMs = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1000;
  return {
    bytes: byteTicks(place.mostBytes, Math.max(1, Math.min(4, (place.axis - place.top) / PIXELS_A_SIZE))).map(
      (bytes) => ({ bytes, y: yOfBytes(place, bytes), label: byteLabel(bytes) }),
    ),
    pauses: (place.pauseEnd - place.axis < LOW_PAUSES ? FEW_PAUSE_TICKS_MS : PAUSE_TICKS_MS).map((ms) => ({
      ms,
      y: place.axis + pauseDepth(place, ms),
    })),
    times: ticks.map((tMs) => ({ x: xOf(place, tMs), label: timeLabel(tMs, stepMs) })),
  };
}

/** Path data of pauses by what they are; `…Ends` are the shapes at their feet, by which they are told apart. */
export interface PausePaths {
  young: string;
  mixed: string;
  whole: string;
  own: string;
  wholeEnds: string;
  ownEnds: string;
  mixedEnds: string;
  /** Those of the kind that was picked out. */
  chosen: string;
}

/** A stroke down from the axis for every pause of the answer. */
export function pausePaths(answer: RibbonAnswer, place: RibbonLayout): PausePaths {
  const paths = { young: '', mixed: '', whole: '', own: '', wholeEnds: '', ownEnds: '', mixedEnds: '', chosen: '' };
  for (let at = 0; at < answer.pauseMs.length; at++) {
    const x = xOf(place, answer.pauseMs[at]!);
    const y = place.axis + pauseDepth(place, answer.pauseDurationMs[at]!);
    const stroke = `M${x.toFixed(1)},${place.axis}V${y.toFixed(1)}`;
    const kind = answer.pauseKind[at]!;
    if (answer.pauseChosen[at] === 1) paths.chosen += stroke;
    const own = kind >= OWN_KIND;
    const scope = own ? kind - OWN_KIND : kind;
    if (own) paths.own += stroke;
    else if (scope === Scope.young) paths.young += stroke;
    else if (scope === Scope.mixed) paths.mixed += stroke;
    else paths.whole += stroke;
    if (scope === Scope.mixed) paths.mixedEnds += `M${x.toFixed(1)},${(y - 2.3).toFixed(1)}a2.3,2.3 0 1 1 -.01,0z`;
    else if (scope !== Scope.young)
      paths[own ? 'ownEnds' : 'wholeEnds'] += `M${(x - 2.2).toFixed(1)},${(y - 2.2).toFixed(1)}h4.4v4.4h-4.4z`;
  }
  return paths;
}

/** Where findings hold: one path a finding, at the foot of the pauses. What holds all the time marks nothing. */
export function findingMarks({ span, findings }: Pick<Overview, 'span' | 'findings'>, place: RibbonLayout) {
  const most = MARKED_RATIO * (span.toMs - span.fromMs);
  const lengthOf = (moments: readonly Span[]): number =>
    moments.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0);
  return findings
    .filter(({ moments }) => lengthOf(moments) < most)
    .map(({ code, sentence, moments }) => ({
      code,
      sentence,
      path: moments.map((moment) => footPath(moment, place)).join(''),
    }))
    .filter(({ path }) => path !== '');
}

function footPath({ fromMs, toMs }: Span, place: RibbonLayout): string {
  if (toMs < place.window.fromMs || fromMs > place.window.toMs) return '';
  const left = Math.max(place.left, xOf(place, fromMs));
  const width = Math.max(2, Math.min(place.right, xOf(place, toMs)) - left);
  return `M${left.toFixed(1)},${place.pauseEnd}h${width.toFixed(1)}`;
}

/** A stretch of time as it is framed; null where it is not in sight. */
export function stretchFrame(stretch: Span, place: RibbonLayout): { left: number; width: number } | null {
  if (stretch.toMs < place.window.fromMs || stretch.fromMs > place.window.toMs) return null;
  const left = Math.max(place.left, xOf(place, stretch.fromMs));
  return { left, width: Math.max(3, Math.min(place.right, xOf(place, stretch.toMs)) - left) };
}

/**
 * The floor as a line; '' where layers are drawn, of which it is the lower edge. Of points in one column of pixels the
 * first, the least, the greatest and the last are drawn, which looks the same.
 */
export function floorLine(answer: RibbonAnswer, place: RibbonLayout): string {
  if (answer.hasStrata) return '';
  const { floorMs, floorBytes } = answer;
  const parts: string[] = [];
  for (let first = 0; first < floorMs.length;) {
    const column = Math.floor(xOf(place, floorMs[first]!));
    let [least, most, end] = [first, first, first + 1];
    for (; end < floorMs.length && Math.floor(xOf(place, floorMs[end]!)) === column; end++) {
      if (floorBytes[end]! < floorBytes[least]!) least = end;
      if (floorBytes[end]! > floorBytes[most]!) most = end;
    }
    const drawn = [first, Math.min(least, most), Math.max(least, most), end - 1];
    drawn.forEach((at, nth) => {
      if (nth > 0 && at === drawn[nth - 1]) return;
      const [x, y] = [xOf(place, floorMs[at]!), yOfBytes(place, floorBytes[at]!)];
      parts.push(`${parts.length === 0 ? 'M' : 'L'}${x.toFixed(1)},${y.toFixed(1)}`);
    });
    first = end;
  }
  return parts.join('');
}

/** A mark's flag: with its words, as a small flag alone, or, where marks crowd, as a line (`bare`). */
export interface MarkFlag {
  readonly x: number;
  readonly tMs: number;
  readonly label: string;
  readonly wide: number;
  readonly worded: boolean;
  readonly bare: boolean;
}

/** Flags of the marks in sight, in order of time: words where there is room for them. */
export function markFlags({ marks, window }: Pick<RibbonAnswer, 'marks' | 'window'>, place: RibbonLayout): MarkFlag[] {
  let free = -Infinity;
  let flagEnd = -Infinity;
  let drawn = -Infinity;
  return marks
    .filter(({ tMs }) => {
      const x = xOf(place, tMs);
      if (tMs < window.fromMs || tMs > window.toMs || x < drawn + MARK_GAP) return false;
      drawn = x;
      return true;
    })
    .map(({ tMs, label }) => {
      const x = xOf(place, tMs);
      const wide = 12 + label.length * 5.6;
      const worded = x > free && x + wide < place.right;
      const bare = x <= flagEnd;
      if (worded) free = x + wide + FLAG_GAP;
      if (worded || !bare) flagEnd = x + (worded ? wide : 7);
      return { x, tMs, label, wide, worded, bare };
    });
}

/** Outline of a mark's flag. */
export function flagPath({ x, wide, worded }: MarkFlag, place: RibbonLayout): string {
  const top = place.top - 20;
  return worded ? `M${x},${top}h${wide}l-4,6l4,6H${x}z` : `M${x},${top}l7,4l-7,4z`;
}

/** Places of instants that are in sight. */
export function instantsAt<I extends { readonly tMs: number }>(instants: readonly I[], place: RibbonLayout) {
  return instants
    .filter(({ tMs }) => tMs >= place.window.fromMs && tMs <= place.window.toMs)
    .map((instant) => ({ ...instant, x: xOf(place, instant.tMs) }));
}

/** Edges of a span, kept inside the plot. */
export function spanEdges(span: Span, place: RibbonLayout): { left: number; right: number } {
  return { left: Math.max(place.left, xOf(place, span.fromMs)), right: Math.min(place.right, xOf(place, span.toMs)) };
}
