import type { Overview } from '@brisk-heron/core';
import { lifetimeText } from '../../components/figures.ts';
import type { Question, RailLine } from '../../stores/question.ts';
import SurvivalView from './SurvivalView.vue';
import { useSurvival } from './survival-state.ts';

export const survival: Question = {
  id: 'survival',
  title: 'What survives?',
  measures: ['survival', 'lifetimes', 'promotion', 'birthAge'],
  line,
  state: useSurvival,
  view: SurvivalView,
  keys: [
    ['↑ ↓ ← →', 'map: moves the chosen region; with Shift its far corner'],
    ['Enter', 'map: finds what died in the region'],
  ],
};

function line({ medianLifetime, format }: Overview): RailLine {
  if (medianLifetime === null)
    return { answer: format === 'recording' ? 'no object was seen' : 'a log follows no objects', urgent: false };
  const lived = lifetimeText(medianLifetime);
  const within = lived.startsWith('under ') ? `within ${lived.slice(6)}` : `after ${lived}`;
  return { answer: `half is dead ${within}`, urgent: false };
}
