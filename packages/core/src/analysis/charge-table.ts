import type { Span } from '../base/span.ts';
import { chargeGroups, type Charge, type ChargeGroups, type OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { Space, spacesOf } from '../model/space.ts';
import { kendallTau } from '../stats/mann-kendall.ts';
import { selectRank } from '../stats/select-rank.ts';
import { theilSen } from '../stats/theil-sen.ts';
import { Z_95 } from '../stats/z-95.ts';
import { type ChargeFigures, GroupFigures, type GrowthFigures, SettledLevels } from './charge-figures.ts';
import { GroupLeaders } from './group-leaders.ts';
import { Sum, SUMS } from './origin-sums.ts';
import { settledSeries, type SettledSeries } from './settled-series.ts';
import type { SpanSums } from './span-sums.ts';

/** Figures of every key under a charge over a span, and what they rest on. */
export interface ChargeTable {
  readonly charge: Charge;
  readonly rows: readonly ChargeFigures[];
  readonly momentsMs: Float64Array;
  readonly settleMs: number;
  /** Objects seen that live at the end and are too young to be called kept. */
  readonly recentLeftOut: number;
  /** Stretch over which objects were followed; null when none were. */
  readonly followed: Span | null;
  /**
   * True when a frame may stand for what it calls as well: optimised code books inlined functions under their caller.
   */
  readonly mayInline: boolean;
}

const MOST_TESTED = 300;

/**
 * Figures of every charge key, ranked by the lower bound of their growth, then by bytes kept and allocated. Growth is
 * the Theil–Sen slope of settled live bytes at the moments, measured for the 300 keys that change most and NaN for
 * others. Linear in the origins, then O(m²) for each measured key, with m ≤ 64 moments.
 */
export function chargeTable(
  recording: Recording,
  spanSums: SpanSums,
  charge: Charge,
  chosen: OriginChoice = null,
): ChargeTable {
  const groups = chargeGroups(recording, charge);
  const folded = foldSums(groups, spanSums, chosen, spacesOf(recording));
  const leaders = new GroupLeaders(recording, groups, spanSums, chosen);
  const series = settledSeries(spanSums.index, spanSums.settleMs, spanSums.momentsMs, {
    groupOf: groups.groupOf,
    groups: groups.keys.length,
    chosen,
  });
  const tested = mostChanging(series, spanSums.momentsMs.length);
  const gathered = { keys: groups.keys, ...folded, leaders, series, moments: spanSums.momentsMs.length };
  const rows: GroupFigures[] = [];
  for (let group = 0; group < groups.keys.length; group++) {
    if (folded.objects[group] === 0 && series.rowOf[group]! < 0) continue;
    rows.push(new GroupFigures(gathered, group, growthOf(spanSums.momentsMs, series, group, tested[group] === 1)));
  }
  return {
    charge,
    rows: rows.sort(byGrowth),
    momentsMs: spanSums.momentsMs,
    settleMs: spanSums.settleMs,
    recentLeftOut: folded.recent,
    followed: spanSums.followed,
    mayInline: recording.heaps.some((heap) => heap.mayInline),
  };
}

/** Sums of origins gathered by group. */
interface Folded {
  readonly sums: Float64Array;
  /** Above 0 for groups of which anything counts in any way, so that a group without any leaves no row. */
  readonly objects: Float64Array;
  readonly inferred: Float64Array;
  /** Bytes allocated and kept outside the heap, by group. */
  readonly outside: Float64Array;
  readonly recent: number;
}

function foldSums(
  { groupOf, keys }: ChargeGroups,
  { sums: from, flows }: SpanSums,
  chosen: OriginChoice,
  spaces: Uint8Array | null,
): Folded {
  const sums = new Float64Array(keys.length * SUMS);
  const objects = new Float64Array(keys.length);
  const inferred = new Float64Array(keys.length);
  const outside = new Float64Array(keys.length);
  let recent = 0;
  for (let originId = 0; originId < groupOf.length; originId++) {
    if (chosen !== null && chosen[originId] !== 1) continue;
    const [at, to] = [originId * SUMS, groupOf[originId]! * SUMS];
    for (let place = 0; place < SUMS; place++) sums[to + place]! += from[at + place]!;
    sums[to + Sum.alloc]! += flows.bytes[originId]!;
    sums[to + Sum.alloc + 1]! += flows.variance[originId]!;
    sums[to + Sum.alloc + 2]! += flows.count[originId]!;
    sums[to + Sum.alloc + 3]! += flows.countVariance[originId]!;
    inferred[groupOf[originId]!]! += flows.inferred[originId]!;
    objects[groupOf[originId]!]! +=
      from[at + Sum.samples]! + from[at + Sum.keptSamples]! + from[at + Sum.recentSamples]! + flows.bytes[originId]!;
    recent += from[at + Sum.recentSamples]!;
    if (spaces !== null && spaces[originId] === Space.outside)
      outside[groupOf[originId]!]! += from[at + Sum.alloc]! + from[at + Sum.kept]!;
  }
  return { sums, objects, inferred, outside, recent };
}

/** Variance of a fitted slope over that of the total, where independent increments add up: 6/5 for least squares. */
const SLOPE_OF_SUMS = 6 / 5;

const NO_GROWTH: GrowthFigures = { growthBytesPerSec: 0, growthLow: 0, growthHigh: 0, tau: 0 };
const UNKNOWN_GROWTH: GrowthFigures = { growthBytesPerSec: NaN, growthLow: NaN, growthHigh: NaN, tau: NaN };

// The slope of a key that holds nothing settled is 0; of one that changes too little to be measured it is not known.
// Sen's interval is that of the series as it was seen: the error of having sampled what settled is added to it in
// quadrature.
function growthOf(momentsMs: Float64Array, series: SettledSeries, group: number, isTested: boolean): GrowthFigures {
  const live = new SettledLevels(series, group, momentsMs.length);
  if (!live.isAny) return NO_GROWTH;
  if (!isTested) return UNKNOWN_GROWTH;
  const liveBytes = live.bytes;
  const line = theilSen(
    momentsMs.map((t) => t / 1000),
    liveBytes,
  );
  if (line.kind !== 'slope') return UNKNOWN_GROWTH;
  const seconds = (momentsMs[momentsMs.length - 1]! - momentsMs[0]!) / 1000;
  const sampled = (Z_95 * Math.sqrt(SLOPE_OF_SUMS * series.settledVariance[group]!)) / seconds;
  return {
    growthBytesPerSec: line.slope,
    growthLow: line.slope - Math.hypot(line.slope - line.low, sampled),
    growthHigh: line.slope + Math.hypot(line.high - line.slope, sampled),
    tau: kendallTau(liveBytes),
  };
}

// The groups whose settled bytes move most, so many at most; what the others add is a small part of what these do.
function mostChanging({ rowOf, changes }: SettledSeries, moments: number): Uint8Array {
  const ranges = new Float64Array(rowOf.length).fill(-1);
  for (let group = 0; group < rowOf.length; group++) {
    const at = 2 * rowOf[group]! * (moments + 1);
    if (at < 0) continue;
    let [level, least, most] = [0, Infinity, -Infinity];
    for (let moment = 0; moment < moments; moment++) {
      level += changes[at + 2 * moment]!;
      if (level < least) least = level;
      if (level > most) most = level;
    }
    ranges[group] = most - least;
  }
  return largest(ranges, MOST_TESTED);
}

// Flags so many of the largest values from 0 up; of equal ones the first.
function largest(values: Float64Array, most: number): Uint8Array {
  const flags = new Uint8Array(values.length);
  const least = values.length <= most ? 0 : Math.max(0, selectRank(values.slice(), values.length - most));
  let free = most;
  for (const value of values) if (value > least) free--;
  for (let at = 0; at < values.length; at++)
    if (values[at]! > least || (values[at] === least && free-- > 0)) flags[at] = 1;
  return flags;
}

function byGrowth(a: ChargeFigures, b: ChargeFigures): number {
  const grow = Math.max(0, b.growthLow) - Math.max(0, a.growthLow);
  if (grow !== 0 && Number.isFinite(grow)) return grow;
  return b.keptBytes - a.keptBytes || b.allocBytes - a.allocBytes;
}
