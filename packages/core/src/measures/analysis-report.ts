import { allocationFigures, promotionFigures } from '../analysis/allocation.ts';
import type { ChargeFigures } from '../analysis/charge-figures.ts';
import { chargeTable } from '../analysis/charge-table.ts';
import { countCollections } from '../analysis/collection-counts.ts';
import { endOfWorkMs, workOf } from '../analysis/end-of-work.ts';
import { findProblems } from '../analysis/findings/find-problems.ts';
import type { Finding } from '../analysis/findings/finding.ts';
import { losesBesidePauses, lostTime, type LostTime } from '../analysis/lost-time.ts';
import { minimumMutatorUtilisation, mmuWindows } from '../analysis/mmu.ts';
import { ObjectIndex } from '../analysis/object-index.ts';
import { outsideHeap } from '../analysis/outside-heap.ts';
import { pausesAreTold, programPauses } from '../analysis/program-pauses.ts';
import { pauseFigures } from '../analysis/pause-figures.ts';
import { spanSums } from '../analysis/span-sums.ts';
import { findStorms } from '../analysis/storms.ts';
import { usedAfterSeries, usedSeries } from '../analysis/used-series.ts';
import { withGrowthShares } from '../analysis/verdict/growth-shares.ts';
import { runSummary } from '../analysis/verdict/run-summary.ts';
import { judge } from '../analysis/verdict/verdict.ts';
import { samplesSeen, silences } from '../analysis/what-was-seen.ts';
import { NONE } from '../base/ids.ts';
import type { InputIssue } from '../base/issues.ts';
import { type Span, spanLengthMs } from '../base/span.ts';
import { formatClock } from '../base/units.ts';
import { pathFrames, siteLabel } from '../model/call-path.ts';
import { chargeText } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { thinningInWords } from '../model/thin-objects.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { survivalReport } from './survival-report.ts';
import { verdictReport } from './verdict-report.ts';

const ANALYSIS_SCHEMA = 'brisk-heron/analysis@1';

const FIRST_ISSUES = 20;
const MOST_SITES = 200;
const MOST_MOMENTS = 50;

/**
 * Every measure of one run as the plain object that `analyze --json` prints (docs/measures.md). NaN figures are null.
 * The shape only ever gains members.
 */
export function analysisReport(recording: Recording, runs: readonly Recording[] = [], chosenSpan: Span | null = null) {
  const span = chosenSpan ?? wholeSpan(recording);
  // What a program lets go as it ends is no part of what it did.
  const work = chosenSpan ?? workOf(span, endOfWorkMs(recording));
  const verdict = judge(recording, work);
  const observed = recording.tables.objects.length + recording.tables.flows.length > 0;
  const table = observed
    ? withGrowthShares(
        chargeTable(
          recording,
          spanSums(
            new ObjectIndex(recording),
            work,
            Number.isNaN(recording.givenSettleMs) ? null : recording.givenSettleMs,
          ),
          'ownFrame',
        ),
        verdict,
      )
    : null;
  return {
    schema: ANALYSIS_SCHEMA,
    source: sourceReport(recording),
    ...(recording.thinnings.length === 0
      ? {}
      : {
          thinned: {
            beforeMs: recording.thinnings[recording.thinnings.length - 1]!.beforeMs,
            removed: recording.thinnings.reduce((sum, { removed }) => sum + removed, 0),
            sentence: thinningInWords(recording, formatClock),
          },
        }),
    ...(recording.missing === '' ? {} : { missing: recording.missing }),
    durationMs: recording.hasClock ? recording.durationMs : null,
    ...(chosenSpan === null ? {} : { span: chosenSpan }),
    ...collectingReport(recording, span, chosenSpan === null ? Infinity : chosenSpan.toMs),
    findings: findProblems(recording, span).map(findingReport),
    allocation: allocationReport(recording, span),
    promotion: promotionReport(recording, span),
    verdict: verdictReport(recording, {
      verdict,
      table,
      run: chosenSpan === null ? runSummary(recording, work, verdict, table) : null,
    }),
    ...(work === span ? {} : { endOfWorkMs: work.toMs }),
    sites: (table?.rows ?? []).slice(0, MOST_SITES).map((site) => siteReport(recording, site)),
    ...(table === null ? {} : { settleMs: table.settleMs, recentLeftOut: table.recentLeftOut }),
    ...(table === null ? {} : { survival: survivalReport(recording, work, table) }),
    ...seenReport(recording, span),
    ...(recording.notes.length === 0 ? {} : { notes: recording.notes }),
    ...(runs.length > 1 ? { runs: runs.map((run): unknown => analysisReport(run)) } : {}),
  };
}

