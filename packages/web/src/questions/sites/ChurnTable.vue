<script setup lang="ts">
import { type ChurnAnswer, type ChurnRow, formatBytes, formatDuration, formatPercent, Z_95 } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, countText, exactBytes, lifetimeText, plusMinus, shortType } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** Who makes the collector work: rates, how soon half of it is dead, and the young collections it causes. */
const props = defineProps<{ answer: ChurnAnswer }>();
const workspace = useWorkspace();
const seconds = computed(() => Math.max(1e-3, props.answer.seenMs / 1000));
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
const causedShare = (row: ChurnRow): number => row.caused / Math.max(1, props.answer.collections);
const middle = (row: ChurnRow): number => (row.lifetime === null ? -1 : row.lifetime.highMs || Infinity);
const few = (count: number): string =>
  count > 0 && count < 0.05 ? '< 0.1' : count < 10 ? count.toFixed(1) : Math.round(count).toLocaleString('en');

const columns = computed<readonly DenseColumn<ChurnRow>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[workspace.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'speed',
    title: 'a second',
    unit: 'bytes',
    order: (row) => row.allocBytes / seconds.value,
    se: (row) => row.allocBytesSe / seconds.value,
    hint: (row) => exactBytes(row.allocBytes / seconds.value),
  },
  {
    key: 'died',
    title: 'dead by the end',
    unit: 'ratio',
    text: (row) => formatPercent(row.diedBytes / row.allocBytes),
    order: (row) => row.diedBytes / row.allocBytes,
  },
  {
    key: 'lifetime',
    title: 'half is dead after',
    text: (row) => lifetimeText(row.lifetime),
    order: middle,
    saved: (row) => lifetimeText(row.lifetime),
    hint: (row) =>
      row.lifetime === null
        ? 'no birth was seen'
        : `median lifetime by bytes; the oldest reached ${formatDuration(row.lifetime.oldestMs)}`,
  },
  ...(props.answer.collections > 0
    ? [
        {
          key: 'caused',
          title: 'young collections',
          order: (row: ChurnRow) => row.caused,
          se: (row: ChurnRow) => row.causedSe,
          hint: (row: ChurnRow) =>
            `${few(row.caused)}${row.causedSe > 0 ? ` ± ${few(Z_95 * row.causedSe)}` : ''} of ${props.answer.collections}`,
        },
      ]
    : []),
  {
    key: 'type',
    title: 'mostly',
    text: (row) => shortType(row.type),
    hint: (row) => row.type ?? '',
    order: (row) => shortType(row.type),
    isText: true,
  },
  { key: 'samples', title: 'samples', text: (row) => countText(row.samples), order: (row) => row.samples },
]);
</script>

<template>
  <div class="filling">
    <DenseTable
      data-test="churn"
      :columns="columns"
      :rows="answer.rows"
      :row-key="(row) => row.key"
      :chosen="chosen"
      fill
      caption="Churn"
      export-name="churn"
      :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No allocation was seen in this span.'"
      @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
    >
      <template #cell-key="{ row }"><KeyName :words="row" /></template>
      <template #cell-speed="{ row }"
        >{{ formatBytes(row.allocBytes / seconds) }}/s
        <span class="quiet">{{ plusMinus(row.allocBytesSe / seconds) }}</span></template
      >
      <template #cell-caused="{ row }"
        ><span class="bar"><span :style="{ width: `${Math.max(1, causedShare(row) * 44)}px` }" /></span
        ><span class="percent">{{ few(row.caused) }}</span></template
      >
    </DenseTable>
    <p class="quiet small">
      <template v-if="answer.collections > 0"
        >Of each of the {{ answer.collections }} young collections in the span, a key caused the share that it had in
        what was allocated since the collection before. </template
      ><template v-else>The source tells no young collection in this span. </template>A lifetime lies between when an
      object was last known alive and when its death was noticed; what outlives the span counts as alive.
    </p>
  </div>
</template>

<style scoped>
.bar {
  display: inline-block;
  width: 46px;
  text-align: left;
  vertical-align: middle;
}
.bar span {
  display: inline-block;
  height: 12px;
  vertical-align: middle;
  border: 1px solid var(--kept);
  box-sizing: border-box;
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--kept) 3px 4px);
}
.percent {
  display: inline-block;
  min-width: 42px;
}
:deep(td.col-type) {
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
}
@container (max-width: 760px) {
  :deep(.col-samples),
  :deep(.col-type) {
    display: none;
  }
}
@container (max-width: 600px) {
  :deep(.col-died) {
    display: none;
  }
}
</style>
