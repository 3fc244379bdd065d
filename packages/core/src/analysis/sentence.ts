import { formatAbout, formatBytes, formatBytesLike, formatClock, formatDuration, formatPercent } from '../base/units.ts';
import type { ChargeTable } from './charge-table.ts';
import type { Verdict } from './verdict.ts';

/** One clause of the verdict's sentence and the evidence that it goes to. */
export interface Clause {
  readonly text: string;
  readonly evidence: 'floor' | 'sites' | 'limit' | 'none';
  /** True for what needs attention now. */
  readonly urgent: boolean;
}

const MOST_NAMED_SITES = 3;
const NAMED_RATIO = 0.9;
/** Sites that carry less than this together are not where it comes from. */
const SPREAD_RATIO = 0.25;

/** How many of the first ranked sites carry at least 90 % of the growth (at most three), and their share together. */
export function leadingSites(table: ChargeTable): { count: number; shareRatio: number } {
  let shareRatio = 0;
  let count = 0;
  for (const site of table.rows.filter((row) => !row.isOutside)) {
    if (count === MOST_NAMED_SITES || shareRatio >= NAMED_RATIO || !(site.growthLow > 0)) break;
    shareRatio += site.growthShareRatio;
    count++;
  }
  return { count, shareRatio };
}

/** The verdict as clauses for people; joined with "; " they are the sentence. */
export function verdictClauses(verdict: Verdict, table: ChargeTable | null): Clause[] {
  switch (verdict.kind) {
    case 'unclear': return [clause(`Unclear yet: it needs ${verdict.missing}`, 'floor')];
    case 'growing': return [clause(`Growing ${perMinute(verdict)}`, 'floor', true), ...siteClause(table), limitClause(verdict)];
    case 'stepping': return [clause(stepText(verdict), 'floor', true), ...siteClause(table), limitClause(verdict)];
    case 'settled': return [clause(`Settled: the floor rose and has been flat since, at ${formatBytes(verdict.floorNowBytes)}`, 'floor')];
    case 'shrinking': return [clause(`Shrinking ${perMinute(verdict)}`, 'floor')];
    case 'bursting': return [clause(`Bursting: the floor is flat at ${formatBytes(verdict.floorNowBytes)}, but peaks reach over twice the usual`, 'floor', true)];
    case 'steady': return [clause(`Steady: the floor stays at ${formatBytes(verdict.floorNowBytes)} over ${verdict.floor.tMs.length} points`, 'floor')];
  }
}

/** The clauses as one sentence. */
export function sentence(clauses: readonly Clause[]): string {
  return `${clauses.map((part) => part.text).join('; ')}.`;
}

function clause(text: string, evidence: Clause['evidence'], urgent = false): Clause {
  return { text, evidence, urgent };
}

function perMinute(verdict: Verdict): string {
  const minute = Math.abs(verdict.slopeBytesPerSec) * 60;
  const bounds = [verdict.slopeLow, verdict.slopeHigh].map((slope) => Math.abs(slope) * 60).sort((a, b) => a - b);
  const range = bounds.every(Number.isFinite) ? ` (${bounds.map((bound) => formatBytesLike(bound, minute)).join('–')})` : '';
  return `${formatBytes(minute)}/min${range}`;
}

function stepText(verdict: Verdict): string {
  const upward = verdict.steps.filter((step) => step.bytes > 0);
  const sizes = upward.map((step) => step.bytes).sort((a, b) => a - b);
  const height = sizes[sizes.length >> 1] ?? NaN;
  const period = Number.isNaN(verdict.periodMs) ? '' : ` every ${formatDuration(verdict.periodMs)}`;
  return `Stepping +${formatBytes(height)}${period}, ${upward.length} times`;
}

function siteClause(table: ChargeTable | null): Clause[] {
  if (table === null) return [];
  const { count, shareRatio } = leadingSites(table);
  if (count === 0) return [];
  if (shareRatio < SPREAD_RATIO) return [clause(`spread over many sites, the first ${count} carry ${formatPercent(shareRatio)}`, 'sites', true)];
  return [clause(`${formatPercent(shareRatio)} of it from ${count} site${count === 1 ? '' : 's'}${table.mayInline ? (count === 1 ? ' or what it calls' : ' or what they call') : ''}`, 'sites', true)];
}

function limitClause(verdict: Verdict): Clause {
  if (!Number.isNaN(verdict.exhaustedMs)) return clause(`the heap was full at ${formatClock(verdict.exhaustedMs)}`, 'limit', true);
  if (Number.isNaN(verdict.limitBytes)) return clause('no limit is known', 'none');
  const limit = `${formatBytes(verdict.limitBytes)} limit`;
  if (verdict.timeToLimitMs === 0) return clause(`${verdict.limitHeap ? `${verdict.limitHeap} is ` : ''}above the ${limit} already`, 'limit', true);
  if (!Number.isFinite(verdict.timeToLimitMs)) return clause(verdict.limitHeap === '' ? `${limit} each` : limit, 'limit');
  return clause(`${verdict.limitHeap ? `${verdict.limitHeap} at its ` : ''}${limit} in about ${formatAbout(verdict.timeToLimitMs)}`, 'limit');
}
