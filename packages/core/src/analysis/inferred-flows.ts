import type { Span } from '../base/span.ts';
import { spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
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
 * of the share and an allowance for a mix that changed. Empty without both kinds of phase.
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
    const total = heapAllocationBytes(recording, part, heapId);
    if (total > 0) inferred.push(...shareOut({ recording, heapId, part, births }, total));
  }
  return inferred;
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

/** One survivors phase, cut to the span, and the births phase that tells its shares. */
interface Stretch {
  readonly recording: Recording;
  readonly heapId: number;
  readonly part: Span;
  readonly births: Span;
}

/**
 * What the mix of work may have changed since the births phase: half of an origin's own part, and a tenth of all that
 * came and went unseen.
 */
const OWN_PART_RATIO = 0.5;
const ANY_PART_RATIO = 0.1;

function shareOut({ recording, heapId, part, births }: Stretch, total: number): InferredFlow[] {
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
  if (all === 0) return [];
  const survivors = survivorsByOrigin(recording, heapId, part);
  // What survived is seen, under whatever path it is booked: only the rest came and went unseen, and no more than that
  // is shared out.
  const unseenTotal = Math.max(0, total - survivors.reduce((sum, each) => sum + each, 0));
  const wanted = bytes.map((each, originId) => Math.max(0, (total * each) / all - survivors[originId]!));
  const wantedTotal = wanted.reduce((sum, each) => sum + each, 0);
  if (wantedTotal === 0 || unseenTotal === 0) return [];
  const inferred: InferredFlow[] = [];
  for (let originId = 0; originId < origins.length; originId++) {
    // An origin that only survived may have come and gone as well, since its work began after the births phase.
    if (bytes[originId] === 0 && survivors[originId] === 0) continue;
    const unseen = (unseenTotal * wanted[originId]!) / wantedTotal;
    const sampled = (unseenTotal / all) * Math.sqrt(variance[originId]!);
    inferred.push({
      originId,
      ...part,
      bytes: unseen,
      seBytes: Math.hypot(sampled, OWN_PART_RATIO * unseen, ANY_PART_RATIO * unseenTotal),
    });
  }
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
