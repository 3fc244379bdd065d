import { firstAtOrAfter } from '../base/binary-search.ts';
import type { Span } from '../base/span.ts';
import { type Charge, chargeGroups, type OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { medianOfSorted } from '../stats/quantile.ts';
import { Z_95 } from '../stats/z-95.ts';
import { floorPoints } from './floor.ts';
import { followedSpan } from './growth-moments.ts';
import { roundMarks } from './rounds.ts';

/** What of the rounds' births in one section stays to the end, a round. Bytes are estimates. */
export interface SectionFigures {
  /** Labels of the marks between which it lies. */
  readonly from: string;
  readonly to: string;
  /** Rounds that have it. */
  readonly rounds: number;
  readonly perRoundBytes: number;
  /** Standard error of that mean, by how the rounds differ, which has the error of sampling in it. */
  readonly perRoundSe: number;
}

/** What one key's births in one section leave, a round. */
export interface SectionKey {
  /** Place in the list of sections. */
  readonly section: number;
  readonly key: number;
  readonly perRoundBytes: number;
  readonly perRoundSe: number;
  /** Objects that the middle round left; NaN where the source gives bytes only. */
  readonly medianCount: number;
  /** Rounds that left as much as the middle one, within a tenth of it or the error of sampling. */
  readonly agreeing: number;
  /** True when at least 80 % of the rounds leave the same, and it is more than nothing. */
  readonly isConstant: boolean;
}

/** Rounds of a label, cut into sections by the other marks in them. */
export interface SectionTable {
  readonly rounds: number;
  /** When what stays was counted. */
  readonly countedMs: number;
  readonly sections: readonly SectionFigures[];
  /** What is constant first, then by what it leaves. */
  readonly keys: readonly SectionKey[];
}

const LEAST_MARKS = 4;
const AGREEING_RATIO = 0.8;
const JITTER_RATIO = 0.1;

interface Cuts {
  /** Beginnings of all sections in order of time. */
  readonly fromMs: Float64Array;
  readonly section: readonly number[];
  readonly round: readonly number[];
  readonly names: readonly (readonly [from: string, to: string])[];
  /** Rounds in which each section is. */
  readonly times: readonly number[];
}

/**
 * What rounds leave to the end, by the section of the round in which it was born; null where rounds are too few or are
 * not cut. An object counts that was born in a round and lives when what is left is counted: at the first floor point
 * after the last mark, else at that mark. One pass over the objects, a binary search for each.
 */
export function sectionTable(
  recording: Recording,
  span: Span,
  label: string,
  charge: Charge,
  chosen: OriginChoice = null,
): SectionTable | null {
  const marksMs = roundMarks(recording, followedSpan(recording, span) ?? { fromMs: 0, toMs: -1 }, label);
  if (marksMs.length < LEAST_MARKS) return null;
  const cuts = cutsOf(recording, marksMs, label);
  if (cuts.names.length < 2) return null;
  const lastMs = marksMs[marksMs.length - 1]!;
  const countedMs = floorPoints(recording, span).tMs.find((tMs) => tMs >= lastMs) ?? lastMs;
  const rounds = marksMs.length - 1;
  const { groupOf, keys } = chargeGroups(recording, charge);
  const sums = sumsOf(recording, { cuts, lastMs, countedMs, rounds, groupOf, chosen });
  const all = cuts.names.map(() => new Float64Array(rounds));
  const found: SectionKey[] = [];
  for (const [at, sum] of sums) {
    const section = at % cuts.names.length;
    for (let round = 0; round < rounds; round++) all[section]![round]! += sum.bytes[round]!;
    found.push({ section, key: keys[Math.floor(at / cuts.names.length)]!, ...figuresOf(sum, cuts.times[section]!) });
  }
  return {
    rounds,
    countedMs,
    sections: cuts.names.map(([from, to], at) => ({
      from,
      to,
      rounds: cuts.times[at]!,
      ...meanOf(all[at]!, cuts.times[at]!),
    })),
    keys: found.sort((a, b) => Number(b.isConstant) - Number(a.isConstant) || b.perRoundBytes - a.perRoundBytes),
  };
}

// Every mark between the first and the last of the label begins a section, named by it and the next.
function cutsOf(recording: Recording, marksMs: Float64Array, label: string): Cuts {
  const { length, col } = recording.tables.marks;
  const [firstMs, lastMs] = [marksMs[0]!, marksMs[marksMs.length - 1]!];
  const marks = Array.from({ length }, (_, row) => ({
    tMs: col.tMs[row]!,
    label: recording.strings.text(col.labelId[row]!),
  }))
    .filter(({ tMs }) => tMs >= firstMs && tMs <= lastMs)
    .sort((a, b) => a.tMs - b.tMs);
  const names: [string, string][] = [];
  const times: number[] = [];
  const [section, round]: [number[], number[]] = [[], []];
  const lastRound: number[] = [];
  let at = -1;
  marks.slice(0, -1).forEach((mark, place) => {
    if (mark.label === label) at++;
    const to = marks[place + 1]!.label;
    let name = names.findIndex((each) => each[0] === mark.label && each[1] === to);
    if (name < 0) {
      name = names.length;
      names.push([mark.label, to]);
      times.push(0);
      lastRound.push(-1);
    }
    if (lastRound[name] !== at) times[name]!++;
    lastRound[name] = at;
    section.push(name);
    round.push(at);
  });
  return { fromMs: Float64Array.from(marks.slice(0, -1), ({ tMs }) => tMs), section, round, names, times };
}

interface Sums {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  readonly count: Float64Array;
}

function sumsOf(
  recording: Recording,
  {
    cuts,
    lastMs,
    countedMs,
    rounds,
    groupOf,
    chosen,
  }: {
    readonly cuts: Cuts;
    readonly lastMs: number;
    readonly countedMs: number;
    readonly rounds: number;
    readonly groupOf: Uint32Array;
    readonly chosen: OriginChoice;
  },
): Map<number, Sums> {
  const { length, col } = recording.tables.objects;
  const { bornMs, endMs, sizeBytes, probability, originId } = col;
  const sums = new Map<number, Sums>();
  for (let row = 0; row < length; row++) {
    const born = bornMs[row]!;
    if (born < cuts.fromMs[0]! || born >= lastMs || endMs[row]! <= countedMs) continue;
    if (chosen !== null && chosen[originId[row]!] !== 1) continue;
    const after = firstAtOrAfter(cuts.fromMs, born);
    const cut = cuts.fromMs[after] === born ? after : after - 1;
    const at = groupOf[originId[row]!]! * cuts.names.length + cuts.section[cut]!;
    let sum = sums.get(at);
    if (sum === undefined) {
      const column = (): Float64Array => new Float64Array(rounds);
      sums.set(at, (sum = { bytes: column(), variance: column(), count: column() }));
    }
    const round = cuts.round[cut]!;
    sum.bytes[round]! += estimatedBytes(sizeBytes[row]!, probability[row]!);
    sum.variance[round]! += bytesVariance(sizeBytes[row]!, probability[row]!);
    sum.count[round]! += 1 / probability[row]!;
  }
  return sums;
}

// Rounds that have no such section left nothing in it and say nothing of it.
function meanOf(bytes: Float64Array, times: number): Pick<SectionFigures, 'perRoundBytes' | 'perRoundSe'> {
  const mean = bytes.reduce((sum, each) => sum + each, 0) / times;
  const squares = bytes.reduce((sum, each) => sum + (each - mean) ** 2, 0) - (bytes.length - times) * mean ** 2;
  return { perRoundBytes: mean, perRoundSe: times > 1 ? Math.sqrt(Math.max(0, squares) / (times - 1) / times) : NaN };
}

function figuresOf({ bytes, variance, count }: Sums, times: number): Omit<SectionKey, 'section' | 'key'> {
  const middle = medianOfSorted(bytes.slice().sort());
  const agreeing = bytes.filter(
    (each, round) =>
      Math.abs(each - middle) <= Math.max(JITTER_RATIO * Math.abs(middle), Z_95 * Math.sqrt(variance[round]!)),
  ).length;
  const mean = meanOf(bytes, times);
  const total = bytes.reduce((sum, each) => sum + each, 0);
  const totalSe = Math.sqrt(variance.reduce((sum, each) => sum + each, 0));
  return {
    ...mean,
    medianCount: medianOfSorted(count.slice().sort()),
    agreeing,
    isConstant: middle > 0 && agreeing >= AGREEING_RATIO * bytes.length && total > Z_95 * totalSe,
  };
}
