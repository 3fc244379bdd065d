import { firstAtOrAfter } from '../base/binary-search.ts';
import { spanLengthMs, type Span } from '../base/span.ts';
import { type LossCurve, LossReader, lostUntil } from './loss-curve.ts';

/** The least share of any window of a length that the program had for itself. */
export interface MmuPoint {
  readonly windowMs: number;
  readonly ratio: number;
}

/**
 * Minimum mutator utilisation: the least share of any window of that length, inside the span, left to the program, by
 * its lost time (analysis/lost-time.ts). Exact: what a window loses is greatest where it begins at an instant from which
 * on more is lost than before, as the start of a pause, or ends at one from which on less is, or lies at an end of the
 * span. Linear in those instants for each
 * window length at worst; stretches in which no window can lose more than one that is known are passed over.
 * Windows longer than the span are not answered.
 *
 * Source: Cheng & Blelloch, A parallel, real-time garbage collector, PLDI 2001, section 3.
 */
export function minimumMutatorUtilisation(curve: LossCurve, span: Span, windowsMs: readonly number[]): MmuPoint[] {
  const points: MmuPoint[] = [];
  const search = new WindowSearch(curve, span);
  for (const windowMs of windowsMs) {
    if (windowMs > spanLengthMs(span) || windowMs <= 0) continue;
    points.push({ windowMs, ratio: 1 - search.mostLost(windowMs) / windowMs });
  }
  return points;
}

/** Window lengths for a curve: 1, 2, 5, 10, … ms up to the span's length, which is the last. */
export function mmuWindows(lengthMs: number): number[] {
  const windows: number[] = [];
  for (let decade = 1; decade < lengthMs; decade *= 10) {
    for (const step of [1, 2, 5]) if (decade * step < lengthMs) windows.push(decade * step);
  }
  if (lengthMs > 0) windows.push(lengthMs);
  return windows;
}

/** Instants that are passed over together, where none of their windows can lose more than is known; else fewer of them. */
const TOGETHER = 1024;
const FEWER = 64;
/** What a window loses is known no better than this: a nanosecond. */
const SAME_MS = 1e-6;

/** What is known of a curve: another span need not look again. */
interface Known {
  /** What the windows that begin or end at so many instants together lose at most, by their length. */
  readonly bounds: Map<number, Float64Array>;
  /** Of each instant, whether more is lost after it than before, or less: the windows that lose most begin or end there. */
  readonly turns: Uint8Array;
}
const knownOf = new WeakMap<LossCurve, Known>();
const RISES = 1;
const FALLS = 2;

function turnsOf({ tMs, untilMs }: LossCurve): Uint8Array {
  const turns = new Uint8Array(tMs.length);
  let before = 0;
  for (let at = 0; at < tMs.length; at++) {
    const lengthMs = tMs[at + 1]! - tMs[at]!;
    // Of instants that are one, only after the last of them is anything lost.
    const isOne = lengthMs === 0;
    const after = isOne ? before : lengthMs > 0 ? (untilMs[at + 1]! - untilMs[at]!) / lengthMs : 0;
    turns[at] = after > before ? RISES : after < before ? FALLS : 0;
    before = after;
  }
  return turns;
}

/** The windows of a curve, a step of three lengths a decade; the last is the span's own. */
const MOST_LENGTHS = 40;

/** Looks for the windows that lose most, by bounds on what those of neighbouring instants can lose. */
class WindowSearch {
  private readonly curve: LossCurve;
  private readonly span: Span;
  /** Of windows' beginnings and of their ends. */
  private readonly begins: LossReader;
  private readonly ends: LossReader;
  /** Instants inside the span. */
  private readonly first: number;
  private readonly end: number;
  private windowMs = 0;
  private most = 0;
  /** Where the window that lost most began: one of another length loses much there as well. */
  private mostAtMs: number;
  private readonly known: Known;
  private bounds: Float64Array = new Float64Array(0);

  constructor(curve: LossCurve, span: Span) {
    this.curve = curve;
    this.span = span;
    this.begins = new LossReader(curve);
    this.ends = new LossReader(curve);
    this.first = firstAtOrAfter(curve.tMs, span.fromMs);
    this.end = firstAtOrAfter(curve.tMs, span.toMs);
    this.mostAtMs = span.fromMs;
    this.known = knownOf.get(curve) ?? { bounds: new Map(), turns: turnsOf(curve) };
    knownOf.set(curve, this.known);
  }

  /** Milliseconds that the window of this length loses that loses most; it fits into the span. */
  mostLost(windowMs: number): number {
    const { fromMs, toMs } = this.span;
    this.windowMs = windowMs;
    this.most = 0;
    const lastMs = toMs - windowMs;
    for (const atMs of [this.mostAtMs, this.mostAtMs - windowMs, fromMs, lastMs]) this.try(clamp(atMs, fromMs, lastMs));
    this.bounds = this.boundsOf(windowMs);
    for (let block = Math.floor(this.first / TOGETHER); block * TOGETHER < this.end; block++) this.lookInto(block);
    return this.most >= windowMs - SAME_MS ? windowMs : this.most;
  }

