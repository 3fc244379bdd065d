import type { Span } from '../../base/span.ts';
import { heapsApart } from '../../model/recording-part.ts';
import type { Recording } from '../../model/recording.ts';
import { floorPoints } from '../floor.ts';
import { largestOldSpace, wholeOldSpaceRows } from '../old-space.ts';
import { findStorms } from '../storms.ts';

/** That a heap was full: nothing that its floor does from then on tells of what the program would keep. */
export interface Exhaustion {
  /** When it became full. */
  readonly fromMs: number;
  /** When the program was told that there is no more memory; NaN when it was not, or nobody said so. */
  readonly outOfMemoryMs: number;
  /** What was full. */
  readonly what: 'heap' | 'old space' | 'nothing';
  readonly heapId: number;
}

/** A floor this near the limit can rise no further. */
const AT_LIMIT_RATIO = 0.9;
/** The old space cannot take what must go there when whole collections leave it this full. */
const OLD_FULL_RATIO = 0.95;
/**
 * A heap that is this large, of its limit, cannot give its spaces more: one of two survivor spaces is in no printed
 * capacity.
 */
const WHOLE_HEAP_RATIO = 0.85;
/** Whole collections in a row that leave it so before it counts as full. */
const LEAST_FULL = 3;
/** Collections that pile up and give back less than this share show a full heap, if it is near its limit at all. */
const GAIN_RATIO = 0.05;
const NEAR_LIMIT_RATIO = 0.85;
/** Out of memory is what ended a heap when it was said so near its end. */
const AT_END_MS = 5000;

/** The first heap of a span that was full, or that was told to have no more memory; null when none was. */
export function findExhaustion(recording: Recording, span: Span): Exhaustion | null {
  const found = heapsApart(recording)
    .map((heap) => exhaustionOf(heap, span))
    .filter((each) => each !== null);
  if (found.length === 0) return null;
  const first = found.reduce((a, b) => (b.fromMs < a.fromMs ? b : a));
  // That one heap was full before does not make the end of another unsaid.
  const told = found.map((each) => each.outOfMemoryMs).filter((tMs) => !Number.isNaN(tMs));
  return { ...first, outOfMemoryMs: told.length === 0 ? NaN : Math.min(...told) };
}

function exhaustionOf(recording: Recording, span: Span): Exhaustion | null {
  const heapId = recording.chosenHeaps?.[0] ?? 0;
  const told = recording.heaps[heapId]?.outOfMemoryMs ?? NaN;
  const outOfMemoryMs = told >= span.fromMs && told <= span.toMs + AT_END_MS ? told : NaN;
  const candidates = [
    { fromMs: heapFullMs(recording, span), what: 'heap' as const },
    { fromMs: oldSpaceFullMs(recording, span), what: 'old space' as const },
    { fromMs: stormMs(recording, span), what: 'heap' as const },
    { fromMs: outOfMemoryMs, what: 'nothing' as const },
  ].filter(({ fromMs }) => !Number.isNaN(fromMs));
  const first = candidates.reduce((a, b) => (b.fromMs < a.fromMs ? b : a), candidates[0]!);
  return candidates.length === 0 ? null : { ...first, outOfMemoryMs, heapId };
}

// A limit that was given may lie anywhere: only the heap's own keeps it from rising.
function heapFullMs(recording: Recording, span: Span): number {
  const floor = floorPoints(recording, span);
  const nearly = AT_LIMIT_RATIO * recording.heapLimitBytes();
  const full = floor.bytes.findIndex((bytes) => bytes >= nearly);
  return full < 0 ? NaN : floor.tMs[full]!;
}

/**
 * When whole collections began to leave the old space full and it could not be made larger any more: three in a row. Of
 * collectors that tell how large the space is.
 */
function oldSpaceFullMs(recording: Recording, span: Span): number {
  const { spaces, collections } = recording.tables;
  const { endMs, capacityBytes } = collections.col;
  const limit = recording.heapLimitBytes();
  // Without a limit, what says that the space cannot grow is that it does not though collections pile up.
  const storms = limit > 0 ? [] : findStorms(recording, span);
  const isAtMost = (row: number): boolean =>
    limit > 0
      ? capacityBytes[row]! >= WHOLE_HEAP_RATIO * limit
      : storms.some((storm) => endMs[row]! >= storm.fromMs && endMs[row]! <= storm.toMs);
  const largest = largestOldSpace(recording);
  const rows = wholeOldSpaceRows(recording, span);
  let [since, run] = [NaN, 0];
  for (let told = 0; told < rows.length; told++) {
    const at = rows[told]!;
    const row = spaces.col.collectionRow[at]!;
    if (!(endMs[row]! >= span.fromMs && endMs[row]! <= span.toMs)) continue;
    const isFull =
      isAtMost(row) &&
      spaces.col.capacityBytes[at]! === largest &&
      spaces.col.afterBytes[at]! >= OLD_FULL_RATIO * largest;
    if (run >= LEAST_FULL && !isFull) return since;
    run = isFull ? run + 1 : 0;
    if (run === 1) since = endMs[row]!;
  }
  return run >= LEAST_FULL ? since : NaN;
}

function stormMs(recording: Recording, span: Span): number {
  const { startMs, usedBeforeBytes, usedAfterBytes, capacityBytes } = recording.tables.collections.col;
  const limit = recording.heapLimitBytes();
  const isNear = (row: number): boolean =>
    usedAfterBytes[row]! >= NEAR_LIMIT_RATIO * (limit > 0 ? limit : capacityBytes[row]!);
  for (const { rows } of findStorms(recording, span)) {
    // The first from which on the median of what each gives back is little.
    let first = -1;
    let [less, mostBelow, leastAbove] = [0, -Infinity, Infinity];
    for (let at = rows.length - 1; at >= 0; at--) {
      const row = rows[at]!;
      const gain = 1 - usedAfterBytes[row]! / usedBeforeBytes[row]!;
      if (gain < GAIN_RATIO) [less, mostBelow] = [less + 1, Math.max(mostBelow, gain)];
      else if (gain < leastAbove) leastAbove = gain;
      const half = (rows.length - at) / 2;
      const isLittle = less === half ? (mostBelow + leastAbove) / 2 < GAIN_RATIO : less > half;
      if (isLittle && isNear(row)) first = at;
    }
    if (first >= 0 && rows.length - first >= LEAST_FULL) return startMs[rows[first]!]!;
  }
  return NaN;
}
