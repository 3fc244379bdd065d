import { firstAtOrAfter } from '../../base/binary-search.ts';
import type { Span } from '../../base/span.ts';
import { NONE } from '../../base/ids.ts';
import { chargeGroups, chargeText } from '../../model/charge.ts';
import { onHeap } from '../../model/space.ts';
import type { Recording } from '../../model/recording.ts';
import { bytesVariance, estimatedBytes } from '../../stats/horvitz-thompson.ts';
import { allocationFigures } from '../allocation.ts';
import type { ChargeTable } from '../charge-table.ts';
import { floorPoints } from '../floor.ts';
import { hasEnded } from '../heap-lives.ts';
import { spanPauses } from '../pause-figures.ts';
import { repeatedMarks, roundMarks } from '../rounds.ts';
import { usedAfterSeries, usedSeries } from '../used-series.ts';
import { judgeSeries } from './judge-series.ts';
import type { Verdict } from './verdict.ts';

/**
 * What can be said of the run of a program that ended, whether or not its memory can be called steady: the peak, what
 * was churned, and the cost.
 */
export interface RunSummary {
  readonly lengthMs: number;
  readonly endedMs: number;
  readonly outOfMemory: boolean;
  /** The most that was used after a collection, or at all where no collection tells; NaN where nothing does. */
  readonly peakMs: number;
  readonly peakBytes: number;
  /**
   * What was seen to live then, by own frame, the most first: at most five. Shares are of all that was seen to live.
   */
  readonly peakSites: readonly {
    readonly site: string;
    readonly bytes: number;
    readonly bytesSe: number;
    readonly shareRatio: number;
  }[];
  /** Bytes allocated, NaN where nobody tells; and how many of them were seen to die. */
  readonly allocatedBytes: number;
  readonly allocatedLowerBound: boolean;
  readonly churnedBytes: number;
  readonly churnSites: readonly { readonly site: string; readonly bytes: number; readonly shareRatio: number }[];
  /** Share of the time that the collector stopped the program for; NaN where it is not told. */
  readonly collectingRatio: number;
  /** Whether the floor kept rising as long as the program ran. */
  readonly rose: 'yes' | 'no' | 'unclear';
  /**
   * What the floor rose by for each mark of the label that repeats most; null where none does, or it is not sure to
   * rise.
   */
  readonly perMark: {
    readonly label: string;
    readonly marks: number;
    readonly bytesPerMark: number;
    readonly low: number;
    readonly high: number;
  } | null;
}

const MOST_SITES = 5;
const LEAST_MARKS = 8;

/**
 * Sums up a run that ended; null while any of its heaps has not said so. `table` has its allocations by own frame, null
 * where none was seen.
 */
export function runSummary(
  recording: Recording,
  span: Span,
  verdict: Pick<Verdict, 'kind' | 'exhaustion'>,
  table: ChargeTable | null,
): RunSummary | null {
  if (!hasEnded(recording) || !recording.hasClock) return null;
  const endedMs = recording.heaps.reduce((last, heap) => Math.max(last, heap.endMs), 0);
  const peak = highest(recording, span);
  const allocation = allocationFigures(recording, span);
  const collecting = spanPauses(recording, span).throughputRatio;
  return {
    lengthMs: endedMs - span.fromMs,
    endedMs,
    outOfMemory: recording.heaps.some((heap) => !Number.isNaN(heap.outOfMemoryMs)),
    ...peak,
    peakSites: Number.isNaN(peak.peakMs) ? [] : livingAt(recording, peak),
    allocatedBytes: allocation?.totalBytes ?? NaN,
    allocatedLowerBound: allocation?.lowerBound ?? false,
    ...churn(recording, table),
    collectingRatio: 1 - collecting,
    rose:
      verdict.kind === 'growing' || verdict.kind === 'stepping' ? 'yes' : verdict.kind === 'unclear' ? 'unclear' : 'no',
    perMark: perMark(recording, span),
  };
}

