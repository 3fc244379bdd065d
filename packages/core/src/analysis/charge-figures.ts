import { type Fate, ofFate } from './fates.ts';
import { Sum, SUMS } from './origin-sums.ts';
import type { GroupLeaders } from './group-leaders.ts';
import type { SettledSeries } from './settled-series.ts';

/** One charge key's figures over a span. Bytes are estimates, `…Se` their standard errors. */
export interface ChargeFigures {
  /** What the allocations are charged to: a frame, string or heap id as the charge says (model/charge.ts). */
  readonly key: number;
  /** The path of this key that keeps most, or allocates most when none keeps. */
  readonly heaviestPathId: number;
  /** Likewise the type; NONE where the source tells none. */
  readonly typeId: number;
  readonly allocBytes: number;
  readonly allocBytesSe: number;
  /** Part of `allocBytes` that was inferred, not seen. */
  readonly inferredBytes: number;
  /** Objects; NaN when the source gives estimates of bytes only. */
  readonly allocCount: number;
  readonly allocCountSe: number;
  readonly samples: number;
  /** Live at the span's end and older than the settle time. */
  readonly keptBytes: number;
  readonly keptBytesSe: number;
  /** Objects kept; NaN when the source gives estimates of bytes only. */
  readonly keptCount: number;
  readonly keptCountSe: number;
  readonly keptSamples: number;
  /** Mean age of what is kept, each byte alike; NaN when nothing is. */
  readonly keptAgeMs: number;
  /** Part of `keptBytes` that was born in the span. */
  readonly keptOfSpanBytes: number;
  readonly keptOfSpanBytesSe: number;
  readonly keptOfSpanCount: number;
  readonly keptOfSpanCountSe: number;
  /** Of what was allocated in the span, what is dead by its end. */
  readonly diedBytes: number;
  readonly diedBytesSe: number;
  readonly diedCount: number;
  readonly diedCountSe: number;
  /** Slope of the settled live bytes, with a 95 % interval that has the spread over time and the error of sampling. */
  readonly growthBytesPerSec: number;
  readonly growthLow: number;
  readonly growthHigh: number;
  /** Kendall's τ of the live series: its steadiness. */
  readonly tau: number;
  /**
   * Share of the growth that the verdict tells (analysis/verdict/growth-shares.ts); 0 until it was held against one,
   * and for what lies outside the heap.
   */
  readonly growthShareRatio: number;
  /** True when most of it lies outside the collected heap: it is no part of the floor. */
  readonly isOutside: boolean;
  /** Settled live bytes and objects at each of the table's moments. */
  readonly live: SettledLevels;
}

/** A group's levels over the moments, added up when they are asked for: of very many groups few are looked at. */
export class SettledLevels {
  private readonly series: SettledSeries;
  private readonly row: number;
  private readonly moments: number;

  constructor(series: SettledSeries, group: number, moments: number) {
    this.series = series;
    this.row = series.rowOf[group]!;
    this.moments = moments;
  }

  get bytes(): Float64Array {
    return this.levels(0);
  }

  get count(): Float64Array {
    return this.levels(1);
  }

  /** True when anything settled at any moment. */
  get isAny(): boolean {
    if (this.row < 0) return false;
    let level = 0;
    const from = 2 * this.row * (this.moments + 1);
    for (let moment = 0; moment < this.moments; moment++) {
      level += this.series.changes[from + 2 * moment]!;
      if (level > 0) return true;
    }
    return false;
  }

  // Changes from moment to moment added up; zeros where nothing settled.
  private levels(which: 0 | 1): Float64Array {
    const levels = new Float64Array(this.moments);
    if (this.row < 0) return levels;
    const from = 2 * this.row * (this.moments + 1) + which;
    let level = 0;
    for (let moment = 0; moment < this.moments; moment++)
      levels[moment] = level += this.series.changes[from + 2 * moment]!;
    return levels;
  }
}

/** How a key's settled bytes change. */
export type GrowthFigures = Pick<ChargeFigures, 'growthBytesPerSec' | 'growthLow' | 'growthHigh' | 'tau'>;

/** What the figures of all groups are made of: columns by group. */
export interface Gathered {
  readonly keys: Uint32Array;
  /** `[group · SUMS + …]` (analysis/origin-sums.ts), flows added. */
  readonly sums: Float64Array;
  readonly inferred: Float64Array;
  /** Bytes allocated and kept outside the heap. */
  readonly outside: Float64Array;
  readonly leaders: GroupLeaders;
  readonly series: SettledSeries;
  readonly moments: number;
}

/**
 * A group's figures, worked out of the columns when they are asked for: a recording may have very many groups, of which
 * few are looked at.
 */
export class GroupFigures implements ChargeFigures {
  readonly growthShareRatio: number;
  private readonly of: Gathered;
  private readonly group: number;
  private readonly growth: GrowthFigures;

