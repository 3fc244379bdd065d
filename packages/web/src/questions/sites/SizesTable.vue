<script setup lang="ts">
import { formatBytes, formatPercent, SIZE_BUCKETS, type SizesAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, countText, exactBytes, plusMinus, plusMinusCount, shortType } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/**
 * How many objects of each key, how big they are, and the distribution of their sizes: one giant and two million dwarfs
 * look different.
 */
const props = defineProps<{ answer: SizesAnswer }>();
const workspace = useWorkspace();
type Row = SizesAnswer['rows'][number];
const WIDTH = 132;
const TALL = 20;

const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
/** Buckets that any key has objects in: one scale for all rows. */
const reach = computed(() => {
  const used = Array.from({ length: SIZE_BUCKETS }, (_, bucket) => bucket).filter((bucket) =>
    props.answer.rows.some((row) => row.counts[bucket]! > 0),
  );
  return used.length === 0 ? { from: 0, to: 1 } : { from: used[0]!, to: used[used.length - 1]! + 1 };
});
const columns = computed<readonly DenseColumn<Row>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[workspace.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  { key: 'count', title: 'objects', order: (row) => row.count, se: (row) => row.countSe },
  {
    key: 'bytes',
    title: 'bytes',
    unit: 'bytes',
    order: (row) => row.bytes,
    se: (row) => row.bytesSe,
    hint: (row) => exactBytes(row.bytes),
  },
  {
    key: 'mean',
    title: 'mean',
    unit: 'bytes',
    text: (row) => formatBytes(row.bytes / row.count),
    order: (row) => row.bytes / row.count,
  },
  {
    key: 'range',
    title: 'smallest – largest',
    text: (row) =>
      row.smallestBytes === row.largestBytes
        ? formatBytes(row.largestBytes)
        : `${formatBytes(row.smallestBytes)} – ${formatBytes(row.largestBytes)}`,
    order: (row) => row.largestBytes,
    saved: (row) => `${row.smallestBytes} – ${row.largestBytes}`,
  },
  {
    key: 'kept',
    title: 'kept',
    unit: 'ratio',
    text: (row) => formatPercent(share(row.keptOfSpanBytes, row)),
    order: (row) => share(row.keptOfSpanBytes, row),
    hint: (row) => exactBytes(row.keptOfSpanBytes),
  },
  {
    key: 'died',
    title: 'died',
    unit: 'ratio',
    text: (row) => formatPercent(share(row.diedBytes, row)),
    order: (row) => share(row.diedBytes, row),
    hint: (row) => exactBytes(row.diedBytes),
  },
  { key: 'sizes', title: `${formatBytes(2 ** reach.value.from)} … ${formatBytes(2 ** reach.value.to)}` },
]);
const share = (bytes: number, row: Row): number => (row.allocBytes > 0 ? bytes / row.allocBytes : 0);
const words = (row: Row): Row => (workspace.charge === 'type' ? { ...row, name: shortType(row.name) } : row);

// Solid: share of the bytes; the line: share of the objects. Both on one scale of sizes by powers of two.
function bars(row: Row): { x: number; y: number; width: number; height: number }[] {
  const { from, to } = reach.value;
  const step = WIDTH / (to - from);
  return Array.from({ length: to - from }, (_, place) => {
    const height = (row.bucketBytes[from + place]! / row.bytes) * (TALL - 1);
    return { x: place * step + 0.5, y: TALL - height, width: step - 1, height };
  }).filter(({ height }) => height > 0);
}
function outline(row: Row): string {
  const { from, to } = reach.value;
  const step = WIDTH / (to - from);
  return Array.from({ length: to - from }, (_, place) => {
    const y = (TALL - (row.counts[from + place]! / row.count) * (TALL - 1)).toFixed(1);
    return `${place === 0 ? 'M' : 'L'}${(place * step).toFixed(1)},${y}H${((place + 1) * step).toFixed(1)}`;
  }).join('');
}
</script>

<template>
  <div class="filling">
    <DenseTable
      data-test="sizes"
      :columns="columns"
      :rows="answer.rows"
      :row-key="(row) => row.key"
      :chosen="chosen"
      fill
      caption="Sizes of objects"
      export-name="sizes"
      empty="No object of which the source tells its own size was born in this span."
      @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
    >
      <template #cell-key="{ row }"><KeyName :words="words(row)" :title="row.name" /></template>
      <template #cell-count="{ row }"
        >{{ countText(row.count, row.countSe) }} <span class="quiet">{{ plusMinusCount(row.countSe) }}</span></template
      >
      <template #cell-bytes="{ row }"
        >{{ formatBytes(row.bytes) }} <span class="quiet">{{ plusMinus(row.bytesSe) }}</span></template
      >
      <template #cell-sizes="{ row }"
        ><svg :width="WIDTH" :height="TALL" aria-hidden="true">
          <rect v-for="bar in bars(row)" :key="bar.x" v-bind="bar" fill="var(--kept)" opacity="0.55" />
          <path :d="outline(row)" fill="none" stroke="var(--ink)" /></svg
      ></template>
    </DenseTable>
    <p class="quiet small">
      Filled: share of the key's bytes by size of object, in powers of two. Line: share of its objects. Kept and died
      are shares of its bytes; the rest is too young to tell.
    </p>
  </div>
</template>

<style scoped>
@container (max-width: 1000px) {
  :deep(.col-mean) {
    display: none;
  }
}
@container (max-width: 800px) {
  :deep(.col-range) {
    display: none;
  }
}
@container (max-width: 680px) {
  :deep(.col-count .quiet) {
    display: none;
  }
}
@container (max-width: 560px) {
  :deep(.col-kept),
  :deep(.col-died) {
    display: none;
  }
}
</style>
