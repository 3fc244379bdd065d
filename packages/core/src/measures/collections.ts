import { z } from 'zod';
import { allocationFigures, type AllocationFigures, promotionFigures } from '../analysis/allocation.ts';
import { type CollectionCounts, countCollections } from '../analysis/collection-counts.ts';
import { costSeries, type CostSeries } from '../analysis/cost-series.ts';
import { DEFAULT_GOAL_MS, findProblems } from '../analysis/findings/find-problems.ts';
import type { Finding } from '../analysis/findings/finding.ts';
import { losesBesidePauses, lostTime, type LostTime } from '../analysis/lost-time.ts';
import { minimumMutatorUtilisation, type MmuPoint, mmuWindows } from '../analysis/mmu.ts';
import { pauseBuckets, type PauseBuckets, usualEdges } from '../analysis/pause-buckets.ts';
import { type PauseGrouping, type PauseKind, pauseKindOf, pauseKinds } from '../analysis/pause-kinds.ts';
import { type PauseSelection, programPauses } from '../analysis/program-pauses.ts';
import { type PauseFigures, rankedPauseMs, spanPauses } from '../analysis/pause-figures.ts';
import { rememberReading } from '../analysis/remember.ts';
import { collectionsByStart, placesWithin } from '../analysis/row-orders.ts';
import { findStorms } from '../analysis/storms.ts';
import { contains, type Span, spanLengthMs } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { CollectionFlag } from '../model/tables.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { RangeSums } from '../stats/range-sums.ts';
import { measure } from './measure.ts';
import { known } from './overview.ts';
import { sizeSeries, type SizeSeries } from './size-series.ts';

/** Pauses that the engineer has picked out, by what they have in common. */
export interface ChosenKind {
  readonly by: PauseGrouping;
  readonly name: string;
}

/** A kind of pauses, as it is asked for. */
export const KIND_ASK = z
  .object({ by: z.enum(['label', 'cause']), name: z.string() })
  .nullable()
  .default(null)
  .describe('pauses to pick out');

/** A finding with the first of its moments, and how many there are. */
export interface FindingTold extends Finding {
  readonly momentCount: number;
}

/** What is asked of the view "What does collecting cost?". */
export interface CollectionsAsk {
  readonly span: Span | null;
  readonly slices: number;
  /** Pauses longer than this break the goal. */
  readonly goalMs: number;
  /** Edges of the distribution's buckets; null for the usual ones. */
  readonly edgesMs: readonly number[] | null;
  readonly kind: ChosenKind | null;
}

/** What the view shows. Typed arrays are transferred. */
export interface CollectionsAnswer {
  readonly span: Span;
  readonly hasClock: boolean;
  readonly figures: PauseFigures;
  readonly counts: CollectionCounts;
  readonly kinds: readonly PauseKind[];
  readonly causes: readonly PauseKind[];
  readonly mmu: readonly MmuPoint[];
  readonly storms: readonly Span[];
  readonly findings: readonly FindingTold[];
  readonly allocation: AllocationFigures | null;
  readonly promotion: { readonly totalBytes: number; readonly bytesPerSec: number | null } | null;
  readonly goalMs: number;
  /** Pauses, and waits of single threads for memory, longer than the goal. */
  readonly overGoal: { readonly count: number; readonly waits: number; readonly totalMs: number };
  /** What was lost beside the pauses; null where the source tells of nothing else. */
  readonly lost:
    | (Pick<LostTime, 'waitedMs' | 'pacedMs' | 'otherStopsMs' | 'threads' | 'worstThread' | 'worstRatio'> & {
        readonly ratio: number;
      })
    | null;
  /**
   * Pauses in order of start, thinned by dropping the shortest: parallel columns; `pauseChosen` is 1 for one of the
   * chosen kind.
   */
  readonly pauseMs: Float64Array;
  readonly pauseDurationMs: Float64Array;
  /** Since the pause before, of the same heap, began; NaN for the first. */
  readonly pauseGapMs: Float64Array;
  readonly pauseScope: Uint8Array;
  readonly pauseChosen: Uint8Array;
  readonly pauseRow: Uint32Array;
  readonly pausesLeftOut: number;
  readonly buckets: PauseBuckets;
  readonly series: CostSeries;
  readonly sizes: readonly SizeSeries[];
  /** Time in which the collector worked beside the program, in milliseconds; null when the source tells none. */
  readonly concurrentMs: number | null;
  /** Processor time of collecting, against the time it took; null when the source tells none. */
  readonly cpu: { readonly userMs: number; readonly sysMs: number; readonly realMs: number } | null;
  /** Stops of every thread, for whatever reason; null when the source tells none. */
  readonly stops: {
    readonly count: number;
    readonly reachMs: number;
    readonly mostReachMs: number;
    readonly totalMs: number;
  } | null;
}

