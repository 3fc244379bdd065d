import {
  formatAbout,
  formatBytes,
  formatBytesLike,
  formatClock,
  formatDuration,
  formatPercent,
} from '../../base/units.ts';
import { INSTANT_MS, type Inventory } from '../../model/heap-graph.ts';
import type { Recording } from '../../model/recording.ts';
import type { ChargeTable } from '../charge-table.ts';
import type { SeriesVerdict } from './judge-series.ts';
import { growthShares } from './growth-shares.ts';
import type { RunSummary } from './run-summary.ts';
import { isRising, type Verdict } from './verdict.ts';

/** One clause of the verdict's sentence and the evidence that it goes to. */
export interface Clause {
  readonly text: string;
  readonly evidence: 'floor' | 'sites' | 'limit' | 'none';
  /** True for what needs attention now. */
  readonly urgent: boolean;
}

/** What a sentence speaks of. */
export interface Spoken {
  readonly verdict: Verdict;
  /** Keys that allocate; null where none was seen. */
  readonly table: ChargeTable | null;
  /** The run as a whole, once its program has ended; null or absent before. */
  readonly run?: RunSummary | null;
}

/** Sites that carry less than this together are not where it comes from. */
const SPREAD_RATIO = 0.25;
/** An interval of a share that is no wider than this is not worth its place. */
const NARROW_RATIO = 0.02;

/**
 * The verdict as clauses for people; joined with "; " they are the sentence. What ended a program comes first, then
 * what grows. Of a run that ended and left it unclear, its peak is told first.
 */
export function verdictClauses(spoken: Spoken): Clause[] {
  const { verdict, run = null } = spoken;
  const outside = outsideClauses(spoken);
  const heap = heapClauses(spoken);
  // What grows most comes first.
  const isOutsideFirst =
    outside.length > 0 &&
    (!isRising(verdict.kind) ||
      (verdict.outside !== null &&
        isRising(verdict.outside.kind) &&
        verdict.outside.slopeBytesPerSec > verdict.slopeBytesPerSec));
  const memory = isOutsideFirst
    ? [...outside, ...heap.map((part) => ({ ...part, text: lower(part.text) }))]
    : [...heap, ...outside];
  const judged =
    verdict.kind === 'unclear' && run !== null && outside.length === 0
      ? [...runClauses(run), { ...memory[0]!, text: unclearOfEnded(verdict) }]
      : memory;
  return [...outOfMemoryClauses(verdict), ...judged];
}

const GREETING_ONLY: Clause = {
  text: 'Only a greeting came: nothing was told of what the program does with memory',
  evidence: 'none',
  urgent: false,
};

// A program that was recorded and ended, or was cut off, before anything happened in it.
function isGreetingOnly({ format, durationMs, tables }: Recording): boolean {
  const { collections, objects, flows, sizes, marks } = tables;
  return (
    format === 'recording' &&
    durationMs === 0 &&
    [collections, objects, flows, sizes, marks].every(({ length }) => length === 0)
  );
}

// At one instant nothing grows: what there is, is told.
function inventoryClause({ graph: { objects, ownBytes } }: Inventory): Clause {
  const bytes = ownBytes.reduce((sum, each) => sum + each, 0);
  return {
    text: `An inventory of ${objects.toLocaleString('en')} objects, ${formatBytes(bytes)}, at one instant: what stays in it, and why, can be told; whether it grows cannot`,
    evidence: 'none',
    urgent: false,
  };
}

/** The clauses of a recording's verdict; of one that nothing came of, that it is so. */
export function spokenClauses(recording: Recording, spoken: Spoken): Clause[] {
  const inventory = recording.inventories.at(-1);
  if (inventory !== undefined && recording.durationMs <= INSTANT_MS) return [inventoryClause(inventory)];
  return isGreetingOnly(recording) ? [GREETING_ONLY] : verdictClauses(spoken);
}

/** The clauses as one sentence. */
export function sentence(clauses: readonly Clause[]): string {
  return `${clauses.map((part) => part.text).join('; ')}.`;
}

/** True where a verdict's clauses tell of the run as a whole. */
export function tellsOfRun({ kind }: Pick<Verdict, 'kind'>): boolean {
  return kind === 'unclear' || kind === 'bursting';
}

