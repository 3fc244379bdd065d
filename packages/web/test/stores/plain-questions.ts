import { useGrowth } from '../../src/questions/growth/growth-state.ts';
import type { Question } from '../../src/stores/question.ts';

/** The question of growth without its view, which needs a browser. */
export const QUESTIONS: readonly Question[] = [
  {
    id: 'growth',
    title: 'Is it growing?',
    measures: ['growth'],
    line: () => ({ answer: '', urgent: false }),
    state: useGrowth,
    view: {},
  },
];
