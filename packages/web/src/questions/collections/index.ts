import { formatDuration, formatPercent, type Overview } from '@brisk-heron/core';
import type { Question, RailLine } from '../../stores/question.ts';
import CollectionsView from './CollectionsView.vue';
import { useCollections } from './collections-state.ts';

/** The collector has taken so much of the time that it needs attention. */
const MUCH_LOST_RATIO = 0.1;

export const collections: Question = {
  id: 'collections',
  title: 'What does collecting cost?',
  measures: ['collections'],
  line: (overview): RailLine => ({
    answer: answer(overview),
    urgent: overview.storms > 0 || (overview.lostRatio ?? 0) > MUCH_LOST_RATIO,
  }),
  state: useCollections,
  view: CollectionsView,
  keys: [
    ['n', 'the next pause'],
    ['p', 'the pause before'],
    ['l', 'the next longest'],
    ['s', 'the next of its kind'],
    ['b', 'the one before of its kind'],
    ['← →', 'on an edge between buckets: moves it'],
    ['Delete', 'on an edge between buckets: takes it away'],
  ],
};

function answer(overview: Overview): string {
  const { pausesTold, lostRatio, longestPauseMs, storms, findings, silences } = overview;
  if (!pausesTold && lostRatio === null)
    return `${silences.length > 0 ? 'at least ' : ''}${overview.collections} collections; pauses not told`;
  const share =
    lostRatio === null
      ? 'share of time unknown'
      : `${pausesTold ? '' : 'at least '}${formatPercent(lostRatio)} of time`;
  const worst = longestPauseMs === null ? 'no pauses' : `worst ${formatDuration(longestPauseMs)}`;
  if (storms > 0) return `${storms} storm${storms === 1 ? '' : 's'} · ${worst}`;
  return findings.length > 0
    ? `${share} · ${findings.length} finding${findings.length === 1 ? '' : 's'}`
    : `${share} · ${worst}`;
}
