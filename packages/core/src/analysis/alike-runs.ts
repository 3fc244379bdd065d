import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { OriginChoice } from '../model/charge.ts';
import { bornWithin } from './birth-order.ts';

/** Allocations of one type at one call path, close together: made over and over. */
export interface AlikeRun {
  readonly originId: number;
  readonly fromMs: number;
  readonly toMs: number;
  /**
   * Objects that were seen, and what they stand for, with standard errors; the count is NaN where the source gives
   * bytes only.
   */
  readonly seen: number;
  readonly count: number;
  readonly countSe: number;
  readonly bytes: number;
  readonly bytesSe: number;
  /** Share of the seen ones that were dead by the span's end. */
  readonly diedRatio: number;
}

/** Fewer seen than this may be chance. */
const LEAST_SEEN = 10;

/** How runs are told apart, and how many are wanted. */
export interface RunRules {
  /** A longer time without one ends a run. */
  readonly gapMs: number;
  readonly most: number;
}

/**
 * Runs of alike allocations in a span, by bytes. One pass over the objects of the span in order of their births.
 */
export function alikeRuns(recording: Recording, span: Span, rules: RunRules, chosen: OriginChoice = null): AlikeRun[] {
  const { bornMs, endMs, lost, sizeBytes, probability, originId } = recording.tables.objects.col;
  const runs = new BestRuns(rules.most);
  // One open run an origin, in columns; of none that is open nothing was seen.
  const origins = recording.tables.origins.length;
  const sums = (): Float64Array => new Float64Array(origins);
  const [from, to, count, countsOff, bytes, bytesOff] = [sums(), sums(), sums(), sums(), sums(), sums()];
  const [seen, died] = [new Uint32Array(origins), new Uint32Array(origins)];
  const close = (origin: number): void => {
    if (seen[origin]! >= LEAST_SEEN && runs.takes(bytes[origin]!))
      runs.add({
        originId: origin,
        fromMs: from[origin]!,
        toMs: to[origin]!,
        seen: seen[origin]!,
        count: count[origin]!,
        countSe: Math.sqrt(countsOff[origin]!),
        bytes: bytes[origin]!,
        bytesSe: Math.sqrt(bytesOff[origin]!),
        diedRatio: died[origin]! / seen[origin]!,
      });
    seen[origin] = died[origin] = count[origin] = countsOff[origin] = bytes[origin] = bytesOff[origin] = 0;
  };
  const rows = bornWithin(recording, span);
  for (let place = 0; place < rows.length; place++) {
    const row = rows[place]!;
    const born = bornMs[row]!;
    const origin = originId[row]!;
    if (chosen !== null && chosen[origin] !== 1) continue;
    if (seen[origin] !== 0 && born - to[origin]! > rules.gapMs) close(origin);
    if (seen[origin] === 0) from[origin] = to[origin] = born;
    else to[origin] = born;
    seen[origin]!++;
    const p = probability[row]!;
    count[origin]! += 1 / p;
    countsOff[origin]! += countVariance(p);
    bytes[origin]! += estimatedBytes(sizeBytes[row]!, p);
    bytesOff[origin]! += bytesVariance(sizeBytes[row]!, p);
    if (lost[row] === 0 && endMs[row]! <= span.toMs) died[origin]!++;
  }
  for (let origin = 0; origin < origins; origin++) close(origin);
  return runs.best();
}

const CUT_AT = 8;

/** The runs of most bytes of all that are added. */
class BestRuns {
  private readonly most: number;
  private readonly runs: AlikeRun[] = [];
  /** Bytes of the last of the best, once there are so many. */
  private leastBytes = -Infinity;

  constructor(most: number) {
    this.most = most;
  }

  /** False for one that cannot be among them. */
  takes(bytes: number): boolean {
    return bytes > this.leastBytes;
  }

  add(run: AlikeRun): void {
    this.runs.push(run);
    if (this.runs.length <= CUT_AT * this.most) return;
    this.runs.sort(byBytes).splice(this.most);
    this.leastBytes = this.runs.at(-1)!.bytes;
  }

  best(): AlikeRun[] {
    return this.runs.sort(byBytes).slice(0, this.most);
  }
}

function byBytes(a: AlikeRun, b: AlikeRun): number {
  return b.bytes - a.bytes;
}