function heapClauses({ verdict, table, run = null }: Spoken): Clause[] {
  const level = formatBytes(verdict.floorNowBytes);
  switch (verdict.kind) {
    case 'unclear':
      return [clause(`Unclear yet: it needs ${verdict.missing}`, 'floor')];
    case 'growing':
      return [
        clause(`Growing${verdict.soFar ? ' so far' : ''} ${perMinute(verdict)}${since(verdict)}`, 'floor', true),
        ...siteClause(verdict, table),
        limitClause(verdict),
      ];
    case 'stepping':
      return [clause(stepText(verdict), 'floor', true), ...siteClause(verdict, table), limitClause(verdict)];
    case 'settled':
      return [
        clause(
          `Settled: the floor rose and has been flat since${Number.isNaN(verdict.sinceMs) ? '' : ` ${formatClock(verdict.sinceMs)}`}, at ${level}${hidden(verdict)}`,
          'floor',
        ),
      ];
    case 'shrinking':
      return [clause(`Shrinking ${perMinute(verdict)}${since(verdict)}`, 'floor')];
    case 'bursting':
      return [
        clause(`Bursting: the floor is flat at ${level}, but peaks reach over twice the usual`, 'floor', true),
        ...(run === null || Number.isNaN(run.peakMs) ? [] : [clause(peakText(run), 'sites')]),
      ];
    case 'steady':
      return [clause(steadyText(verdict), 'floor')];
  }
}

function clause(text: string, evidence: Clause['evidence'], urgent = false): Clause {
  return { text, evidence, urgent };
}

function lower(text: string): string {
  return text
    .replace(/^Growing/, 'its heap grows')
    .replace(/^Stepping/, 'its heap steps')
    .replace(/^(?:Steady|Settled|Shrinking|Bursting|Unclear)/, (word) => `the heap itself is ${word.toLowerCase()}`);
}

function steadyText(verdict: Verdict): string {
  const { bound, basis, floor } = verdict;
  if (basis === 'bound' && bound !== null) {
    const rests = bound.basis === 'old-space' ? 'what enters the old space' : 'what is used after young collections';
    return `Steady so far: at most ${formatBytes(bound.mostPerSec * 60)}/min can be staying, by ${rests} in ${bound.points} collections; no whole collection has shown the floor, at most ${formatBytes(bound.levelBytes)}`;
  }
  if (!Number.isNaN(verdict.swingLowBytes))
    return `Steady: the floor rises and falls between ${formatBytes(verdict.swingLowBytes)} and ${formatBytes(verdict.swingHighBytes)}, and comes back, over ${floor.tMs.length.toLocaleString('en')} points${hidden(verdict)}`;
  return `Steady: the floor stays at ${formatBytes(verdict.floorNowBytes)} over ${floor.tMs.length.toLocaleString('en')} points${hidden(verdict)}`;
}

// What the points cannot rule out, where it is more than nothing.
function hidden({ mostHiddenPerSec }: Verdict): string {
  return mostHiddenPerSec > 0 ? ` (at most ${formatBytes(mostHiddenPerSec * 60)}/min can hide in it)` : '';
}

function perMinute(verdict: Pick<Verdict, 'slopeBytesPerSec' | 'slopeLow' | 'slopeHigh'>): string {
  const minute = Math.abs(verdict.slopeBytesPerSec) * 60;
  const bounds = [verdict.slopeLow, verdict.slopeHigh].map((slope) => Math.abs(slope) * 60).sort((a, b) => a - b);
  const range = bounds.every(Number.isFinite)
    ? ` (${bounds.map((bound) => formatBytesLike(bound, minute)).join('–')})`
    : '';
  return `${formatBytes(minute)}/min${range}`;
}

function since({ sinceMs, sinceLowMs, sinceHighMs }: Pick<Verdict, 'sinceMs' | 'sinceLowMs' | 'sinceHighMs'>): string {
  if (Number.isNaN(sinceMs)) return '';
  const range =
    formatClock(sinceLowMs) === formatClock(sinceHighMs)
      ? ''
      : ` (${formatClock(sinceLowMs)}–${formatClock(sinceHighMs)})`;
  return ` since ${formatClock(sinceMs)}${range}`;
}

function stepText(verdict: Verdict): string {
  const upward = verdict.steps.filter((step) => step.bytes > 0);
  const sizes = upward.map((step) => step.bytes).sort((a, b) => a - b);
  const height = sizes[sizes.length >> 1] ?? NaN;
  const period = Number.isNaN(verdict.periodMs) ? '' : ` every ${formatDuration(verdict.periodMs)}`;
  return `Stepping +${formatBytes(height)}${period}, ${upward.length} times: ${perMinute(verdict)}`;
}

function siteClause(verdict: Verdict, table: ChargeTable | null): Clause[] {
  if (table === null) return [];
  const { named, ratio, low, high, parts } = growthShares(table, verdict);
  if (named.length === 0) return [];
  const sites = `${named.length} site${named.length === 1 ? '' : 's'}${table.mayInline ? (named.length === 1 ? ' or what it calls' : ' or what they call') : ''}`;
  if (high < SPREAD_RATIO)
    return [
      clause(
        `spread over many sites: the first ${named.length} that surely grow carry ${formatPercent(ratio)}`,
        'sites',
        true,
      ),
    ];
  const range = high - low > NARROW_RATIO ? ` (${formatPercent(low).replace(/\s*%$/, '')}–${formatPercent(high)})` : '';
  const share =
    ratio >= 1
      ? `all of it${low < 1 - NARROW_RATIO ? `, at least ${formatPercent(low)},` : ''}`
      : `${formatPercent(ratio)}${range} of it`;
  return [
    clause(
      `${share} from ${sites}${parts === '' ? '' : `, ${parts}`}${1 - high > NARROW_RATIO ? `; ${formatPercent(1 - high)} or more not explained` : ''}`,
      'sites',
      true,
    ),
  ];
}

