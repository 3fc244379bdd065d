import { collectionsByStart, placesWithin } from '../analysis/row-orders.ts';
import { z } from 'zod';
import { allocationFigures } from '../analysis/allocation.ts';
import type { ChargeFigures } from '../analysis/charge-figures.ts';
import type { ChargeTable } from '../analysis/charge-table.ts';
import { countCollections } from '../analysis/collection-counts.ts';
import { findProblems } from '../analysis/findings/find-problems.ts';
import { losesBesidePauses, lostTime } from '../analysis/lost-time.ts';
import { type MedianLifetime, medianLifetimes } from '../analysis/median-lifetimes.ts';
import { pausesAreTold } from '../analysis/program-pauses.ts';
import { spanPauses } from '../analysis/pause-figures.ts';
import { findStorms } from '../analysis/storms.ts';
import { usedSeries } from '../analysis/used-series.ts';
import { runSummary } from '../analysis/verdict/run-summary.ts';
import { type Clause, sentence, spokenClauses, tellsOfRun } from '../analysis/verdict/sentence.ts';
import { isRising, type VerdictKind } from '../analysis/verdict/verdict.ts';
import { samplesSeen, silences } from '../analysis/what-was-seen.ts';
import { NONE } from '../base/ids.ts';
import type { InputIssue } from '../base/issues.ts';
import { contains, type Span, spanLengthMs } from '../base/span.ts';
import { formatClock } from '../base/units.ts';
import { type Charge, chargeText, keyText } from '../model/charge.ts';
import type { Recording, SourceNote } from '../model/recording.ts';
import { PhaseKind } from '../model/tables.ts';
import { thinningInWords } from '../model/thin-objects.ts';
import { piece } from '../study/piece.ts';
import { type Look, type Subject, WHOLE } from '../study/subject.ts';
import { chargesOf } from './key-words.ts';
import { measure } from './measure.ts';

/** A run of the input, as lists tell it. */
export interface RunTold {
  readonly collector: string;
  readonly collections: number;
  readonly startEpochMs: number;
  readonly durationMs: number;
}

/** What the verdict line and the question rail say of a span. Null where nothing is known. */
export interface Overview {
  /** Runs of the input, and the place of the one looked at. */
  readonly runs: readonly RunTold[];
  readonly run: number;
  readonly program: string;
  readonly runtime: string;
  readonly format: string;
  /** A command of such a program, to show how it is recorded. */
  readonly exampleCommand: string;
  /** Spaces that lie outside the heap though the log tells them. */
  readonly outsideSpaces: readonly string[];
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
  /** Problems found in collecting, with the moments in which they hold: of many a few hundred, evenly taken. */
  readonly findings: readonly { readonly code: string; readonly sentence: string; readonly moments: readonly Span[] }[];
  readonly allocBytesPerSec: number | null;
  readonly allocLowerBound: boolean;
  /** Own frame that adds most to the floor, by its key; null where none does. */
  readonly growingKey: string | null;
  readonly leadingAllocator: string | null;
  readonly leadingAllocatorRatio: number;
  /** Age by which half of the bytes are dead, of everything that was allocated in the span; null where none was seen. */
  readonly medianLifetime: MedianLifetime | null;
  readonly objects: number;
  /** Lines of the ledger in the span: objects seen to be born, collections, marks. */
  readonly events: number;
  readonly usedNowBytes: number | null;
  /** Objects of the last inventory and their bytes; null where none was taken. */
  readonly inventory: {
    readonly objects: number;
    readonly ownBytes: number;
    /** How many were taken, this being the last, and whether births of its objects were recorded. */
    readonly count: number;
    readonly isJoined: boolean;
  } | null;
  /** Share of the whole time that the recorder's polls took; null when it never polled. */
  readonly pollTimeRatio: number | null;
  readonly polls: number;
  /**
   * How births are watched: all of them (Node), in phases between survivors (Node without the addon), as they are
   * sampled (JVM), or not at all just now; null when not recorded.
   */
  readonly births: 'all' | 'phases' | 'on' | 'off' | null;
  /** True where the recorder takes another sampling interval while it runs. */
  readonly takesInterval: boolean;
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

const INVENTORY = piece('inventory sums', ({ recording }: Subject, _: null) => {
  const { graph, sampled } = recording.inventories.at(-1)!;
  return {
    objects: graph.objects,
    ownBytes: graph.ownBytes.reduce((sum, bytes) => sum + bytes, 0),
    count: recording.inventories.length,
    isJoined: sampled.object.length > 0,
  };
});

/** Answers `overview` of a subject; `runs` are those of its input. */
export function overviewOf(
  subject: Subject,
  look: Look = WHOLE,
  runs: readonly Recording[] = [subject.recording],
): Overview {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const verdict = subject.verdict(look);
  const observed = recording.tables.objects.length + recording.tables.flows.length > 0;
  const table = observed ? subject.table({ ...look, find: '' }, 'ownFrame') : null;
  const pauses = spanPauses(recording, span);
  const used = usedSeries(recording).bytes;
  const leading = table === null ? null : mostAllocating(table);
  const growing = table?.rows.find((row) => row.keptBytes > 0 || row.growthBytesPerSec > 0);
  const run = tellsOfRun(verdict) ? runSummary(recording, span, verdict, table) : null;
  const allAlloc = table?.rows.reduce((sum, site) => sum + site.allocBytes, 0) ?? 0;
  return {
    runs: runs.map(runTold),
    run: runs.findIndex((run) => run.tables.marks === recording.tables.marks),
    program: recording.program,
    runtime: recording.runtime,
    format: recording.format,
    exampleCommand: recording.traits.exampleCommand,
    outsideSpaces: [...recording.traits.outsideSpaces],
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
    clauses: spokenClauses(recording, { verdict, table, run }),
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
      moments: evenly(moments, MOST_MOMENTS).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
    })),
    ...allocationRate(recording, span),
    growingKey: growing === undefined ? null : keyText(recording, 'ownFrame', growing.key),
    leadingAllocator: leading === null || leading.key === NONE ? null : chargeText(recording, 'ownFrame', leading.key),
    leadingAllocatorRatio: leading === null || allAlloc === 0 ? 0 : leading.allocBytes / allAlloc,
    medianLifetime: observed ? subject.get(MEDIAN, { span: look.span }) : null,
    objects: recording.tables.objects.length,
    events: eventsIn(recording, span, table),
    usedNowBytes: known(used[used.length - 1] ?? NaN),
    inventory: recording.inventories.length === 0 ? null : subject.get(INVENTORY, null),
    ...pollCost(recording),
    ...readCost(recording),
    silences: silencesOf(recording),
    births: birthsOf(recording),
    takesInterval: recording.tables.phases.length > 0 && !recording.heaps.some((heap) => heap.seesAllBirths),
    missing: recording.missing,
    notes: notesOf(recording),
    issues: { count: recording.issues.count, first: recording.issues.first },
  };
}

