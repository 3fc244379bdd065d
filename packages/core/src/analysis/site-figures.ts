import { firstAtOrAfter } from '../base/binary-search.ts';
import { NONE } from '../base/ids.ts';
import { contains, type Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { chargeKeys, type Charge } from '../model/charge.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { mannKendall } from '../stats/mann-kendall.ts';
import { theilSen } from '../stats/theil-sen.ts';
import { insideShare } from './allocation.ts';
import { floorPoints } from './floor.ts';
import { followedSpan, growthMoments } from './growth-moments.ts';
import { inferredFlows } from './inferred-flows.ts';
import { settleTimeMs } from './settle-time.ts';

/** One charge key's figures over a span. Bytes are estimates, `…Se` their standard errors. */
export interface SiteFigures {
  /** Frame id the allocations are charged to. */
  readonly frameId: number;
  /** The path of this key that keeps most, or allocates most when none keeps. */
  readonly heaviestPathId: number;
  readonly allocBytes: number;
  readonly allocBytesSe: number;
  /** Part of `allocBytes` that was inferred, not seen. */
  readonly inferredBytes: number;
  /** Objects; NaN when the source gives estimates of bytes only. */
  readonly allocCount: number;
  readonly samples: number;
  /** Live at the span's end and older than the settle time. */
  readonly keptBytes: number;
  readonly keptBytesSe: number;
  readonly keptSamples: number;
  /** Part of `keptBytes` that was born in the span. */
  readonly keptOfSpanBytes: number;
  readonly typeId: number;
  readonly growthBytesPerSec: number;
  readonly growthLow: number;
  readonly growthHigh: number;
  /** Kendall's τ of the live series: its steadiness. */
  readonly tau: number;
  /** Share in the sum of all positive growths. */
  readonly growthShareRatio: number;
  /** Settled live bytes at each of `momentsMs`. */
  readonly liveBytes: Float64Array;
}

export interface SiteTable {
  readonly sites: readonly SiteFigures[];
  readonly momentsMs: Float64Array;
  readonly settleMs: number;
  /** Objects live at the end that are too young to be called kept. */
  readonly recentLeftOut: number;
  /** Stretch over which objects were followed; null when none were. */
  readonly followed: Span | null;
}

interface Sums {
  allocBytes: number;
  allocVariance: number;
  inferredBytes: number;
  allocCount: number;
  samples: number;
  keptBytes: number;
  keptVariance: number;
  keptSamples: number;
  keptOfSpanBytes: number;
  typeId: number;
  heaviestPathId: number;
  heaviestBytes: number;
  live: Float64Array;
}

/**
 * Figures of every charge key in the span, ranked by the lower bound of their growth, then by bytes allocated. Growth is
 * the Theil–Sen slope of settled live bytes at the floor's points. One pass over objects and flows, then O(m²) a key for
 * m moments.
 */
export function siteTable(recording: Recording, span: Span, charge: Charge): SiteTable {
  const followed = followedSpan(recording, span);
  const settleMs = settleTimeMs(recording, span);
  const momentsMs = followed === null ? new Float64Array(0) : growthMoments(floorPoints(recording, span), followed, settleMs);
  const keys = chargeKeys(recording, charge);
  const sums = new Map<number, Sums>();
  // Rows look their path up in an array; the map of keys is asked once a path.
  const byPath = new Array<Sums | undefined>(recording.tables.paths.length);
  const sumsOf = (pathId: number): Sums => {
    const known = byPath[pathId];
    if (known !== undefined) return known;
    const key = pathId === NONE ? NONE : keys[pathId]!;
    let found = sums.get(key);
    if (found === undefined) sums.set(key, (found = blankSums(momentsMs.length)));
    if (pathId !== NONE) byPath[pathId] = found;
    return found;
  };
  const recentLeftOut = addObjects({ recording, span, momentsMs, settleMs, sumsOf });
  addFlows(recording, span, sumsOf);
  const sites = [...sums].map(([frameId, sum]) => finish(frameId, sum, momentsMs));
  const positive = sites.reduce((total, site) => total + Math.max(0, site.growthBytesPerSec || 0), 0);
  const shared = sites.map((site) => ({ ...site, growthShareRatio: positive > 0 ? Math.max(0, site.growthBytesPerSec || 0) / positive : 0 }));
  return { sites: shared.sort(byGrowth), momentsMs, settleMs, recentLeftOut, followed };
}

function blankSums(moments: number): Sums {
  return {
    allocBytes: 0, allocVariance: 0, inferredBytes: 0, allocCount: 0, samples: 0, keptBytes: 0, keptVariance: 0,
    keptSamples: 0, keptOfSpanBytes: 0, typeId: NONE, heaviestPathId: NONE, heaviestBytes: -1, live: new Float64Array(moments + 1),
  };
}

/** What a pass over the objects needs beside their columns. */
interface ObjectPass {
  readonly recording: Recording;
  readonly span: Span;
  readonly momentsMs: Float64Array;
  readonly settleMs: number;
  readonly sumsOf: (pathId: number) => Sums;
}

/** One pass over the objects. Answers how many are live at the span's end and too young to be called kept. */
function addObjects({ recording, span, momentsMs, settleMs, sumsOf }: ObjectPass): number {
  const { bornMs, diedMs, lostMs, sizeBytes, probability, pathId, typeId } = recording.tables.objects.col;
  const pathKept = new Float64Array(recording.tables.paths.length);
  let recent = 0;
  for (let row = 0; row < recording.tables.objects.length; row++) {
    const born = bornMs[row]!;
    if (born >= span.toMs) continue;
    const path = pathId[row]!;
    const sum = sumsOf(path);
    const bytes = estimatedBytes(sizeBytes[row]!, probability[row]!);
    const variance = bytesVariance(sizeBytes[row]!, probability[row]!);
    const end = endOf(diedMs[row]!, lostMs[row]!);
    if (sum.typeId === NONE) sum.typeId = typeId[row]!;
    if (sum.heaviestPathId === NONE) sum.heaviestPathId = path;
    if (contains(span, born)) addBirth(sum, bytes, variance, probability[row]!);
    if (end >= span.toMs && span.toMs - born < settleMs) recent++;
    else if (end >= span.toMs) {
      addKept(sum, bytes, variance, contains(span, born));
      if (path !== NONE) preferKeptPath(sum, path, pathKept[path]! += bytes);
    }
    const first = firstAtOrAfter(momentsMs, born + settleMs);
    const last = firstAtOrAfter(momentsMs, end);
    if (first < last) {
      sum.live[first]! += bytes;
      sum.live[last]! -= bytes;
    }
  }
  return recent;
}

function addBirth(sum: Sums, bytes: number, variance: number, probability: number): void {
  sum.allocBytes += bytes;
  sum.allocVariance += variance;
  sum.allocCount += 1 / probability;
  sum.samples++;
}

function addKept(sum: Sums, bytes: number, variance: number, bornInSpan: boolean): void {
  sum.keptBytes += bytes;
  sum.keptVariance += variance;
  sum.keptSamples++;
  if (bornInSpan) sum.keptOfSpanBytes += bytes;
}

function preferKeptPath(sum: Sums, pathId: number, keptBytes: number): void {
  if (keptBytes <= sum.heaviestBytes) return;
  sum.heaviestBytes = keptBytes;
  sum.heaviestPathId = pathId;
}

function endOf(diedMs: number, lostMs: number): number {
  if (!Number.isNaN(diedMs)) return diedMs;
  return Number.isNaN(lostMs) ? Infinity : lostMs;
}

function addFlows(recording: Recording, span: Span, sumsOf: (pathId: number) => Sums): void {
  const { flows } = recording.tables;
  for (let row = 0; row < flows.length; row++) {
    const share = insideShare(flows.col.fromMs[row]!, flows.col.toMs[row]!, span);
    if (share === 0) continue;
    const sum = sumsOf(flows.col.pathId[row]!);
    sum.allocBytes += share * flows.col.bytes[row]!;
    sum.allocVariance += (share * flows.col.seBytes[row]!) ** 2;
    sum.allocCount += share * flows.col.count[row]!;
    preferPath(sum, flows.col.pathId[row]!, flows.col.bytes[row]!);
  }
  for (const flow of inferredFlows(recording, span)) {
    const sum = sumsOf(flow.pathId);
    sum.allocBytes += flow.bytes;
    sum.inferredBytes += flow.bytes;
    sum.allocVariance += flow.seBytes ** 2;
    preferPath(sum, flow.pathId, flow.bytes);
  }
}

// A path that keeps bytes stays the one to show; among the others the one that allocates most.
function preferPath(sum: Sums, pathId: number, bytes: number): void {
  if (sum.keptSamples > 0 || bytes <= sum.heaviestBytes) return;
  sum.heaviestBytes = bytes;
  sum.heaviestPathId = pathId;
}

function finish(frameId: number, sum: Sums, momentsMs: Float64Array): SiteFigures {
  const moments = momentsMs.length;
  for (let moment = 1; moment < moments; moment++) sum.live[moment]! += sum.live[moment - 1]!;
  const liveBytes = sum.live.slice(0, moments);
  const seconds = momentsMs.map((t) => t / 1000);
  const kept = liveBytes.some((bytes) => bytes > 0);
  const line = kept ? theilSen(seconds, liveBytes) : null;
  const test = kept ? mannKendall(seconds, liveBytes) : null;
  const slope = line?.kind === 'slope' ? line : { slope: 0, low: 0, high: 0 };
  return {
    frameId, heaviestPathId: sum.heaviestPathId,
    allocBytes: sum.allocBytes, allocBytesSe: Math.sqrt(sum.allocVariance), inferredBytes: sum.inferredBytes,
    allocCount: sum.allocCount, samples: sum.samples,
    keptBytes: sum.keptBytes, keptBytesSe: Math.sqrt(sum.keptVariance), keptSamples: sum.keptSamples,
    keptOfSpanBytes: sum.keptOfSpanBytes, typeId: sum.typeId,
    growthBytesPerSec: slope.slope, growthLow: slope.low, growthHigh: slope.high,
    tau: test?.kind === 'trend-test' ? test.tau : 0,
    growthShareRatio: 0, liveBytes,
  };
}

function byGrowth(a: SiteFigures, b: SiteFigures): number {
  const grow = Math.max(0, b.growthLow) - Math.max(0, a.growthLow);
  if (grow !== 0 && Number.isFinite(grow)) return grow;
  return b.keptBytes - a.keptBytes || b.allocBytes - a.allocBytes;
}
