import type { OutcomeKind, Overview } from '@brisk-heron/core';
import type { Question, RailLine } from '../../stores/question.ts';
import ChangesView from './ChangesView.vue';
import { useChanges } from './changes-state.ts';

const OUTCOME_WORDS: Readonly<Record<OutcomeKind, string>> = {
  fixed: 'fixed',
  better: 'better',
  same: 'no difference that matters',
  worse: 'worse',
  mixed: 'better and worse',
  unclear: 'cannot be told yet',
};

export const changes: Question = {
  id: 'changes',
  title: 'What changed?',
  measures: ['comparison', 'pathChanges', 'overview', 'ribbon'],
  line,
  state: useChanges,
  view: ChangesView,
  keys: [
    ['i', 'call paths: opens the way of the greatest increase'],
    ['drag', 'on one of the two ribbons: the span of that side'],
    ['Escape', 'on one of the two ribbons: all of that side'],
  ],
};

// It is asked while its view is shown: of another span it says nothing.
function line({ span }: Overview): RailLine {
  const { answer, isOtherAfter, otherId } = useChanges();
  if (otherId === '') return { answer: 'nothing to compare with yet', urgent: false };
  const mine = isOtherAfter ? answer?.a.span : answer?.b.span;
  if (answer === null || mine?.fromMs !== span.fromMs || mine.toMs !== span.toMs)
    return { answer: 'two sides are chosen', urgent: false };
  return { answer: OUTCOME_WORDS[answer.outcome], urgent: answer.outcome === 'worse' };
}