  private boundsOf(windowMs: number): Float64Array {
    const known = this.known.bounds.get(windowMs);
    if (known !== undefined) return known;
    const bounds = new Float64Array(Math.ceil(this.curve.tMs.length / TOGETHER)).fill(Infinity);
    if (this.known.bounds.size < MOST_LENGTHS) this.known.bounds.set(windowMs, bounds);
    return bounds;
  }

  private lookInto(block: number): void {
    if (!(this.bounds[block]! > this.most + SAME_MS)) return;
    const first = Math.max(this.first, block * TOGETHER);
    const end = Math.min(this.end, (block + 1) * TOGETHER);
    if (this.mayLoseMore(first, end))
      for (let from = first; from < end; from += FEWER) {
        const to = Math.min(end, from + FEWER);
        if (!this.mayLoseMore(from, to)) continue;
        this.beginAt(from, to);
        this.endAt(from, to);
      }
    const { tMs } = this.curve;
    const isWhole = first === block * TOGETHER && end === Math.min(tMs.length, (block + 1) * TOGETHER);
    // Of windows that do not all lie in the span, nothing is known for another one.
    const allFit =
      isWhole && tMs[first]! - this.windowMs >= this.span.fromMs && tMs[end - 1]! + this.windowMs <= this.span.toMs;
    if (allFit) this.bounds[block] = this.most;
  }

  private try(atMs: number): void {
    const lost = this.ends.until(atMs + this.windowMs) - this.begins.until(atMs);
    if (lost > this.most + SAME_MS) this.found(lost, atMs);
  }

  private found(lost: number, atMs: number): void {
    this.most = lost;
    this.mostAtMs = atMs;
  }

  // Windows that begin or end at an instant of [first, end) lose at most what is lost from the first's beginning to the
  // last's end.
  private mayLoseMore(first: number, end: number): boolean {
    const { tMs, untilMs } = this.curve;
    const { fromMs, toMs } = this.span;
    const { windowMs } = this;
    const [beginMs, endMs] = [tMs[first]!, tMs[end - 1]!];
    const least = this.most + SAME_MS;
    if (least >= windowMs) return false;
    if (beginMs + windowMs <= toMs && this.ends.until(Math.min(toMs, endMs + windowMs)) - untilMs[first]! > least)
      return true;
    return (
      endMs - windowMs >= fromMs && untilMs[end - 1]! - this.begins.until(Math.max(fromMs, beginMs - windowMs)) > least
    );
  }

  // Looks at each window that begins at an instant of [first, end). Most are ruled out by what is lost until the next
  // instant after their end.
  private beginAt(first: number, end: number): void {
    const { tMs, untilMs } = this.curve;
    const { turns } = this.known;
    const { windowMs } = this;
    const lastMs = this.span.toMs - windowMs;
    const lastPlace = tMs.length - 1;
    let place = this.ends.placeOf(tMs[first]! + windowMs);
    let least = this.most + SAME_MS;
    for (let at = first; at < end; at++) {
      if (turns[at] !== RISES) continue;
      const beginMs = tMs[at]!;
      if (beginMs > lastMs) return;
      const endMs = beginMs + windowMs;
      while (place < lastPlace && tMs[place + 1]! <= endMs) place++;
      if (untilMs[place < lastPlace ? place + 1 : place]! - untilMs[at]! <= least) continue;
      const lost = lostUntil(this.curve, place, endMs) - untilMs[at]!;
      if (lost <= least) continue;
      this.found(lost, beginMs);
      least = lost + SAME_MS;
    }
  }

  // Looks at each window that ends at an instant of [first, end).
  private endAt(first: number, end: number): void {
    const { tMs, untilMs } = this.curve;
    const { turns } = this.known;
    const { windowMs } = this;
    const { fromMs } = this.span;
    let at = first;
    while (at < end && tMs[at]! - windowMs < fromMs) at++;
    if (at === end) return;
    let place = this.begins.placeOf(tMs[at]! - windowMs);
    let least = this.most + SAME_MS;
    for (; at < end; at++) {
      if (turns[at] !== FALLS) continue;
      const beginMs = tMs[at]! - windowMs;
      while (tMs[place + 1]! <= beginMs) place++;
      if (untilMs[at]! - (place < 0 ? 0 : untilMs[place]!) <= least) continue;
      const lost = untilMs[at]! - lostUntil(this.curve, place, beginMs);
      if (lost <= least) continue;
      this.found(lost, beginMs);
      least = lost + SAME_MS;
    }
  }
}

function clamp(value: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, value));
}
