import { formatBytes, type Overview } from '@brisk-heron/core';
import type { Question, RailLine } from '../../stores/question.ts';
import HoldingView from './HoldingView.vue';
import { useHolding } from './holding-state.ts';

export const holding: Question = {
  id: 'holding',
  title: 'Why does it stay?',
  measures: ['holding', 'reasons', 'inventoryChanges'],
  line,
  state: useHolding,
  view: HoldingView,
};

function line({ inventory }: Overview): RailLine {
  if (inventory === null) return { answer: 'no inventory was taken', urgent: false };
  return {
    answer: `${inventory.objects.toLocaleString('en')} objects, ${formatBytes(inventory.ownBytes)}`,
    urgent: false,
  };
}
