import type { Question } from '../../stores/question.ts';
import LedgerView from './LedgerView.vue';
import { useLedger } from './ledger-state.ts';

export const ledger: Question = {
  id: 'ledger',
  title: 'What happened, exactly?',
  measures: ['ledger'],
  line: ({ events }) => ({ answer: `${events.toLocaleString('en')} events`, urgent: false }),
  state: useLedger,
  view: LedgerView,
  keys: [
    ['↑ ↓', 'a line up, down'],
    ['Page ↑ ↓', 'a page up, down'],
    ['Home End', 'the first event, the last'],
    ['c C', 'the next collection, the one before'],
    ['Enter', 'opens the line'],
  ],
};
