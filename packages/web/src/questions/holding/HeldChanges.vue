<script setup lang="ts">
import { type ChangedHolding, formatBytes, type InventoryChangesAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { heldByWords } from './held-by-words.ts';
import { useHolding } from './holding-state.ts';

/** What came, what went, and whose held bytes grew since another inventory. */
const props = defineProps<{ changes: InventoryChangesAnswer }>();
const holding = useHolding();
const count = (value: number): string => (Number.isNaN(value) ? 'not known' : value.toLocaleString('en'));
const signed = (bytes: number): string => `${bytes < 0 ? '−' : '+'}${formatBytes(Math.abs(bytes))}`;
const more = ({ a, b }: ChangedHolding): number => b.heldBytes - a.heldBytes;
const held = ({ heldBytes, heldIsExact }: ChangedHolding['a']): string =>
  `${heldIsExact ? '' : '≥ '}${formatBytes(heldBytes)}`;
const byNumber = computed<readonly DenseColumn<ChangedHolding>[]>(() =>
  props.changes.rows.every(({ came }) => Number.isNaN(came))
    ? []
    : [
        { key: 'came', title: 'came', text: (row) => count(row.came), order: (row) => row.came },
        { key: 'went', title: 'went', text: (row) => count(row.went), order: (row) => row.went },
      ],
);
const columns = computed<readonly DenseColumn<ChangedHolding>[]>(() => [
  { key: 'key', title: heldByWords(holding.by), order: (row) => row.key, isText: true },
  { key: 'more', title: 'held more', unit: 'bytes', text: (row) => signed(more(row)), order: more },
  { key: 'before', title: 'held before', text: (row) => held(row.a), order: (row) => row.a.heldBytes },
  { key: 'now', title: 'held now', text: (row) => held(row.b), order: (row) => row.b.heldBytes },
  {
    key: 'objects',
    title: 'objects',
    text: (row) => `${count(row.a.objects)} → ${count(row.b.objects)}`,
    order: (row) => row.b.objects - row.a.objects,
  },
  ...byNumber.value,
  { key: 'holder', title: 'kept by', text: (row) => row.holder, order: (row) => row.holder, isText: true },
]);
</script>

<template>
  <p v-if="changes.missing" class="urgent" role="status">{{ changes.missing }}.</p>
  <template v-else>
    <p v-for="sentence in changes.growing.slice(0, 3)" :key="sentence" class="grew" data-test="grew">{{ sentence }}</p>
    <DenseTable
      data-test="held-changes"
      :columns="columns"
      :rows="changes.rows"
      :row-key="(row) => row.key"
      :chosen="holding.chosen === '' ? null : holding.chosen"
      fill
      caption="What came, went and grew, the largest change first"
      export-name="held-changes"
      empty="Nothing changed."
      @choose="(row) => holding.choose(row.key)"
    >
      <template #cell-key="{ row }"
        ><code :class="{ quiet: !row.isOwn }">{{ row.key }}</code></template
      >
    </DenseTable>
    <p v-for="note in changes.notes" :key="note" class="quiet small">{{ note }}</p>
  </template>
</template>

<style scoped>
.grew {
  font-size: 15px;
  margin: 4px 0;
}
</style>