const MOST_PAUSES = 4000;
/** Nobody goes to more, one after the other. */
const MOST_MOMENTS = 2000;

/** Answers `collections` of a recording. */
export function collectionsOf(recording: Recording, ask: CollectionsAsk): CollectionsAnswer {
  const span = ask.span ?? wholeSpan(recording);
  const selection = programPauses(recording, span);
  const { durationMs } = selection;
  const promotion = promotionFigures(recording, span);
  const lost = recording.hasClock ? lostTime(recording, span) : null;
  const waits = waitsOver(recording, span, ask.goalMs);
  const over = pausesOver(durationMs, ask.goalMs);
  return {
    span,
    hasClock: recording.hasClock,
    figures: spanPauses(recording, span),
    counts: countCollections(recording, span),
    kinds: pauseKinds(recording, selection, span, 'label'),
    causes: pauseKinds(recording, selection, span, 'cause'),
    mmu: lost !== null ? minimumMutatorUtilisation(lost.curve, span, mmuWindows(spanLengthMs(span))) : [],
    storms: findStorms(recording, span).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
    findings: findProblems(recording, span, ask.goalMs).map(findingTold),
    allocation: allocationFigures(recording, span),
    promotion:
      promotion === null ? null : { totalBytes: promotion.totalBytes, bytesPerSec: known(promotion.bytesPerSec) },
    goalMs: ask.goalMs,
    lost:
      lost === null || !losesBesidePauses(recording)
        ? null
        : {
            ratio: lost.lostMs / spanLengthMs(span),
            waitedMs: lost.waitedMs,
            pacedMs: lost.pacedMs,
            otherStopsMs: lost.otherStopsMs,
            threads: lost.threads,
            worstThread: lost.worstThread,
            worstRatio: lost.worstRatio,
          },
    overGoal: { count: over.count + waits.length, waits: waits.length, totalMs: over.totalMs + sumOf(waits) },
    ...thinned(recording, selection, ask.kind),
    buckets: pauseBuckets(durationMs, ask.edgesMs ?? usualEdges(durationMs)),
    series: costSeries(recording, span, ask.slices),
    sizes: sizeSeries(recording, span),
    ...besideAndWithin(recording, span),
  };
}

function findingTold(finding: Finding): FindingTold {
  const { moments } = finding;
  return { ...finding, moments: moments.slice(0, MOST_MOMENTS), momentCount: moments.length };
}

function pausesOver(durationsMs: Float64Array, goalMs: number): { count: number; totalMs: number } {
  let [count, totalMs] = [0, 0];
  for (let place = 0; place < durationsMs.length; place++) {
    if (!(durationsMs[place]! > goalMs)) continue;
    totalMs += durationsMs[place]!;
    count++;
  }
  return { count, totalMs };
}

function sumOf(durationsMs: readonly number[]): number {
  let sum = 0;
  for (let at = 0; at < durationsMs.length; at++) sum += durationsMs[at]!;
  return sum;
}

function waitsOver({ tables: { stalls } }: Recording, span: Span, goalMs: number): number[] {
  const waits: number[] = [];
  for (let row = 0; row < stalls.length; row++)
    if (contains(span, stalls.col.startMs[row]!) && stalls.col.durationMs[row]! > goalMs)
      waits.push(stalls.col.durationMs[row]!);
  return waits;
}

function thinned(recording: Recording, selection: PauseSelection, kind: ChosenKind | null) {
  const places = longestOf(recording, selection, MOST_PAUSES);
  return {
    pauseMs: Float64Array.from(places, (place) => selection.startMs[place]!),
    pauseDurationMs: Float64Array.from(places, (place) => selection.durationMs[place]!),
    pauseGapMs: Float64Array.from(places, (place) => gapBefore(recording, selection, place)),
    pauseScope: Uint8Array.from(places, (place) => recording.tables.pauses.col.scope[selection.rows[place]!]!),
    pauseChosen: Uint8Array.from(places, (place) =>
      kind !== null && pauseKindOf(recording, selection.rows[place]!, kind.by) === kind.name ? 1 : 0,
    ),
    pauseRow: Uint32Array.from(places, (place) => selection.rows[place]!),
    pausesLeftOut: selection.rows.length - places.length,
  };
}