function limitClause(verdict: Verdict): Clause {
  if (!Number.isNaN(verdict.exhaustedMs) && verdict.exhaustion?.what !== 'nothing')
    return clause(
      `the ${verdict.exhaustion?.what ?? 'heap'} was full at ${formatClock(verdict.exhaustedMs)}`,
      'limit',
      true,
    );
  if (Number.isNaN(verdict.limitBytes)) return clause('no limit is known', 'none');
  const limit = `${formatBytes(verdict.limitBytes)} limit`;
  if (verdict.timeToLimitMs === 0)
    return clause(`${verdict.limitHeap ? `${verdict.limitHeap} is ` : ''}above the ${limit} already`, 'limit', true);
  if (!Number.isFinite(verdict.timeToLimitMs))
    return clause(verdict.limitHeap === '' ? `${limit} each` : limit, 'limit');
  return clause(
    `${verdict.limitHeap ? `${verdict.limitHeap} at its ` : ''}${limit} in about ${formatAbout(verdict.timeToLimitMs)}`,
    'limit',
  );
}

function outOfMemoryClauses({ exhaustion, kind }: Verdict): Clause[] {
  if (exhaustion === null) return [];
  if (!Number.isNaN(exhaustion.outOfMemoryMs))
    return [clause(`Out of memory at ${formatClock(exhaustion.outOfMemoryMs)}`, 'limit', true)];
  return isRising(kind)
    ? []
    : [clause(`The ${exhaustion.what} was full at ${formatClock(exhaustion.fromMs)}`, 'limit', true)];
}

// Memory outside the heap, and the process as a whole where neither the heap nor that explains it.
function outsideClauses({ verdict, table }: Spoken): Clause[] {
  const { outside, resident } = verdict;
  const limit = (): Clause[] =>
    Number.isNaN(verdict.residentToLimitMs)
      ? []
      : [clause(`the process at its limit in about ${formatAbout(verdict.residentToLimitMs)}`, 'limit', true)];
  if (outside !== null && isRising(outside.kind))
    return [clause(`Growing outside the heap ${rising(outside)}${outsideSites(table)}`, 'sites', true), ...limit()];
  if (
    resident !== null &&
    isRising(resident.kind) &&
    !isRising(verdict.kind) &&
    !Number.isNaN(verdict.residentToLimitMs)
  )
    return [
      clause(
        `The process grows in memory ${rising(resident)}, though neither its heap nor its buffers do`,
        'none',
        true,
      ),
      ...limit(),
    ];
  return [];
}

function rising(series: SeriesVerdict): string {
  return `${perMinute(series)}${since(series)}`;
}

function outsideSites(table: ChargeTable | null): string {
  const sites = table?.rows.filter((row) => row.isOutside && row.growthLow > 0).length ?? 0;
  return sites === 0 ? '' : `, at ${sites} site${sites === 1 ? '' : 's'}`;
}

function unclearOfEnded(verdict: Verdict): string {
  const isBounded = / are possible/.test(verdict.missing);
  const most =
    isBounded || Number.isNaN(verdict.bound?.mostPerSec ?? NaN)
      ? ''
      : ` (at most ${formatBytes(verdict.bound!.mostPerSec * 60)}/min was staying)`;
  return `whether memory kept rising is unclear${most}: it needs ${verdict.missing.replace(/; until then, at most .*$/, '')}`;
}

function peakText(run: RunSummary): string {
  const sites = run.peakSites
    .slice(0, 1)
    .map(({ site, shareRatio }) => `${formatPercent(shareRatio)} of it from ${site}`);
  return `most at ${formatClock(run.peakMs)}, ${formatBytes(run.peakBytes)}${sites.length === 0 ? '' : `, ${sites.join('')}`}`;
}

function runClauses(run: RunSummary): Clause[] {
  const peak = Number.isNaN(run.peakMs) ? '' : `: ${peakText(run)}`;
  const rose =
    run.perMark === null
      ? ''
      : `; ${formatBytes(run.perMark.bytesPerMark)} stay for each “${run.perMark.label}” (${formatBytes(run.perMark.low)}–${formatBytes(run.perMark.high)})`;
  return [clause(`Ended after ${formatDuration(run.lengthMs)}${peak}${rose}`, 'sites')];
}