function sourceReport(recording: Recording) {
  const { issues } = recording;
  return {
    format: recording.format,
    runtime: recording.runtime,
    collector: recording.collector,
    bytes: recording.bytes,
    lines: recording.lines,
    issues: {
      count: issues.count,
      byCode: issues.byCode,
      first: issues.first.slice(0, FIRST_ISSUES) satisfies InputIssue[],
    },
  };
}

function collectingReport(recording: Recording, span: Span, pausesToMs: number) {
  const selection = programPauses(recording, { fromMs: span.fromMs, toMs: pausesToMs });
  const figures = pauseFigures(recording, selection, span);
  const { own, ...counts } = countCollections(recording, span);
  const lost = recording.hasClock ? lostTime(recording, span) : null;
  const mmu =
    lost !== null && pausesAreTold(recording)
      ? minimumMutatorUtilisation(lost.curve, span, mmuWindows(spanLengthMs(span)))
      : [];
  return {
    pauses: {
      count: figures.count,
      totalMs: figures.totalMs,
      maxMs: known(figures.maxMs),
      p50Ms: known(figures.p50Ms),
      p95Ms: known(figures.p95Ms),
      p99Ms: known(figures.p99Ms),
      throughputRatio: known(figures.throughputRatio),
      mmu,
      byName: Object.fromEntries(figures.byName),
    },
    ...(lost === null || !losesBesidePauses(recording) ? {} : { lost: lostReport(lost, span) }),
    ...stallReport(recording, span),
    ...safepointReport(recording, span),
    collections: { ...counts, storms: findStorms(recording, span).length, ownForced: own },
    heap: heapReport(recording, span),
  };
}

function lostReport(
  { lostMs, pausedMs, otherStopsMs, waitedMs, pacedMs, threads, worstThread, worstRatio }: LostTime,
  span: Span,
) {
  return {
    ratio: known(lostMs / spanLengthMs(span)),
    lostMs,
    pausedMs,
    otherStopsMs,
    waitedMs,
    pacedMs,
    threads,
    worstThread,
    worstRatio,
  };
}

// Waits of single threads for memory, where the source tells any; no part of the pauses, for others ran on.
function stallReport(recording: Recording, span: Span) {
  const { length, col } = recording.tables.stalls;
  const durations = col.durationMs.subarray(0, length).filter((_, row) => isWithin(span, col.startMs[row]!));
  if (durations.length === 0) return {};
  return {
    stalls: {
      count: durations.length,
      totalMs: durations.reduce((sum, each) => sum + each, 0),
      maxMs: durations.reduce((most, each) => Math.max(most, each), 0),
    },
  };
}

// Stops of every thread, for the collector or not, where the source tells any.
function safepointReport(recording: Recording, span: Span) {
  const { length, col } = recording.tables.safepoints;
  const rows = Array.from({ length }, (_, row) => row).filter((row) => isWithin(span, col.startMs[row]!));
  if (rows.length === 0) return {};
  const sum = (column: Float64Array): number => rows.reduce((total, row) => total + column[row]!, 0);
  return { safepoints: { count: rows.length, totalMs: sum(col.totalMs), reachMs: sum(col.reachMs) } };
}