// The first of the largest.
function mostAllocating({ rows }: ChargeTable): ChargeFigures | null {
  let [most, bytes]: [ChargeFigures | null, number] = [null, -Infinity];
  for (const row of rows) if (row.allocBytes > bytes) [most, bytes] = [row, row.allocBytes];
  return most;
}

// So that where they are drawn no part of the span looks free of them.
function evenly<T>(all: readonly T[], most: number): readonly T[] {
  if (all.length <= most) return all;
  return Array.from({ length: most }, (_, at) => all[Math.floor((at * all.length) / most)]!);
}

function runTold({ collector, tables: { collections }, startEpochMs, durationMs }: Recording): RunTold {
  return { collector, collections: collections.length, startEpochMs, durationMs };
}

function allocationRate(recording: Recording, span: Span): Pick<Overview, 'allocBytesPerSec' | 'allocLowerBound'> {
  const allocation = allocationFigures(recording, span);
  if (allocation === null) return { allocBytesPerSec: null, allocLowerBound: false };
  const { lowerBound, lowBytes, bytesPerSec } = allocation;
  return {
    allocBytesPerSec: known(lowerBound ? lowBytes / (spanLengthMs(span) / 1000) : bytesPerSec),
    allocLowerBound: lowerBound,
  };
}

function notesOf(recording: Recording): readonly SourceNote[] {
  const thinned = thinningInWords(recording, formatClock);
  return thinned === ''
    ? recording.notes
    : [...recording.notes, { tMs: recording.durationMs, code: 'thinned', message: thinned }];
}

function eventsIn(recording: Recording, span: Span, table: ChargeTable | null): number {
  const { marks, flows } = recording.tables;
  let events = table?.rows.reduce((sum, row) => sum + row.samples, 0) ?? 0;
  const [first, end] = placesWithin(collectionsByStart(recording), span.fromMs, span.toMs);
  events += end - first;
  for (let row = 0; row < marks.length; row++) if (contains(span, marks.col.tMs[row]!)) events++;
  for (let row = 0; row < flows.length; row++) if (contains(span, flows.col.fromMs[row]!)) events++;
  return events;
}

function birthsOf(recording: Recording): Overview['births'] {
  const { phases } = recording.tables;
  const seesAll = recording.heaps.some((heap) => heap.seesAllBirths);
  switch (phases.col.kind[phases.length - 1]) {
    case PhaseKind.objects:
      return seesAll ? 'all' : 'on';
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
  return known(lostTime(recording, span).lostMs / spanLengthMs(span));
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

// Of everything, found or not, as one group.
type SpanInput = { readonly span: { readonly fromMs: number; readonly toMs: number } | null };
const MEDIAN = piece('median lifetime', (subject: Subject, input: SpanInput): MedianLifetime | null => {
  const { recording } = subject;
  const groups = { groupOf: new Uint32Array(recording.tables.origins.length), keys: Uint32Array.of(0) };
  const [median] = medianLifetimes(recording, subject.spanOf(input), groups, {
    chosen: null,
    flows: subject.flows(input),
  });
  return median ?? null;
});

/** The sentence of an overview. */
export function overviewSentence(overview: Overview): string {
  return sentence(overview.clauses);
}

/** Null for what is not a finite number. */
export function known(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

/** The verdict, and what each question would answer, in a line. */
export const overview = measure({
  name: 'overview',
  title: 'the verdict, and what each question would answer, in a line',
  ask: z.strictObject({}),
  answer: (side): Overview => overviewOf(side.subject, side.look(), side.study.runs),
  report: ['source', 'durationMs', 'heap', 'samples', 'silences', 'notes', 'thinned', 'missing', 'endOfWorkMs', 'runs'],
});
