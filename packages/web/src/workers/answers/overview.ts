import {
  allocationFigures,
  contains,
  countCollections,
  findProblems,
  findStorms,
  formatClock,
  isRising,
  losesBesidePauses,
  lostTime,
  pauseFigures,
  pausesAreTold,
  programPauses,
  runSummary,
  samplesSeen,
  sentence,
  silences,
  spanLengthMs,
  thinningInWords,
  verdictClauses,
  chargeText,
  usedSeries,
  NONE,
  PhaseKind,
  type Charge,
  type ChargeTable,
  type Clause,
  type InputIssue,
  type Recording,
  type SourceNote,
  type Span,
  type VerdictKind,
} from '@brisk-heron/core';
import { chargesOf } from './key-words.ts';
import { WHOLE, type Evidence, type Look } from './evidence.ts';

/** What the verdict line and the question rail say of a span. Null where nothing is known. */
export interface Overview {
  readonly program: string;
  readonly runtime: string;
  readonly format: string;
  readonly collector: string;
  /** Names of all heaps, and those looked at; null for all of them. */
  readonly heaps: readonly string[];
  readonly chosenHeaps: readonly number[] | null;
  /** What allocations can be charged to. */
  readonly charges: readonly Charge[];
  /** Rules for own code in force; empty for the usual ones. */
  readonly ownRules: readonly string[];
  readonly samplingIntervalBytes: number | null;
  readonly startEpochMs: number;
  readonly durationMs: number;
  readonly span: Span;
  readonly verdict: VerdictKind;
  readonly clauses: readonly Clause[];
  readonly growthBytesPerSec: number | null;
  /** Growth of what lies outside the heap; null where it does not grow, or is not told. */
  readonly outsideBytesPerSec: number | null;
  readonly throughputRatio: number | null;
  /** Share of the time that was lost, waits of threads included, at least; null when nothing tells. */
  readonly lostRatio: number | null;
  readonly longestPauseMs: number | null;
  readonly pauses: number;
  /** False when the source tells collections and none of their pauses. */
  readonly pausesTold: boolean;
  readonly collections: number;
  readonly storms: number;
  /** Problems found in collecting, with the moments in which they hold, at most a few hundred each. */
  readonly findings: readonly { readonly code: string; readonly sentence: string; readonly moments: readonly Span[] }[];
  readonly allocBytesPerSec: number | null;
  readonly allocLowerBound: boolean;
  readonly leadingAllocator: string | null;
  readonly leadingAllocatorRatio: number;
  readonly objects: number;
  /** Lines of the ledger in the span: objects seen to be born, collections, marks. */
  readonly events: number;
  readonly usedNowBytes: number | null;
  /** Share of the whole time that the recorder's polls took; null when it never polled. */
  readonly pollTimeRatio: number | null;
  readonly polls: number;
  /**
   * How births are watched: all the time (Node), in phases between survivors (Node without the addon), always or not at
   * all just now (JVM); null when not recorded.
   */
  readonly births: 'all' | 'phases' | 'on' | 'off' | null;
  /**
   * Share of the samples that were looked at one by one, and of the whole time that looking took; null where the source
   * does not say.
   */
  readonly seenRatio: number | null;
  readonly readTimeRatio: number | null;
  /** Stretches in which nothing was heard of a heap, in words. */
  readonly silences: readonly string[];
  /** What of the input is not here, in words; '' where all is. */
  readonly missing: string;
  readonly notes: readonly SourceNote[];
  readonly issues: { readonly count: number; readonly first: readonly InputIssue[] };
}

const MOST_MOMENTS = 300;

