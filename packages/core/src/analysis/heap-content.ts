import { contains, type Span } from '../base/span.ts';
import { chargeGroups, type Charge, type OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';
import { bytesVariance, estimatedBytes } from '../stats/horvitz-thompson.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { ObjectIndex } from './object-index.ts';
import { bandOf, MOST_BANDS } from './strata.ts';

/**
 * What lives under one key at a moment. Bytes are estimates, `…Se` their standard error; counts NaN where the source
 * gives bytes only.
 */
export interface LivePart {
  /** A frame, string or heap id as the charge says; for bands, the band from the oldest. */
  readonly key: number;
  readonly bytes: number;
  readonly bytesSe: number;
  readonly count: number;
  readonly samples: number;
}

/** The heap's content at a moment, rebuilt from the events. */
export interface HeapContent {
  readonly tMs: number;
  /** False when no object was followed at that moment, so that nothing can be said. */
  readonly followed: boolean;
  readonly total: LivePart;
  /** By key, the largest first. */
  readonly parts: readonly LivePart[];
  /** By birth band, the oldest first; bands without anything are left out. */
  readonly bands: readonly LivePart[];
}

/** Which objects of a moment are looked at. */
export interface ContentChoice {
  readonly chosen?: OriginChoice;
  /** Only objects of this birth band. */
  readonly band?: number | null;
}

/** Rebuilds what lived at a moment: born by then, and not known to have died by then. */
export function heapContent(index: ObjectIndex, tMs: number, charge: Charge, choice: ContentChoice = {}): HeapContent {
  const { recording } = index;
  const { groupOf, keys } = chargeGroups(recording, charge);
  const byKey = new LiveSums(keys.length);
  const byBand = new LiveSums(MOST_BANDS);
  const all = new LiveSums(1);
  const { chosen = null, band: wanted = null } = choice;
  index.eachLiving(tMs, tMs, ({ bornMs, originId, sizeBytes, probability }, at) => {
    const origin = originId[at]!;
    if (chosen !== null && chosen[origin] !== 1) return;
    const band = bandOf(recording, bornMs[at]!);
    if (wanted !== null && band !== wanted) return;
    byKey.add(groupOf[origin]!, sizeBytes[at]!, probability[at]!);
    byBand.add(band, sizeBytes[at]!, probability[at]!);
    all.add(0, sizeBytes[at]!, probability[at]!);
  });
  return {
    tMs,
    followed: isFollowed(recording, tMs),
    total: all.part(0, 0),
    parts: byKey.parts(keys).sort((a, b) => b.bytes - a.bytes),
    bands: byBand.parts(Uint32Array.from({ length: MOST_BANDS }, (_, band) => band)),
  };
}

/** How the content under one key, or of one band, differs between two moments. */
export interface ContentChange {
  readonly key: number;
  readonly beforeBytes: number;
  readonly afterBytes: number;
  /** What lives at both, what lived at the first alone, and what at the second alone. */
  readonly bothBytes: number;
  readonly wentBytes: number;
  readonly cameBytes: number;
  /** Standard error of the difference: what lives at both moments adds none. */
  readonly changeSe: number;
  /** Objects gained less objects gone; NaN where the source gives bytes only. */
  readonly changeCount: number;
  /** True when the difference is more than 1.96 times its error. */
  readonly isClear: boolean;
}

/**
 * What changed from one moment to a later one, by key or by the band of birth, the largest growth first. Objects that
 * live at both cancel out, so the error is that of those that came or went.
 */
export function contentChange(
  index: ObjectIndex,
  beforeMs: number,
  afterMs: number,
  by: Charge | 'band',
  chosen: OriginChoice = null,
): ContentChange[] {
  const { recording } = index;
  const bands = by === 'band' ? Uint32Array.from({ length: MOST_BANDS }, (_, band) => band) : null;
  const { groupOf, keys } =
    bands === null ? chargeGroups(recording, by as Charge) : { groupOf: new Uint32Array(0), keys: bands };
  const [both, gone, come] = [new LiveSums(keys.length), new LiveSums(keys.length), new LiveSums(keys.length)];
  index.eachLiving(beforeMs, afterMs, ({ bornMs, endMs, originId, sizeBytes, probability }, at) => {
    const origin = originId[at]!;
    if (chosen !== null && chosen[origin] !== 1) return;
    const group = bands === null ? groupOf[origin]! : bandOf(recording, bornMs[at]!);
    const sums = bornMs[at]! > beforeMs ? come : endMs[at]! <= afterMs ? gone : both;
    sums.add(group, sizeBytes[at]!, probability[at]!);
  });
  const changes: ContentChange[] = [];
  for (let group = 0; group < keys.length; group++) {
    if (both.samples[group]! + gone.samples[group]! + come.samples[group]! === 0) continue;
    const changeSe = Math.sqrt(gone.variance[group]! + come.variance[group]!);
    const change = come.bytes[group]! - gone.bytes[group]!;
    changes.push({
      key: keys[group]!,
      beforeBytes: both.bytes[group]! + gone.bytes[group]!,
      afterBytes: both.bytes[group]! + come.bytes[group]!,
      bothBytes: both.bytes[group]!,
      wentBytes: gone.bytes[group]!,
      cameBytes: come.bytes[group]!,
      changeSe,
      changeCount: come.count[group]! - gone.count[group]!,
      isClear: change !== 0 && Math.abs(change) > Z_95 * changeSe,
    });
  }
  return changes.sort((a, b) => b.afterBytes - b.beforeBytes - (a.afterBytes - a.beforeBytes));
}

/** True when single objects were followed at the instant, whole or as survivors. */
export function isFollowed(recording: Recording, tMs: number): boolean {
  const { length, col } = recording.tables.phases;
  for (let row = 0; row < length; row++) {
    const phase: Span = { fromMs: col.fromMs[row]!, toMs: Number.isNaN(col.toMs[row]!) ? Infinity : col.toMs[row]! };
    if (col.kind[row] !== PhaseKind.births && col.kind[row] !== PhaseKind.blind && contains(phase, tMs)) return true;
  }
  return false;
}

/** The stretch around an instant in which objects were followed without a break; null where they were not. */
export function followedAround(recording: Recording, tMs: number): Span | null {
  const { length, col } = recording.tables.phases;
  const ends = (row: number): number => (Number.isNaN(col.toMs[row]!) ? Infinity : col.toMs[row]!);
  const follows = (row: number): boolean => col.kind[row] !== PhaseKind.births && col.kind[row] !== PhaseKind.blind;
  for (let row = 0; row < length; row++) {
    if (!follows(row) || tMs < col.fromMs[row]! || tMs >= ends(row)) continue;
    let [fromMs, toMs] = [col.fromMs[row]!, ends(row)];
    // Watching births or not, what was followed before still is: only other phases begin anew.
    const goesOn = (next: number): boolean =>
      col.kind[next] === PhaseKind.objects || col.kind[next] === PhaseKind.deaths;
    for (let next = row + 1; next < length; next++)
      if (col.heapId[next] === col.heapId[row] && col.fromMs[next] === toMs && goesOn(next)) toMs = ends(next);
    for (let before = row - 1; before >= 0; before--)
      if (col.heapId[before] === col.heapId[row] && ends(before) === fromMs && follows(before) && goesOn(before + 1))
        fromMs = col.fromMs[before]!;
    return { fromMs, toMs };
  }
  return null;
}

/** Sums of live objects by group. */
class LiveSums {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  readonly count: Float64Array;
  readonly samples: Float64Array;

  constructor(groups: number) {
    this.bytes = new Float64Array(groups);
    this.variance = new Float64Array(groups);
    this.count = new Float64Array(groups);
    this.samples = new Float64Array(groups);
  }

  add(group: number, sizeBytes: number, probability: number): void {
    this.bytes[group]! += estimatedBytes(sizeBytes, probability);
    this.variance[group]! += bytesVariance(sizeBytes, probability);
    this.count[group]! += 1 / probability;
    this.samples[group]!++;
  }

  part(group: number, key: number): LivePart {
    return {
      key,
      bytes: this.bytes[group]!,
      bytesSe: Math.sqrt(this.variance[group]!),
      count: this.count[group]!,
      samples: this.samples[group]!,
    };
  }

  /** Parts of the groups that hold anything. */
  parts(keys: Uint32Array): LivePart[] {
    return Array.from(keys, (key, group) => this.part(group, key)).filter((part) => part.samples > 0);
  }
}