// Places of so many longest pauses, in order; of those of one length the first.
function longestOf(recording: Recording, selection: PauseSelection, most: number): Uint32Array {
  const { durationMs } = selection;
  const count = durationMs.length;
  const least = count <= most ? -Infinity : rankedPauseMs(recording, selection, count - most);
  const places = new Uint32Array(Math.min(count, most));
  let room = places.length;
  for (let place = 0; place < count; place++) if (durationMs[place]! > least) room--;
  let found = 0;
  for (let place = 0; place < count; place++)
    if (durationMs[place]! > least || (durationMs[place] === least && room-- > 0)) places[found++] = place;
  return places;
}

// Since the pause before, of the same heap, began.
function gapBefore(recording: Recording, { rows, startMs }: PauseSelection, place: number): number {
  const { heapId } = recording.tables.pauses.col;
  for (let last = place - 1; last >= 0; last--)
    if (heapId[rows[last]!] === heapId[rows[place]!]) return startMs[place]! - startMs[last]!;
  return NaN;
}

// Times that collections tell, in order of their starts.
const timeSums = rememberReading((recording) => {
  const { startMs, endMs, concurrentMs, userMs, sysMs, realMs, flags } = recording.tables.collections.col;
  const { rows } = collectionsByStart(recording);
  const besideMs = (row: number): number =>
    concurrentMs[row]! >= 0 || !(flags[row]! & CollectionFlag.concurrentCycle)
      ? concurrentMs[row]!
      : endMs[row]! - startMs[row]!;
  const summed = (amountOf: (row: number) => number): RangeSums =>
    new RangeSums(rows.length, (place) => {
      const amount = amountOf(rows[place]!);
      return amount >= 0 ? amount : NaN;
    });
  const beside = (column: Float32Array) => (row: number) => (realMs[row]! >= 0 ? column[row]! : NaN);
  return {
    concurrent: summed(besideMs),
    user: summed(beside(userMs)),
    sys: summed(beside(sysMs)),
    real: summed(beside(realMs)),
  };
});

// Times that the source may print beside its pauses.
function besideAndWithin(recording: Recording, span: Span): Pick<CollectionsAnswer, 'concurrentMs' | 'cpu' | 'stops'> {
  const { safepoints } = recording.tables;
  const sums = timeSums(recording);
  const places = placesWithin(collectionsByStart(recording), span.fromMs, span.toMs);
  const [concurrent, real] = [sums.concurrent.within(...places), sums.real.within(...places)];
  const cpu = { userMs: sums.user.within(...places).sum, sysMs: sums.sys.within(...places).sum, realMs: real.sum };
  const stops = { count: 0, reachMs: 0, mostReachMs: 0, totalMs: 0 };
  for (let row = 0; row < safepoints.length; row++) {
    if (!contains(span, safepoints.col.startMs[row]!)) continue;
    stops.count++;
    stops.reachMs += safepoints.col.reachMs[row]!;
    stops.mostReachMs = Math.max(stops.mostReachMs, safepoints.col.reachMs[row]!);
    stops.totalMs += safepoints.col.totalMs[row]!;
  }
  return {
    concurrentMs: concurrent.known === 0 ? null : concurrent.sum,
    cpu: real.known === 0 ? null : cpu,
    stops: stops.count === 0 ? null : stops,
  };
}

/** What collecting costs: pauses, kinds, causes, problems, sizes. */
export const collections = measure({
  name: 'collections',
  title: 'what collecting costs: pauses by kind and cause, findings, allocation, processor time, sizes of spaces',
  needs: 'collections',
  ask: z.strictObject({
    slices: z.number().int().min(1).max(10_000).default(120).describe('slices of time of the series'),
    goalMs: z.number().positive().default(DEFAULT_GOAL_MS).describe('pauses longer than this break the goal, in ms'),
    edgesMs: z.array(z.number()).nullable().default(null).describe('edges of the buckets of pauses, in ms'),
    kind: KIND_ASK,
  }),
  answer: (side, ask): CollectionsAnswer => collectionsOf(side.recording, { span: side.span, ...ask }),
  report: ['pauses', 'lost', 'stalls', 'safepoints', 'collections', 'findings', 'allocation', 'promotion'],
  table: {
    rows: (answer: CollectionsAnswer) => answer.kinds,
    columns: [
      { head: 'kind', cell: (row: PauseKind) => row.name },
      { head: 'pauses', cell: (row: PauseKind) => row.count },
      { head: 'together', unit: 'ms', cell: (row: PauseKind) => row.totalMs },
      { head: 'longest', unit: 'ms', cell: (row: PauseKind) => row.maxMs },
    ],
  },
});