  constructor(of: Gathered, group: number, growth: GrowthFigures, growthShareRatio = 0) {
    this.of = of;
    this.group = group;
    this.growth = growth;
    this.growthShareRatio = growthShareRatio;
  }

  /** The same with a share of the growth that the verdict tells. */
  withShare(growthShareRatio: number): GroupFigures {
    return growthShareRatio === this.growthShareRatio
      ? this
      : new GroupFigures(this.of, this.group, this.growth, growthShareRatio);
  }

  get key(): number {
    return this.of.keys[this.group]!;
  }
  get heaviestPathId(): number {
    return this.of.leaders.pathOf(this.group);
  }
  get typeId(): number {
    return this.of.leaders.typeOf(this.group);
  }
  get allocBytes(): number {
    return this.fate('all', 0);
  }
  get allocBytesSe(): number {
    return Math.sqrt(this.fate('all', 1));
  }
  get allocCount(): number {
    return this.fate('all', 2);
  }
  get allocCountSe(): number {
    return Math.sqrt(this.fate('all', 3));
  }
  get inferredBytes(): number {
    return this.of.inferred[this.group]!;
  }
  get samples(): number {
    return this.sum(Sum.samples);
  }
  get keptOfSpanBytes(): number {
    return this.fate('kept', 0);
  }
  get keptOfSpanBytesSe(): number {
    return Math.sqrt(this.fate('kept', 1));
  }
  get keptOfSpanCount(): number {
    return this.fate('kept', 2);
  }
  get keptOfSpanCountSe(): number {
    return Math.sqrt(this.fate('kept', 3));
  }
  get diedBytes(): number {
    return this.fate('died', 0);
  }
  get diedBytesSe(): number {
    return Math.sqrt(this.fate('died', 1));
  }
  get diedCount(): number {
    return this.fate('died', 2);
  }
  get diedCountSe(): number {
    return Math.sqrt(this.fate('died', 3));
  }
  get keptBytes(): number {
    return this.sum(Sum.kept);
  }
  get keptBytesSe(): number {
    return Math.sqrt(this.sum(Sum.kept + 1));
  }
  get keptCount(): number {
    return this.sum(Sum.kept + 2);
  }
  get keptCountSe(): number {
    return Math.sqrt(this.sum(Sum.kept + 3));
  }
  get keptSamples(): number {
    return this.sum(Sum.keptSamples);
  }
  get keptAgeMs(): number {
    return this.keptBytes > 0 ? this.sum(Sum.keptByteMs) / this.keptBytes : NaN;
  }
  get growthBytesPerSec(): number {
    return this.growth.growthBytesPerSec;
  }
  get growthLow(): number {
    return this.growth.growthLow;
  }
  get growthHigh(): number {
    return this.growth.growthHigh;
  }
  get tau(): number {
    return this.growth.tau;
  }
  get isOutside(): boolean {
    return this.of.outside[this.group]! > (this.sum(Sum.alloc) + this.keptBytes) / 2;
  }
  get live(): SettledLevels {
    return new SettledLevels(this.of.series, this.group, this.of.moments);
  }

  private sum(place: number): number {
    return this.of.sums[this.group * SUMS + place]!;
  }

  // Parts: bytes, their variance, objects, their variance.
  private fate(fate: Fate, part: number): number {
    return Math.max(0, ofFate(this.of.sums, this.group * SUMS + part, fate, 0));
  }
}

/** A row with a share of the growth that the verdict tells. */
export function withShare(row: ChargeFigures, growthShareRatio: number): ChargeFigures {
  return row instanceof GroupFigures ? row.withShare(growthShareRatio) : { ...row, growthShareRatio };
}

/** A row's figures as plain members, which can be copied and told. */
export function plainFigures(row: ChargeFigures): Omit<ChargeFigures, 'key' | 'heaviestPathId' | 'live'> {
  return {
    typeId: row.typeId,
    allocBytes: row.allocBytes,
    allocBytesSe: row.allocBytesSe,
    inferredBytes: row.inferredBytes,
    allocCount: row.allocCount,
    allocCountSe: row.allocCountSe,
    samples: row.samples,
    keptBytes: row.keptBytes,
    keptBytesSe: row.keptBytesSe,
    keptCount: row.keptCount,
    keptCountSe: row.keptCountSe,
    keptSamples: row.keptSamples,
    keptAgeMs: row.keptAgeMs,
    keptOfSpanBytes: row.keptOfSpanBytes,
    keptOfSpanBytesSe: row.keptOfSpanBytesSe,
    keptOfSpanCount: row.keptOfSpanCount,
    keptOfSpanCountSe: row.keptOfSpanCountSe,
    diedBytes: row.diedBytes,
    diedBytesSe: row.diedBytesSe,
    diedCount: row.diedCount,
    diedCountSe: row.diedCountSe,
    growthBytesPerSec: row.growthBytesPerSec,
    growthLow: row.growthLow,
    growthHigh: row.growthHigh,
    tau: row.tau,
    growthShareRatio: row.growthShareRatio,
    isOutside: row.isOutside,
  };
}