function highest(recording: Recording, span: Span): { peakMs: number; peakBytes: number } {
  const after = usedAfterSeries(recording);
  const series = after.bytes.length > 0 ? after : usedSeries(recording);
  let best = -1;
  for (let at = firstAtOrAfter(series.tMs, span.fromMs); at < series.bytes.length && series.tMs[at]! <= span.toMs; at++)
    if (best < 0 || series.bytes[at]! > series.bytes[best]!) best = at;
  return best < 0 ? { peakMs: NaN, peakBytes: NaN } : { peakMs: series.tMs[best]!, peakBytes: series.bytes[best]! };
}

// One pass over the objects. Shares are of the whole heap: what is not followed is nobody's.
function livingAt(
  recording: Recording,
  { peakMs: tMs, peakBytes }: { peakMs: number; peakBytes: number },
): RunSummary['peakSites'] {
  const {
    length,
    col: { bornMs, endMs, originId, sizeBytes, probability },
  } = recording.tables.objects;
  const { groupOf, keys } = chargeGroups(recording, 'ownFrame');
  const chosen = onHeap(recording, null);
  const bytes = new Float64Array(keys.length);
  const variance = new Float64Array(keys.length);
  let all = 0;
  for (let row = 0; row < length; row++) {
    if (bornMs[row]! > tMs || endMs[row]! <= tMs || (chosen !== null && chosen[originId[row]!] !== 1)) continue;
    const estimate = estimatedBytes(sizeBytes[row]!, probability[row]!);
    bytes[groupOf[originId[row]!]!]! += estimate;
    variance[groupOf[originId[row]!]!]! += bytesVariance(sizeBytes[row]!, probability[row]!);
    all += estimate;
  }
  const order = Uint32Array.from(keys, (_, group) => group).sort((a, b) => bytes[b]! - bytes[a]!);
  return Array.from(order.subarray(0, MOST_SITES))
    .filter((group) => bytes[group]! > 0 && keys[group] !== NONE)
    .map((group) => ({
      site: chargeText(recording, 'ownFrame', keys[group]!),
      bytes: bytes[group]!,
      bytesSe: Math.sqrt(variance[group]!),
      shareRatio: bytes[group]! / Math.max(all, peakBytes),
    }));
}

function churn(recording: Recording, table: ChargeTable | null): Pick<RunSummary, 'churnedBytes' | 'churnSites'> {
  const rows = [...(table?.rows ?? [])]
    .filter((row) => row.key !== NONE && !row.isOutside)
    .sort((a, b) => b.diedBytes - a.diedBytes);
  const all = rows.reduce((sum, row) => sum + row.diedBytes, 0);
  return {
    churnedBytes: table === null ? NaN : all,
    churnSites: rows
      .slice(0, MOST_SITES)
      .filter((row) => row.diedBytes > 0)
      .map((row) => ({
        site: chargeText(recording, 'ownFrame', row.key),
        bytes: row.diedBytes,
        shareRatio: row.diedBytes / all,
      })),
  };
}

// The floor against the number of marks before it: work done, where the program tells of it.
function perMark(recording: Recording, span: Span): RunSummary['perMark'] {
  const label = repeatedMarks(recording, span)[0];
  if (label === undefined || label.times < LEAST_MARKS) return null;
  const marksMs = roundMarks(recording, span, label.label);
  const floor = floorPoints(recording, span);
  let mark = 0;
  const done = floor.tMs.map((tMs) => {
    while (mark < marksMs.length && marksMs[mark]! <= tMs) mark++;
    return mark * 1000;
  });
  const judged = judgeSeries({ tMs: done, bytes: floor.bytes });
  if (judged.kind !== 'growing' && judged.kind !== 'stepping') return null;
  return {
    label: label.label,
    marks: label.times,
    bytesPerMark: judged.slopeBytesPerSec,
    low: judged.slopeLow,
    high: judged.slopeHigh,
  };
}
