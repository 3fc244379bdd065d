<script setup lang="ts">
import { formatBytes, formatClock, type PeakAnswer, type UsedPeak } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, exactBytes, plusMinus } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { useGrowth } from './growth-state.ts';

/** What lived at the span's highest point, what of it went afterwards, and what stayed. */
const props = defineProps<{ peak: PeakAnswer; used: UsedPeak | null }>();
const workspace = useWorkspace();
const growth = useGrowth();
type Row = PeakAnswer['rows'][number];

/** Use that no seen object explains, beyond this share of the peak, is said. */
const UNSEEN_RATIO = 1.5;
const unseen = computed(() =>
  props.used !== null && props.used.usedBytes > UNSEEN_RATIO * props.peak.bytes ? props.used : null,
);
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
const gone = (row: Row): number => row.beforeBytes - row.afterBytes;

const columns = computed<readonly DenseColumn<Row>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[growth.answer?.charge ?? 'site'],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'top',
    title: 'at the top',
    unit: 'bytes',
    text: (row) => formatBytes(row.beforeBytes),
    order: (row) => row.beforeBytes,
    hint: (row) => exactBytes(row.beforeBytes),
  },
  {
    key: 'gone',
    title: 'gone after',
    unit: 'bytes',
    order: gone,
    se: (row) => row.changeSe,
    hint: (row) => (row.isClear ? '' : 'within the error of the estimate'),
  },
  {
    key: 'stayed',
    title: 'stayed',
    unit: 'bytes',
    text: (row) => formatBytes(row.afterBytes),
    order: (row) => row.afterBytes,
  },
  { key: 'bar', title: 'gone and stayed' },
]);
const most = computed(() => props.peak.rows.reduce((largest, row) => Math.max(largest, row.beforeBytes), 1));
</script>

<template>
  <section class="peak" aria-label="Peak" data-test="peak">
    <div class="head">
      <h3>The highest point</h3>
      <span class="quiet condensed">
        <v-btn variant="plain" @click="workspace.lookInto(peak.tMs)"> {{ formatClock(peak.tMs, true) }}</v-btn>:
        {{ formatBytes(peak.bytes) }} lived, after {{ formatBytes(peak.beforeBytes) }} before it; by
        <v-btn variant="plain" @click="workspace.lookInto(peak.afterMs, null, peak.tMs)">
          {{ formatClock(peak.afterMs, true) }}
        </v-btn>
        {{ formatBytes(peak.afterBytes) }} were left
      </span>
    </div>
    <DenseTable
      :columns="columns"
      :rows="peak.rows"
      :row-key="(row) => row.key"
      :chosen="chosen"
      :first="6"
      caption="What lived at the highest point"
      export-name="peak"
      empty="Nothing that was seen lived then."
      @choose="
        (row) => workspace.select({ kind: 'key', charge: growth.answer?.charge ?? workspace.charge, key: row.key })
      "
    >
      <template #cell-key="{ row }"><KeyName :words="row" /></template>
      <template #cell-gone="{ row }"
        ><span :class="{ quiet: !row.isClear }"
          >{{ formatBytes(gone(row)) }} <span class="quiet">{{ plusMinus(row.changeSe) }}</span></span
        ></template
      >
      <template #cell-bar="{ row }"
        ><span class="bar"
          ><span
            class="stayed"
            :style="{ width: `${(Math.min(row.beforeBytes, row.afterBytes) / most) * 120}px` }" /><span
            class="died"
            :style="{ width: `${(Math.max(0, gone(row)) / most) * 120}px` }" /></span
      ></template>
    </DenseTable>
    <p v-if="unseen" class="quiet small">
      At {{ formatClock(unseen.tMs, true) }} the heap used {{ formatBytes(unseen.usedBytes) }}: the rest was garbage
      that no collection had taken yet, or came and went where single objects are not seen.
    </p>
  </section>
</template>

<style scoped>
.peak {
  margin-top: 14px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
  margin-bottom: 2px;
}
.bar {
  display: inline-flex;
  width: 124px;
  vertical-align: middle;
}
.stayed {
  height: 12px;
  background: var(--kept);
}
.died {
  height: 12px;
  box-sizing: border-box;
  border: 1px solid var(--kept);
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--kept) 3px 4px);
}
@container (max-width: 620px) {
  :deep(.col-bar) {
    display: none;
  }
}
</style>
