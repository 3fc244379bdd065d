import { formatBytes, type Overview } from '@brisk-heron/core';
import type { Question, RailLine } from '../../stores/question.ts';
import GrowthView from './GrowthView.vue';
import { useGrowth } from './growth-state.ts';

export const growth: Question = {
  id: 'growth',
  title: 'Is it growing?',
  measures: ['growth'],
  line,
  state: useGrowth,
  view: GrowthView,
};

// What grows most: the heap, or what lies outside it.
function line(overview: Overview): RailLine {
  const rises = overview.verdict === 'growing' || overview.verdict === 'stepping';
  const outside = overview.outsideBytesPerSec;
  if (outside !== null && !(rises && (overview.growthBytesPerSec ?? 0) > outside))
    return { answer: `${formatBytes(outside * 60)}/min outside the heap`, urgent: true };
  const isTold = rises && overview.growthBytesPerSec !== null;
  return { answer: isTold ? `${formatBytes(overview.growthBytesPerSec! * 60)}/min` : overview.verdict, urgent: rises };
}
