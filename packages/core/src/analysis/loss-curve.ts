import { orderBy } from '../base/order-by.ts';
import type { Span } from '../base/span.ts';

/**
 * Milliseconds lost over time, as a line of straight pieces: `untilMs[i]` were lost from the first instant until
 * `tMs[i]`, which ascend. Before the first and after the last nothing is lost.
 */
export interface LossCurve {
  readonly tMs: Float64Array;
  readonly untilMs: Float64Array;
}

/** Milliseconds that a curve lost until an instant, of which `place` is the last place at or before it, −1 for none. */
export function lostUntil({ tMs, untilMs }: LossCurve, place: number, atMs: number): number {
  if (place < 0) return 0;
  const lostMs = untilMs[place]!;
  const gainMs = place + 1 < tMs.length ? untilMs[place + 1]! - lostMs : 0;
  return gainMs === 0 ? lostMs : lostMs + (gainMs * (atMs - tMs[place]!)) / (tMs[place + 1]! - tMs[place]!);
}

/** What was lost until an instant, looked up again and again near the last place. */
export class LossReader {
  private readonly curve: LossCurve;
  private place = 0;

  constructor(curve: LossCurve) {
    this.curve = curve;
  }

  /** Milliseconds lost until an instant. O(log d) for the d instants since the last one that was asked for. */
  until(atMs: number): number {
    return lostUntil(this.curve, this.placeOf(atMs), atMs);
  }

  /** The last of the curve's places that is at most an instant, −1 before the first. */
  placeOf(atMs: number): number {
    const { tMs } = this.curve;
    const last = tMs.length - 1;
    if (last < 0 || !(atMs >= tMs[0]!)) return -1;
    return atMs >= tMs[last]! ? last : this.find(atMs);
  }

  /** Milliseconds lost in a span. */
  within({ fromMs, toMs }: Span): number {
    return toMs > fromMs ? this.until(toMs) - this.until(fromMs) : 0;
  }

  // The last place that is at most an instant between the first and the last: in steps that double, then by halves.
  private find(atMs: number): number {
    const { tMs } = this.curve;
    let low = this.place;
    let high: number;
    if (tMs[low]! <= atMs) {
      let step = 1;
      while (low + step < tMs.length && tMs[low + step]! <= atMs) {
        low += step;
        step *= 2;
      }
      high = Math.min(tMs.length, low + step);
    } else {
      let step = 1;
      high = low;
      while (high - step > 0 && tMs[high - step]! > atMs) {
        high -= step;
        step *= 2;
      }
      low = Math.max(0, high - step);
    }
    while (high - low > 1) {
      const middle = (low + high) >>> 1;
      if (tMs[middle]! <= atMs) low = middle;
      else high = middle;
    }
    this.place = low;
    return low;
  }
}

const STOP = 0;
const WAIT = 1;

/** Stretches in which all threads are stopped, or a share of them waits, added up to a curve. */
export class LossSum {
  private readonly tMs: Float64Array;
  private readonly amount: Float64Array;
  private readonly kind: Uint8Array;
  private count = 0;

  /** `most` is how many stretches there may be. */
  constructor(most: number) {
    this.tMs = new Float64Array(2 * most);
    this.amount = new Float64Array(2 * most);
    this.kind = new Uint8Array(2 * most);
  }

  /** All threads are stopped for so long. */
  stop(fromMs: number, toMs: number): void {
    this.add(fromMs, toMs, STOP, 1);
  }

  /** A share of the threads waits. */
  wait(fromMs: number, toMs: number, share: number): void {
    this.add(fromMs, toMs, WAIT, share);
  }

  /** While all are stopped all is lost; else the share of those that wait. O(n log n), linear where times rise. */
  curve(): LossCurve {
    const { tMs, amount, kind, count } = this;
    const order = orderBy(tMs, count);
    const curve = { tMs: new Float64Array(count), untilMs: new Float64Array(count) };
    let [stopped, waiting, lostMs, lastMs] = [0, 0, 0, 0];
    for (let place = 0; place < count; place++) {
      const at = order[place]!;
      if (stopped > 0) lostMs += tMs[at]! - lastMs;
      else if (waiting > 0) lostMs += (tMs[at]! - lastMs) * Math.min(1, waiting);
      lastMs = tMs[at]!;
      curve.tMs[place] = lastMs;
      curve.untilMs[place] = lostMs;
      if (kind[at] === STOP) stopped += amount[at]!;
      else waiting += amount[at]!;
    }
    return curve;
  }

  private add(fromMs: number, toMs: number, kind: number, amount: number): void {
    if (!(toMs > fromMs)) return;
    const { count } = this;
    this.tMs[count] = fromMs;
    this.amount[count] = amount;
    this.kind[count] = kind;
    this.tMs[count + 1] = toMs;
    this.amount[count + 1] = -amount;
    this.kind[count + 1] = kind;
    this.count += 2;
  }
}
