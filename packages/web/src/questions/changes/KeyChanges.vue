<script setup lang="ts">
import { type ComparedKey, type ComparisonAnswer, type Estimate, formatBytes } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import DifferenceBar from './DifferenceBar.vue';
import { useChanges } from './changes-state.ts';
import { intervalText, signed, stateText } from './changes-words.ts';

/** Keys of both sides, those that surely differ first; the bar leans to the side that has more. */
const props = defineProps<{ answer: ComparisonAnswer }>();
const workspace = useWorkspace();
const changes = useChanges();
const HALF = 40;

const most = computed(() =>
  props.answer.keys.reduce((top, { difference }) => Math.max(top, Math.abs(difference) || 0), 0),
);
/** What is added or allocated is told a minute, what is kept as it is. */
const factor = computed(() => (props.answer.of === 'kept' ? 1 : 60));
const per = computed(() => (props.answer.of === 'kept' ? '' : ', a minute'));
const of = (row: ComparedKey, side: 0 | 1): Estimate => row[props.answer.of][side];
const amount = (value: number): string => (Number.isNaN(value) ? '–' : formatBytes(value * factor.value));
const chosen = computed(() =>
  workspace.selection?.kind === 'key' && workspace.selection.charge === props.answer.charge
    ? workspace.selection.key
    : null,
);
const side = (letter: string, at: 0 | 1): DenseColumn<ComparedKey> => ({
  key: letter.toLowerCase(),
  title: `${letter}${per.value}`,
  unit: 'bytes',
  text: (row) => amount(of(row, at).value),
  hint: (row) => intervalText('bytes', scaled(of(row, at))),
  order: (row) => of(row, at).value * factor.value,
});
const scaled = ({ low, high }: Pick<Estimate, 'low' | 'high'>): Pick<Estimate, 'low' | 'high'> => ({
  low: low * factor.value,
  high: high * factor.value,
});
const columns = computed<readonly DenseColumn<ComparedKey>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[props.answer.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  side('A', 0),
  side('B', 1),
  { key: 'difference', title: 'difference', unit: 'bytes', order: (row) => row.difference * factor.value },
  { key: 'bar', title: 'less · more' },
  {
    key: 'clear',
    title: 'clear',
    term: 'clear',
    text: (row) => (row.clear ? 'clear' : Number.isNaN(row.difference) ? 'not measured' : 'not clear'),
    order: (row) => Number(row.clear),
    isText: true,
  },
  { key: 'state', title: 'state', text: stateText, order: stateText, isText: true },
]);
/** The drawer tells of keys that the side that is looked at has. */
function choose(row: ComparedKey): void {
  const isThere = row.state === 'both' || (row.state === 'new') !== changes.isOtherAfter;
  if (isThere) workspace.select({ kind: 'key', charge: workspace.charge, key: row.key });
}
</script>

<template>
  <DenseTable
    data-test="key-changes"
    :columns="columns"
    :rows="answer.keys"
    :row-key="(row) => `${row.key} ${row.state}`"
    :chosen="chosen === null ? null : `${chosen} both`"
    fill
    caption="Keys of both sides"
    export-name="keys-compared"
    :empty="
      workspace.find ? `Nothing here matches “${workspace.find}”.` : 'Neither side allocated anything that was seen.'
    "
    @choose="choose"
  >
    <template #cell-key="{ row }"><KeyName :words="row" :class="{ quiet: !row.clear }" /></template>
    <template #cell-difference="{ row }">
      <span :class="{ quiet: !row.clear }"
        >{{ signed('bytes', row.difference * factor) }}
        <span class="quiet">{{ intervalText('bytes', scaled(row)) }}</span></span
      >
    </template>
    <template #cell-bar="{ row }">
      <DifferenceBar :difference="row.difference" :most="most" :half="HALF" :is-clear="row.clear" />
    </template>
  </DenseTable>
  <p class="quiet small">
    A bar to the left is more in A, to the right more in B; an outline is not clear.
    {{ answer.keyCount === 1 ? 'One key was tested.' : `${answer.keyCount} keys were tested together.` }}
  </p>
</template>