function findingReport(finding: Finding) {
  const { code, sentence, rule, certainty, advice, costMs } = finding;
  return {
    code,
    sentence,
    rule,
    certainty,
    advice,
    costMs,
    moments: finding.moments.slice(0, MOST_MOMENTS).map(({ fromMs, toMs }) => ({ fromMs, toMs })),
    momentCount: finding.moments.length,
  };
}

function heapReport(recording: Recording, span: Span) {
  const used = usedSeries(recording);
  let peak = NaN;
  for (let at = 0; at < used.bytes.length; at++)
    if (isWithin(span, used.tMs[at]!) && !(peak >= used.bytes[at]!)) peak = used.bytes[at]!;
  const outside = outsideHeap(recording, span);
  return {
    peakUsedBytes: known(peak),
    lastUsedAfterBytes: known(lastUsedAfter(recording, span)),
    limitBytes: known(recording.limitBytes()),
    ...(outside === null
      ? {}
      : {
          externalBytes: known(outside.externalBytes),
          externalBytesPerSec: known(outside.externalBytesPerSec),
          attributedBytes: known(outside.attributedBytes),
          attributedBytesSe: known(outside.attributedBytesSe),
          unattributedBytes: known(outside.unattributedBytes),
          residentBytes: known(outside.residentBytes),
          residentBytesPerSec: known(outside.residentBytesPerSec),
        }),
  };
}

function lastUsedAfter(recording: Recording, span: Span): number {
  const { tMs, bytes } = usedAfterSeries(recording);
  for (let at = bytes.length - 1; at >= 0; at--) if (isWithin(span, tMs[at]!)) return bytes[at]!;
  return NaN;
}

// Ends included: the last reading of a whole recording lies at its end.
function isWithin({ fromMs, toMs }: Span, tMs: number): boolean {
  return tMs >= fromMs && tMs <= toMs;
}

// What a recorder says of its own sight, where it says anything.
function seenReport(recording: Recording, span: Span) {
  const seen = samplesSeen(recording, span);
  const silent = silences(recording, span);
  return {
    ...(seen === null
      ? {}
      : { samples: { taken: seen.taken, seen: seen.seen, seenRatio: known(seen.seenRatio), readCpuMs: seen.cpuMs } }),
    ...(silent.length === 0
      ? {}
      : {
          silences: silent.map(({ fromMs, toMs, heapId }) => ({
            fromMs,
            toMs,
            heap: recording.heaps[heapId]?.name ?? null,
          })),
        }),
  };
}

function allocationReport(recording: Recording, span: Span) {
  const figures = allocationFigures(recording, span);
  return figures === null
    ? null
    : { ...figures, bytesPerSec: known(figures.bytesPerSec), highBytes: known(figures.highBytes) };
}

function promotionReport(recording: Recording, span: Span) {
  const figures = promotionFigures(recording, span);
  return figures === null ? null : { totalBytes: figures.totalBytes, bytesPerSec: known(figures.bytesPerSec) };
}

function siteReport(recording: Recording, site: ChargeFigures) {
  return {
    site: chargeText(recording, 'ownFrame', site.key),
    path: pathFrames(recording, site.heaviestPathId).map(siteLabel),
    type: site.typeId === NONE ? null : recording.strings.text(site.typeId),
    allocBytes: site.allocBytes,
    allocBytesSe: site.allocBytesSe,
    inferredBytes: site.inferredBytes,
    allocCount: known(site.allocCount),
    samples: site.samples,
    keptBytes: site.keptBytes,
    keptBytesSe: site.keptBytesSe,
    growthBytesPerSec: known(site.growthBytesPerSec),
    growthLow: known(site.growthLow),
    growthHigh: known(site.growthHigh),
    growthShareRatio: site.growthShareRatio,
    space: site.isOutside ? 'outside' : 'heap',
  };
}

function known(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

/** What `analyze --json` prints. */
export type AnalysisReport = ReturnType<typeof analysisReport>;