export function overviewOf(evidence: Evidence, look: Look = WHOLE): Overview {
  const { recording } = evidence;
  const span = evidence.spanOf(look);
  const verdict = evidence.verdict(look);
  const observed = recording.tables.objects.length + recording.tables.flows.length > 0;
  const table = observed ? evidence.table({ ...look, find: '' }, 'ownFrame') : null;
  const pauses = pauseFigures(recording, programPauses(recording, span), span);
  const run = runSummary(recording, span, verdict, table);
  const allocation = allocationFigures(recording, span);
  const used = usedSeries(recording).bytes;
  const leading = table === null ? null : ([...table.rows].sort((a, b) => b.allocBytes - a.allocBytes)[0] ?? null);
  const allAlloc = table?.rows.reduce((sum, site) => sum + site.allocBytes, 0) ?? 0;
  return {
    program: recording.program,
    runtime: recording.runtime,
    format: recording.format,
    collector: recording.collector,
    heaps: recording.heaps.map(({ name }) => name),
    chosenHeaps: recording.chosenHeaps,
    charges: chargesOf(recording),
    ownRules: recording.ownRules,
    samplingIntervalBytes: known(intervalNow(recording)),
    startEpochMs: recording.startEpochMs,
    durationMs: recording.durationMs,
    span,
    verdict: verdict.kind,
    clauses: verdictClauses({ verdict, table, run }),
    growthBytesPerSec: known(verdict.slopeBytesPerSec),
    outsideBytesPerSec:
      verdict.outside !== null && isRising(verdict.outside.kind) ? known(verdict.outside.slopeBytesPerSec) : null,
    throughputRatio: known(pauses.throughputRatio),
    lostRatio: lostRatioOf(recording, span),
    longestPauseMs: known(pauses.maxMs),
    pauses: pauses.count,
    pausesTold: pausesAreTold(recording),
    collections: countCollections(recording, span).count,
    storms: findStorms(recording, span).length,
    findings: findProblems(recording, span).map(({ code, sentence: said, moments }) => ({
      code,
      sentence: said,
      moments: moments.slice(0, MOST_MOMENTS).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
    })),
    allocBytesPerSec: known(
      allocation === null
        ? NaN
        : allocation.lowerBound
          ? allocation.lowBytes / (spanLengthMs(span) / 1000)
          : allocation.bytesPerSec,
    ),
    allocLowerBound: allocation?.lowerBound ?? false,
    leadingAllocator: leading === null || leading.key === NONE ? null : chargeText(recording, 'ownFrame', leading.key),
    leadingAllocatorRatio: leading === null || allAlloc === 0 ? 0 : leading.allocBytes / allAlloc,
    objects: recording.tables.objects.length,
    events: eventsIn(recording, span, table),
    usedNowBytes: known(used[used.length - 1] ?? NaN),
    ...pollCost(recording),
    ...readCost(recording),
    silences: silencesOf(recording),
    births: birthsOf(recording),
    missing: recording.missing,
    notes: notesOf(recording),
    issues: { count: recording.issues.count, first: recording.issues.first },
  };
}

function notesOf(recording: Recording): readonly SourceNote[] {
  const thinned = thinningInWords(recording, formatClock);
  return thinned === ''
    ? recording.notes
    : [...recording.notes, { tMs: recording.durationMs, code: 'thinned', message: thinned }];
}

function eventsIn({ tables: { collections, marks, flows } }: Recording, span: Span, table: ChargeTable | null): number {
  let events = table?.rows.reduce((sum, row) => sum + row.samples, 0) ?? 0;
  for (let row = 0; row < collections.length; row++) if (contains(span, collections.col.startMs[row]!)) events++;
  for (let row = 0; row < marks.length; row++) if (contains(span, marks.col.tMs[row]!)) events++;
  for (let row = 0; row < flows.length; row++) if (contains(span, flows.col.fromMs[row]!)) events++;
  return events;
}

function birthsOf(recording: Recording): Overview['births'] {
  const { phases } = recording.tables;
  if (recording.heaps.some((heap) => heap.seesAllBirths)) return 'all';
  switch (phases.col.kind[phases.length - 1]) {
    case PhaseKind.objects:
      return 'on';
    case PhaseKind.deaths:
      return 'off';
    case PhaseKind.births:
    case PhaseKind.survivors:
      return 'phases';
    default:
      return null;
  }
}

/** The sampling interval in force, which a recorder may have changed since its hello; NaN when nothing is sampled. */
function intervalNow(recording: Recording): number {
  const { intervals } = recording.tables;
  return intervals.length > 0
    ? intervals.col.bytes[intervals.length - 1]!
    : (recording.heaps[0]?.samplingIntervalBytes ?? NaN);
}

function readCost(recording: Recording): { seenRatio: number | null; readTimeRatio: number | null } {
  const seen = samplesSeen(recording, { fromMs: 0, toMs: recording.durationMs });
  return {
    seenRatio: known(seen?.seenRatio ?? NaN),
    readTimeRatio: seen === null ? null : known(seen.cpuMs / recording.durationMs),
  };
}

// Waits are told even where no pause is.
function lostRatioOf(recording: Recording, span: Span): number | null {
  if (!recording.hasClock || !(pausesAreTold(recording) || losesBesidePauses(recording))) return null;
  return known(lostTime(recording, programPauses(recording, span), span).lostMs / spanLengthMs(span));
}

function silencesOf(recording: Recording): string[] {
  return silences(recording, { fromMs: 0, toMs: Infinity }).map(
    ({ fromMs, toMs, heapId }) =>
      `${recording.heaps[heapId]?.name ?? 'A heap'} from ${formatClock(fromMs)} to ${formatClock(toMs)}`,
  );
}

function pollCost(recording: Recording): { pollTimeRatio: number | null; polls: number } {
  const { polls } = recording.tables;
  let totalMs = 0;
  for (let row = 0; row < polls.length; row++) totalMs += polls.col.durationMs[row]!;
  return {
    polls: polls.length,
    pollTimeRatio: polls.length > 0 && recording.durationMs > 0 ? totalMs / recording.durationMs : null,
  };
}

/** The sentence of an overview. */
export function overviewSentence(overview: Overview): string {
  return sentence(overview.clauses);
}

/** Null for what is not a finite number. */
export function known(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}
