import { firstAtOrAfter } from '../base/binary-search.ts';
import { spanLengthMs, type Span } from '../base/span.ts';
import { type LossCurve, LossReader } from './loss-curve.ts';

/** The least share of any window of a length that the program had for itself. */
export interface MmuPoint {
  readonly windowMs: number;
  readonly ratio: number;
}

/**
 * Minimum mutator utilisation: the least share of any window of that length, inside the span, left to the program, by
 * its lost time (analysis/lost-time.ts). Exact: what a window loses is greatest where one of its ends lies at an
 * instant at which the loss changes, as the start or end of a pause, or at the span's. Linear in those instants for each
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

/** Instants that are looked at together; and, where one of their windows may lose more than is known, in turn. */
const TOGETHER = 1024;
const FEWER = [TOGETHER, 64, 8, 1];
/** What a window loses is known no better than this. */
const SAME_MS = 1e-9;

/**
 * What the windows of a length that begin or end at so many instants together are known to lose at most, by curve and
 * length: another span of the same curve need not look again.
 */
const knownBounds = new WeakMap<LossCurve, Map<number, Float64Array>>();
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
  private bounds: Float64Array = new Float64Array(0);

  constructor(curve: LossCurve, span: Span) {
    this.curve = curve;
    this.span = span;
    this.begins = new LossReader(curve);
    this.ends = new LossReader(curve);
    this.first = firstAtOrAfter(curve.tMs, span.fromMs);
    this.end = firstAtOrAfter(curve.tMs, span.toMs);
    this.mostAtMs = span.fromMs;
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
    const ofCurve = knownBounds.get(this.curve) ?? new Map<number, Float64Array>();
    knownBounds.set(this.curve, ofCurve);
    const known = ofCurve.get(windowMs);
    if (known !== undefined) return known;
    const bounds = new Float64Array(Math.ceil(this.curve.tMs.length / TOGETHER)).fill(Infinity);
    if (ofCurve.size < MOST_LENGTHS) ofCurve.set(windowMs, bounds);
    return bounds;
  }

  private lookInto(block: number): void {
    if (!(this.bounds[block]! > this.most + SAME_MS)) return;
    const first = Math.max(this.first, block * TOGETHER);
    const end = Math.min(this.end, (block + 1) * TOGETHER);
    this.lookAt(first, end, 0);
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
  private lookAt(first: number, end: number, level: number): void {
    const { tMs, untilMs } = this.curve;
    const { fromMs, toMs } = this.span;
    const { windowMs } = this;
    const together = FEWER[level]!;
    for (let from = first; from < end && this.most < windowMs - SAME_MS; from += together) {
      const last = Math.min(end, from + together) - 1;
      const beginning =
        tMs[from]! + windowMs <= toMs ? this.ends.until(Math.min(toMs, tMs[last]! + windowMs)) - untilMs[from]! : 0;
      const ending =
        tMs[last]! - windowMs >= fromMs
          ? untilMs[last]! - this.begins.until(Math.max(fromMs, tMs[from]! - windowMs))
          : 0;
      const bound = Math.max(beginning, ending);
      if (!(bound > this.most + SAME_MS)) continue;
      if (from < last) this.lookAt(from, last + 1, level + 1);
      else this.found(bound, beginning >= ending ? tMs[from]! : tMs[from]! - windowMs);
    }
  }
}

function clamp(value: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, value));
}
