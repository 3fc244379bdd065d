import { formatBytes, formatPercent, type Overview } from '@brisk-heron/core';
import type { Question, RailLine } from '../../stores/question.ts';
import SitesView from './SitesView.vue';
import { useSites } from './sites-state.ts';

export const sites: Question = {
  id: 'sites',
  title: 'Who allocates?',
  measures: ['sites', 'paths', 'sizes', 'churn'],
  line,
  state: useSites,
  view: SitesView,
  keys: [
    ['↑ ↓', 'call paths: the line above, below'],
    ['→ ←', 'call paths: opens, closes'],
    ['w', 'call paths: the heaviest way down'],
    ['n N', 'picture: the next cell picked out, the one before'],
    ['Enter', 'picture: hangs a cell from the top'],
    ['Escape', 'picture: all of it'],
  ],
};

function line(overview: Overview): RailLine {
  const { allocBytesPerSec, allocLowerBound, leadingAllocator, leadingAllocatorRatio } = overview;
  const rate =
    allocBytesPerSec === null
      ? 'rate unknown'
      : `${allocLowerBound ? 'at least ' : ''}${formatBytes(allocBytesPerSec)}/s`;
  const leading =
    leadingAllocator === null ? '' : ` · ${shortName(leadingAllocator)} ${formatPercent(leadingAllocatorRatio)}`;
  return { answer: `${rate}${leading}`, urgent: false };
}

// The function alone, or the place of one without a name; a name in brackets may have blanks.
function shortName(site: string): string {
  return /^(?:\([^)]*\)|\S+)/.exec(site.replace(/^\(anonymous\) /, ''))?.[0] ?? site;
}
