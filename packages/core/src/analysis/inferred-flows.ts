import { NONE } from '../base/ids.ts';
import type { Span } from '../base/span.ts';
import { spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { originNotSeen } from '../model/not-seen.ts';
import { PhaseKind } from '../model/tables.ts';
import { estimatedBytes } from '../stats/horvitz-thompson.ts';
import { heapAllocationBytes } from './allocation.ts';

/** Short-lived bytes of an origin that no sample could show, worked out from its share while every birth was seen. */
export interface InferredFlow {
  readonly originId: number;
  /** Stretch over which they came and went. */
  readonly fromMs: number;
  readonly toMs: number;
  readonly bytes: number;
  readonly seBytes: number;
}

/**
 * Where the source can only see survivors, the bytes of an origin that came and went unseen: (all bytes allocated in
 * the span's survivors phases less all survivors), shared out by (its share in the births phase right before less its
 * survivors, never below 0). An estimate that holds while the program's mix of work stays the same; its error has that
 * of the share and an allowance for a mix that changed. Where the program allocates far faster than in the births
 * phase, it does something else as well: what is beyond belongs to nobody who is known (`NOT_SEEN`), and may be
 * anybody's, which the errors say. Empty without both kinds of phase.
 */
export function inferredFlows(recording: Recording, span: Span): InferredFlow[] {
  const { phases } = recording.tables;
  const inferred: InferredFlow[] = [];
  for (let row = 0; row < phases.length; row++) {
    if (phases.col.kind[row] !== PhaseKind.survivors) continue;
    const fromMs = phases.col.fromMs[row]!;
    const toMs = Number.isNaN(phases.col.toMs[row]!) ? recording.durationMs : phases.col.toMs[row]!;
    const part = { fromMs: Math.max(span.fromMs, fromMs), toMs: Math.min(span.toMs, toMs) };
    const heapId = phases.col.heapId[row]!;
    const births = birthsBefore(recording, heapId, fromMs);
    if (spanLengthMs(part) <= 0 || births === null) continue;
    inferred.push(...shareOut({ recording, heapId, part, births, survivors: { fromMs, toMs } }));
  }
  return inferred;
}

/**
 * Variance of all that was inferred of a span, as if each origin's error were by itself: together they add up to what
 * is known to have been allocated, so that a sum over all of them has none of it.
 */
export function inferredVariance(recording: Recording, span: Span): number {
  return inferredFlows(recording, span).reduce((sum, { seBytes }) => sum + seBytes ** 2, 0);
}

// The last births phase of the heap that ended by then: an earlier one may have watched the program start.
function birthsBefore(recording: Recording, heapId: number, tMs: number): Span | null {
  const { kind, heapId: heaps, fromMs, toMs } = recording.tables.phases.col;
  let last: Span | null = null;
  for (let row = 0; row < recording.tables.phases.length; row++) {
    if (kind[row] === PhaseKind.births && heaps[row] === heapId && toMs[row]! <= tMs)
      last = { fromMs: fromMs[row]!, toMs: toMs[row]! };
  }
  return last;
}

/** One survivors phase, whole and cut to the span, and the births phase that tells its shares. */
interface Stretch {
  readonly recording: Recording;
  readonly heapId: number;
  readonly part: Span;
  readonly survivors: Span;
  readonly births: Span;
}

/**
 * What the mix of work may have changed since the births phase: half of an origin's own part, and a tenth of all that
 * came and went unseen.
 */
const OWN_PART_RATIO = 0.5;
const ANY_PART_RATIO = 0.1;
/** A program that allocates so many times faster than in the births phase does other work than it did then. */
const SAME_WORK_RATIO = 1.5;
/** Of what is beyond that any origin may have all or nothing: within 1.96 of these standard errors. */
const BEYOND_RATIO = 0.6;

/** What the births phase saw, by origin. */
interface BirthsSeen {
  readonly bytes: Float64Array;
  readonly variance: Float64Array;
  readonly all: number;
}

function birthsSeen({ recording, heapId, births }: Stretch): BirthsSeen {
  const { flows, origins } = recording.tables;
  const bytes = new Float64Array(origins.length);
  const variance = new Float64Array(origins.length);
  let all = 0;
  for (let row = 0; row < flows.length; row++) {
    const originId = flows.col.originId[row]!;
    if (
      origins.col.heapId[originId] !== heapId ||
      flows.col.fromMs[row]! < births.fromMs ||
      flows.col.toMs[row]! > births.toMs
    )
      continue;
    bytes[originId]! += flows.col.bytes[row]!;
    variance[originId]! += flows.col.seBytes[row]! ** 2;
    all += flows.col.bytes[row]!;
  }
  return { bytes, variance, all };
}

// In windows as long as the births phase, since work that comes in bursts is told by nothing shorter; they are the
// phase's own, so that parts of it add up.
function beyondTheSameWork({ recording, heapId, part, survivors, births }: Stretch, all: number): number {
  const lengthMs = spanLengthMs(births);
  const windows = Math.max(1, Math.floor(spanLengthMs(survivors) / lengthMs));
  const windowOf = (tMs: number): number => Math.min(windows - 1, Math.floor((tMs - survivors.fromMs) / lengthMs));
  let beyond = 0;
  for (let window = windowOf(part.fromMs); window <= windowOf(part.toMs); window++) {
    const fromMs = survivors.fromMs + window * lengthMs;
    const toMs = window === windows - 1 ? survivors.toMs : fromMs + lengthMs;
    const total = heapAllocationBytes(recording, { fromMs, toMs }, heapId);
    const most = (SAME_WORK_RATIO * all * (toMs - fromMs)) / lengthMs;
    if (total <= most) continue;
    const inside = { fromMs: Math.max(part.fromMs, fromMs), toMs: Math.min(part.toMs, toMs) };
    beyond += heapAllocationBytes(recording, inside, heapId) * (1 - most / total);
  }
  return beyond;
}

function shareOut(stretch: Stretch): InferredFlow[] {
  const { recording, heapId, part } = stretch;
  const { origins } = recording.tables;
  const total = heapAllocationBytes(recording, part, heapId);
  const { bytes, variance, all } = birthsSeen(stretch);
  if (all === 0 || total <= 0) return [];
  const survivors = survivorsByOrigin(recording, heapId, part);
  // What survived is seen, under whatever path it is booked: only the rest came and went unseen, and no more than that
  // is shared out.
  const unseenTotal = Math.max(0, total - survivors.reduce((sum, each) => sum + each, 0));
  const beyond = Math.min(unseenTotal, beyondTheSameWork(stretch, all));
  const wanted = bytes.map((each, originId) => Math.max(0, ((total - beyond) * each) / all - survivors[originId]!));
  const wantedTotal = wanted.reduce((sum, each) => sum + each, 0);
  const shared = wantedTotal === 0 ? 0 : unseenTotal - beyond;
  if (shared + beyond === 0) return [];
  const inferred: InferredFlow[] = [];
  for (let originId = 0; originId < origins.length; originId++) {
    // An origin that only survived may have come and gone as well, since its work began after the births phase.
    if (bytes[originId] === 0 && survivors[originId] === 0) continue;
    const unseen = shared === 0 ? 0 : (shared * wanted[originId]!) / wantedTotal;
    const sampled = (shared / all) * Math.sqrt(variance[originId]!);
    inferred.push({
      originId,
      ...part,
      bytes: unseen,
      seBytes: Math.hypot(sampled, OWN_PART_RATIO * unseen, ANY_PART_RATIO * unseenTotal, BEYOND_RATIO * beyond),
    });
  }
  const nobody = originNotSeen(recording, heapId);
  if (beyond > 0 && nobody !== NONE)
    inferred.push({ originId: nobody, ...part, bytes: beyond, seBytes: ANY_PART_RATIO * unseenTotal });
  return inferred;
}

function survivorsByOrigin(recording: Recording, heapId: number, span: Span): Float64Array {
  const { objects, origins } = recording.tables;
  const { bornMs, originId, sizeBytes, probability } = objects.col;
  const bytes = new Float64Array(origins.length);
  for (let row = 0; row < objects.length; row++) {
    const born = bornMs[row]!;
    if (born >= span.fromMs && born < span.toMs && origins.col.heapId[originId[row]!] === heapId)
      bytes[originId[row]!]! += estimatedBytes(sizeBytes[row]!, probability[row]!);
  }
  return bytes;
}
