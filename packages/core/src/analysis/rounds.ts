import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import { chargeGroups, type Charge, type OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { median } from '../stats/quantile.ts';
import { Z_95 } from '../stats/z-95.ts';
import { floorPoints } from './floor.ts';
import { followedSpan } from './growth-moments.ts';

/**
 * What one charge key keeps from round to round. Bytes are estimates, `…Se` their standard errors; counts NaN where the
 * source gives bytes only.
 */
export interface RoundFigures {
  /** What is counted: a frame, string or heap id as the charge says (model/charge.ts). */
  readonly key: number;
  readonly typeId: number;
  /** What each round left beside what was there before: live at its end less live at its beginning. */
  readonly incrementBytes: Float64Array;
  readonly incrementSe: Float64Array;
  /** Median increment. */
  readonly perRoundBytes: number;
  readonly perRoundCount: number;
  /**
   * Rounds whose increment is the median one, within a tenth of it, since what is counted is seen a little after the
   * mark; or within 1.96 errors of sampling.
   */
  readonly agreeing: number;
  /**
   * True when the median is above 0, at least 80 % of the rounds agree with it, and what all left together is more than
   * its error.
   */
  readonly isConstant: boolean;
  readonly firstBytes: number;
  readonly lastBytes: number;
}

/** Rounds of a mark that repeats. */
export interface RoundTable {
  readonly label: string;
  /** Beginnings of the rounds and, last, the end of the last one: the marks. */
  readonly marksMs: Float64Array;
  /**
   * When what lives was counted: at the first floor point after each mark, or at the mark where none came before the
   * next.
   */
  readonly momentsMs: Float64Array;
  /** Marks after which a collection showed what lives, before the next mark. */
  readonly collected: number;
  /** By what the median round leaves, the most first; constant leaks before all others. */
  readonly keys: readonly RoundFigures[];
}

const LEAST_MARKS = 4;
const AGREEING_RATIO = 0.8;
/** What a round leaves is counted at the first collection after its mark: part of the next round is in it. */
const JITTER_RATIO = 0.1;

/** Labels of the marks that repeat in the span, the most frequent first. */
export function repeatedMarks(recording: Recording, span: Span): { readonly label: string; readonly times: number }[] {
  const times = new Map<number, number>();
  const { length, col } = recording.tables.marks;
  for (let row = 0; row < length; row++)
    if (col.tMs[row]! >= span.fromMs && col.tMs[row]! <= span.toMs)
      times.set(col.labelId[row]!, (times.get(col.labelId[row]!) ?? 0) + 1);
  return [...times]
    .filter(([, count]) => count >= LEAST_MARKS)
    .map(([labelId, count]) => ({ label: recording.strings.text(labelId), times: count }))
    .sort((a, b) => b.times - a.times);
}

interface Sums {
  readonly entered: Float64Array;
  readonly left: Float64Array;
  readonly variance: Float64Array;
  readonly enteredCount: Float64Array;
  readonly leftCount: Float64Array;
  typeId: number;
}

/**
 * What each key keeps from round to round, of the marks with a label inside the stretch in which objects were followed;
 * null when fewer than four are left. Objects that live and die within a round leave no trace. One pass over the
 * objects, a binary search for each that outlives its round.
 */
export function roundTable(
  recording: Recording,
  span: Span,
  label: string,
  charge: Charge,
  chosen: OriginChoice = null,
): RoundTable | null {
  const followed = followedSpan(recording, span);
  const marksMs = roundMarks(recording, followed ?? { fromMs: 0, toMs: -1 }, label);
  if (marksMs.length < LEAST_MARKS) return null;
  const { momentsMs, collected } = momentsAfter(marksMs, floorPoints(recording, span).tMs);
  const { groupOf, keys: keyOf } = chargeGroups(recording, charge);
  const sums = sumByGroup(recording, momentsMs, groupOf, chosen);
  const keys = sums
    .flatMap((sum, group) => (sum === undefined ? [] : [figuresOf(keyOf[group]!, sum)]))
    .filter((key) => key.lastBytes > 0 || key.firstBytes > 0);
  return {
    label,
    marksMs,
    momentsMs,
    collected,
    keys: keys.sort((a, b) => Number(b.isConstant) - Number(a.isConstant) || b.perRoundBytes - a.perRoundBytes),
  };
}

/**
 * Instants of the marks with a label from a span's start to its end, both included, ascending: between them lie its
 * rounds.
 */
export function roundMarks(recording: Recording, within: Span, label: string): Float64Array {
  const { length, col } = recording.tables.marks;
  const times: number[] = [];
  for (let row = 0; row < length; row++) {
    const tMs = col.tMs[row]!;
    if (tMs >= within.fromMs && tMs <= within.toMs && recording.strings.text(col.labelId[row]!) === label)
      times.push(tMs);
  }
  return Float64Array.from(times).sort();
}

// The recorder may force a collection at a round's end; any floor point before the next mark shows what the round left.
function momentsAfter(marksMs: Float64Array, floorMs: Float64Array): { momentsMs: Float64Array; collected: number } {
  let collected = 0;
  const momentsMs = marksMs.map((markMs, n) => {
    const found = floorMs.find((tMs) => tMs >= markMs && tMs < (marksMs[n + 1] ?? Infinity));
    if (found !== undefined) collected++;
    return found ?? markMs;
  });
  return { momentsMs, collected };
}

// Objects come nearly in order of birth: the round of the one before is tried before a search.
function sumByGroup(
  recording: Recording,
  momentsMs: Float64Array,
  groupOf: Uint32Array,
  chosen: OriginChoice,
): (Sums | undefined)[] {
  const {
    length,
    col: { bornMs, endMs, lost, sizeBytes, probability, originId },
  } = recording.tables.objects;
  const { typeId } = recording.tables.origins.col;
  const sums: (Sums | undefined)[] = [];
  let [entry, afterMs, nextMs] = [0, -Infinity, momentsMs[0]!];
  for (let row = 0; row < length; row++) {
    const born = bornMs[row]!;
    if (born <= afterMs || born > nextMs) {
      entry = firstAtOrAfter(momentsMs, born);
      afterMs = momentsMs[entry - 1] ?? -Infinity;
      nextMs = momentsMs[entry] ?? Infinity;
    }
    const isDead = lost[row] === 0 && !Number.isNaN(endMs[row]!);
    // Born and dead between two moments: no round sees it.
    if (isDead && endMs[row]! <= nextMs) continue;
    const exit = isDead ? firstAtOrAfter(momentsMs, endMs[row]!) : momentsMs.length;
    if (entry === exit || (chosen !== null && chosen[originId[row]!] !== 1)) continue;
    const origin = originId[row]!;
    const sum = (sums[groupOf[origin]!] ??= blankSums(momentsMs.length, typeId[origin]!));
    const p = probability[row]!;
    const bytes = estimatedBytes(sizeBytes[row]!, p);
    const variance = bytesVariance(sizeBytes[row]!, p);
    sum.entered[entry]! += bytes;
    sum.enteredCount[entry]! += 1 / p;
    sum.variance[entry]! += variance;
    if (exit >= momentsMs.length) continue;
    sum.left[exit]! += bytes;
    sum.leftCount[exit]! += 1 / p;
    sum.variance[exit]! += variance;
  }
  return sums;
}

function blankSums(moments: number, typeId: number): Sums {
  const column = (): Float64Array => new Float64Array(moments + 1);
  return { entered: column(), left: column(), variance: column(), enteredCount: column(), leftCount: column(), typeId };
}

function figuresOf(key: number, sum: Sums): RoundFigures {
  const rounds = sum.entered.length - 2;
  const change = (entered: Float64Array, left: Float64Array): Float64Array =>
    Float64Array.from({ length: rounds }, (_, round) => entered[round + 1]! - left[round + 1]!);
  const incrementBytes = change(sum.entered, sum.left);
  const counts = change(sum.enteredCount, sum.leftCount);
  const incrementSe = Float64Array.from({ length: rounds }, (_, round) => Math.sqrt(sum.variance[round + 1]!));
  const perRoundBytes = median(incrementBytes);
  const agreeing = incrementBytes.filter(
    (bytes, round) =>
      Math.abs(bytes - perRoundBytes) <= Math.max(JITTER_RATIO * Math.abs(perRoundBytes), Z_95 * incrementSe[round]!),
  ).length;
  const firstBytes = sum.entered[0]!;
  const grownBytes = incrementBytes.reduce((total, bytes) => total + bytes, 0);
  const grownSe = Math.sqrt(incrementSe.reduce((total, se) => total + se * se, 0));
  return {
    key,
    typeId: sum.typeId,
    incrementBytes,
    incrementSe,
    perRoundBytes,
    perRoundCount: median(counts),
    agreeing,
    isConstant: perRoundBytes > 0 && agreeing >= AGREEING_RATIO * rounds && grownBytes > Z_95 * grownSe,
    firstBytes,
    lastBytes: firstBytes + grownBytes,
  };
}
