import { contains, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, countVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import type { OriginChoice } from '../model/charge.ts';

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

interface Open {
  fromMs: number;
  toMs: number;
  seen: number;
  count: number;
  countsOff: number;
  bytes: number;
  bytesOff: number;
  died: number;
}

/**
 * Runs of alike allocations in a span, by bytes. Objects are taken in order of their rows, which is nearly that of
 * their births. One pass over the objects.
 */
export function alikeRuns(recording: Recording, span: Span, rules: RunRules, chosen: OriginChoice = null): AlikeRun[] {
  const {
    length,
    col: { bornMs, endMs, lost, sizeBytes, probability, originId },
  } = recording.tables.objects;
  const open: (Open | undefined)[] = [];
  const runs: AlikeRun[] = [];
  const close = (origin: number, run: Open): void => {
    if (run.seen < LEAST_SEEN) return;
    const { countsOff, bytesOff, died, ...told } = run;
    runs.push({
      originId: origin,
      ...told,
      countSe: Math.sqrt(countsOff),
      bytesSe: Math.sqrt(bytesOff),
      diedRatio: died / run.seen,
    });
    if (runs.length > CUT_AT * rules.most) runs.sort(byBytes).splice(rules.most);
  };
  for (let row = 0; row < length; row++) {
    const born = bornMs[row]!;
    const origin = originId[row]!;
    if (!contains(span, born) || (chosen !== null && chosen[origin] !== 1)) continue;
    let run = open[origin];
    if (run !== undefined && born - run.toMs > rules.gapMs) {
      close(origin, run);
      run = undefined;
    }
    if (run === undefined)
      open[origin] = run = {
        fromMs: born,
        toMs: born,
        seen: 0,
        count: 0,
        countsOff: 0,
        bytes: 0,
        bytesOff: 0,
        died: 0,
      };
    run.toMs = Math.max(run.toMs, born);
    run.seen++;
    const p = probability[row]!;
    run.count += 1 / p;
    run.countsOff += countVariance(p);
    run.bytes += estimatedBytes(sizeBytes[row]!, p);
    run.bytesOff += bytesVariance(sizeBytes[row]!, p);
    if (lost[row] === 0 && endMs[row]! <= span.toMs) run.died++;
  }
  open.forEach((run, origin) => {
    if (run !== undefined) close(origin, run);
  });
  return runs.sort(byBytes).slice(0, rules.most);
}

const CUT_AT = 8;

function byBytes(a: AlikeRun, b: AlikeRun): number {
  return b.bytes - a.bytes;
}
