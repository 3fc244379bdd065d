<script setup lang="ts">
import { type ComparisonAnswer, figureText, type FigureChange, type Per } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { intervalText, PER_WORDS, signed } from './changes-words.ts';

/** Figures of both sides: amounts per what is chosen, the others as they are. */
const props = defineProps<{ answer: ComparisonAnswer; per: Per }>();

const rows = computed(() => {
  const amounts = new Set(props.answer.figures.filter(({ per }) => per !== 'all').map(({ name }) => name));
  return props.answer.figures.filter(({ name, per }) => per === (amounts.has(name) ? props.per : 'all'));
});
const nameOf = ({ name, per }: FigureChange): string => (per === 'all' ? name : `${name} ${PER_WORDS[per]}`);
const columns: readonly DenseColumn<FigureChange>[] = [
  { key: 'name', title: 'figure', text: nameOf, order: nameOf, isText: true },
  {
    key: 'a',
    title: 'A, before',
    text: ({ unit, a }) => figureText(unit, a.value),
    hint: ({ unit, a }) => intervalText(unit, a),
    order: ({ a }) => a.value,
  },
  {
    key: 'b',
    title: 'B, after',
    text: ({ unit, b }) => figureText(unit, b.value),
    hint: ({ unit, b }) => intervalText(unit, b),
    order: ({ b }) => b.value,
  },
  { key: 'difference', title: 'difference', order: ({ difference }) => difference },
  {
    key: 'share',
    title: 'of A',
    text: ({ a, difference }) =>
      a.value === 0 || Number.isNaN(difference) ? '–' : signed('ratio', difference / Math.abs(a.value)),
    order: ({ a, difference }) => difference / Math.abs(a.value),
  },
  {
    key: 'clear',
    title: 'clear',
    term: 'clear',
    text: ({ clear, pValue }) => (clear ? 'clear' : Number.isNaN(pValue) ? 'no error known' : 'not clear'),
    order: ({ clear }) => Number(clear),
    isText: true,
  },
];
</script>

<template>
  <DenseTable
    data-test="figure-changes"
    :columns="columns"
    :rows="rows"
    :row-key="(row) => `${row.name} ${row.per}`"
    :chosen="null"
    fill
    caption="Figures of both sides"
    export-name="figures-compared"
    empty="The two sides tell no figure that both have."
  >
    <template #cell-name="{ row }"
      ><span :class="{ quiet: !row.clear }">{{ nameOf(row) }}</span></template
    >
    <template #cell-difference="{ row }">
      <span :class="{ quiet: !row.clear }"
        >{{ signed(row.unit, row.difference) }} <span class="quiet">{{ intervalText(row.unit, row) }}</span></span
      >
    </template>
  </DenseTable>
</template>
