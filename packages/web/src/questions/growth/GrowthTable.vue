<script setup lang="ts">
import { type Charge, formatBytes, formatDuration, formatPercent, type GrowthRow, Z_95 } from '@brisk-heron/core';
import { computed } from 'vue';
import { sparkPath } from '../../charts/spark.ts';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import {
  CHARGE_WORDS,
  countText,
  exactBytes,
  patternText,
  plusMinus,
  plusMinusCount,
  shortType,
  slopeText,
} from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** Keys of one charge, ranked by what they add to the floor. */
const props = defineProps<{
  rows: readonly GrowthRow[];
  charge: Charge;
  first: number;
  fill?: boolean;
  caption: string;
  empty: string;
}>();
const workspace = useWorkspace();
const chosen = computed(() =>
  workspace.selection?.kind === 'key' && workspace.selection.charge === props.charge ? workspace.selection.key : null,
);

const columns = computed<readonly DenseColumn<GrowthRow>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[props.charge],
    term: props.charge === 'ownFrame' ? 'own frame' : 'charge',
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'adds',
    title: 'adds a minute',
    unit: 'bytes',
    order: (row) => 60 * row.growthBytesPerSec,
    se: (row) => (60 * (row.growthHigh - row.growthLow)) / 2 / Z_95,
    hint: (row) =>
      Number.isNaN(row.growthLow)
        ? 'changes too little to be measured'
        : `95 %: ${slopeText(row.growthLow)} to ${slopeText(row.growthHigh)}`,
  },
  { key: 'share', title: 'of growth', unit: 'ratio', order: (row) => row.growthShareRatio },
  {
    key: 'kept',
    title: 'kept now',
    term: 'kept',
    unit: 'bytes',
    order: (row) => row.keptBytes,
    se: (row) => row.keptBytesSe,
    hint: (row) => exactBytes(row.keptBytes),
  },
  ...(props.rows.some((row) => !Number.isNaN(row.keptCount))
    ? [
        {
          key: 'objects',
          title: 'objects',
          order: (row: GrowthRow) => row.keptCount,
          se: (row: GrowthRow) => row.keptCountSe,
          text: (row: GrowthRow) => countText(row.keptCount, row.keptCountSe),
          hint: (row: GrowthRow) =>
            `${plusMinusCount(row.keptCountSe)}, ${row.keptSamples} of them seen`.replace(/^, /, ''),
        },
      ]
    : []),
  {
    key: 'age',
    title: 'age',
    unit: 'ms',
    order: (row) => row.keptAgeMs,
    text: (row) => formatDuration(row.keptAgeMs),
    hint: () => 'mean age of what is kept, each byte alike',
  },
  {
    key: 'pattern',
    title: 'pattern',
    text: patternText,
    hint: (row) => (Number.isNaN(row.tau) ? '' : `steadiness, Kendall's τ: ${row.tau.toFixed(2)}`),
    isText: true,
  },
  { key: 'spark', title: 'in the span' },
]);
const name = (row: GrowthRow): GrowthRow => (props.charge === 'type' ? { ...row, name: shortType(row.name) } : row);
</script>

<template>
  <DenseTable
    :columns="columns"
    :rows="rows"
    :row-key="(row) => row.key"
    :chosen="chosen"
    :first="fill ? undefined : first"
    :fill="fill"
    :caption="caption"
    :export-name="`growth-by-${charge}`"
    :empty="empty"
    @choose="(row) => workspace.select({ kind: 'key', charge, key: row.key })"
  >
    <template #cell-key="{ row }"
      ><KeyName :words="name(row)" :title="row.name" :inferred-ratio="row.inferredBytes / Math.max(1, row.allocBytes)"
    /></template>
    <template #cell-adds="{ row }"
      ><template v-if="Number.isNaN(row.growthBytesPerSec)">–</template
      ><template v-else
        >{{ formatBytes(row.growthBytesPerSec * 60) }}
        <span class="quiet"
          >±
          {{
            Number.isFinite(row.growthHigh - row.growthLow) ? formatBytes((row.growthHigh - row.growthLow) * 30) : '?'
          }}</span
        ></template
      ></template
    >
    <template #cell-share="{ row }"
      ><span v-if="row.isOutside" class="quiet" title="It is no part of the floor">outside the heap</span
      ><template v-else
        ><span class="bar"
          ><span :class="{ unsure: !(row.growthLow > 0) }" :style="{ width: `${row.growthShareRatio * 50}px` }" /></span
        ><span class="share" :class="{ quiet: !(row.growthLow > 0) }">{{
          formatPercent(row.growthShareRatio)
        }}</span></template
      ></template
    >
    <template #cell-kept="{ row }"
      >{{ formatBytes(row.keptBytes) }} <span class="quiet">{{ plusMinus(row.keptBytesSe) }}</span></template
    >
    <template #cell-spark="{ row }"
      ><svg width="66" height="18" aria-hidden="true">
        <path :d="sparkPath(row.liveBytes, 66, 18)" fill="none" stroke="var(--ink)" stroke-width="1.3" /></svg
    ></template>
  </DenseTable>
</template>

<style scoped>
.bar {
  display: inline-block;
  width: 52px;
  text-align: left;
  vertical-align: middle;
}
.bar span {
  display: inline-block;
  height: 12px;
  background: var(--kept);
  vertical-align: middle;
  min-width: 1px;
}
/* What may be nothing is an outline. */
.bar .unsure {
  background: none;
  box-sizing: border-box;
  border: 1px solid var(--ink-2);
}
.share {
  display: inline-block;
  min-width: 42px;
}
/* Beside an open drawer or on a small screen: what the drawer shows as well goes first. */
@container (max-width: 900px) {
  :deep(.col-age) {
    display: none;
  }
}
@container (max-width: 800px) {
  :deep(.col-objects) {
    display: none;
  }
}
@container (max-width: 720px) {
  :deep(.col-spark) {
    display: none;
  }
}
@container (max-width: 600px) {
  :deep(.col-share) {
    display: none;
  }
}
</style>
