<script setup lang="ts" generic="T">
import { computed, ref } from 'vue';
import { saveBlob } from '../stores/save-blob.ts';
import { csvCell } from './csv-cell.ts';
import type { DenseColumn } from './dense-column.ts';

/** A dense sortable table; the first column is a button that chooses the row. Slots `cell-KEY` draw cells. */
const props = defineProps<{
  columns: readonly DenseColumn<T>[];
  rows: readonly T[];
  rowKey: (row: T) => string | number;
  chosen: string | number | null;
  caption: string;
  empty: string;
  most: number;
  /** Rows shown until all are asked for; all of them where it is missing. */
  first?: number;
  /** Name of the file that the table is saved as; no export without it. */
  exportName?: string;
}>();
const emit = defineEmits<{ choose: [row: T] }>();

const sortKey = ref('');
const sortDown = ref(true);
const isWhole = ref(false);
const shown = computed(() => (isWhole.value ? props.most : Math.min(props.most, props.first ?? props.most)));
const hidden = computed(() => Math.min(props.most, props.rows.length) - shown.value);

const sorted = computed(() => {
  const order = props.columns.find((column) => column.key === sortKey.value)?.order;
  if (order === undefined) return props.rows;
  const sign = sortDown.value ? -1 : 1;
  return [...props.rows].sort((a, b) => sign * compare(order(a), order(b)));
});

const told = ref('');

// Exact values where a column sorts by them, else its text.
function csv(): string {
  const columns = props.columns.filter(({ saved, order, text }) => saved ?? order ?? text);
  const lines = sorted.value.map((row) => columns.map(({ saved, order, text }) => csvCell(saved?.(row) ?? order?.(row) ?? text!(row))).join(','));
  return [columns.map(({ title }) => csvCell(title)).join(','), ...lines, ''].join('\n');
}

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(csv());
  told.value = 'copied';
  setTimeout(() => { told.value = ''; }, 3000);
}

function save(): void {
  saveBlob(new Blob([csv()], { type: 'text/csv' }), `${props.exportName}.csv`);
}

function compare(a: number | string, b: number | string): number {
  if (typeof a === 'string' || typeof b === 'string') return String(a).localeCompare(String(b));
  return a - b;
}

function sortBy(column: DenseColumn<T>): void {
  if (sortKey.value === column.key) sortDown.value = !sortDown.value;
  else {
    sortKey.value = column.key;
    sortDown.value = column.isText !== true;
  }
}
</script>

<template>
  <div>
    <table class="dense">
      <caption class="visually-hidden">{{ caption }}</caption>
      <thead>
        <tr>
          <th v-for="column in columns" :key="column.key" scope="col" :class="[`col-${column.key}`, { text: column.isText }]" :aria-sort="column.key === sortKey ? (sortDown ? 'descending' : 'ascending') : undefined">
            <button v-if="column.order" type="button" @click="sortBy(column)">{{ column.title }}{{ column.key === sortKey ? (sortDown ? ' ↓' : ' ↑') : '' }}</button>
            <template v-else>{{ column.title }}</template>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in sorted.slice(0, shown)" :key="rowKey(row)" :class="{ chosen: rowKey(row) === chosen }" @click="emit('choose', row)">
          <td v-for="(column, place) in columns" :key="column.key" :class="[`col-${column.key}`, { text: column.isText, wide: place === 0 }]" :title="column.hint?.(row)">
            <button v-if="place === 0" type="button" class="row-name" :aria-pressed="rowKey(row) === chosen" @click.stop="emit('choose', row)">
              <slot :name="`cell-${column.key}`" :row="row">{{ column.text?.(row) }}</slot>
            </button>
            <slot v-else :name="`cell-${column.key}`" :row="row">{{ column.text?.(row) }}</slot>
          </td>
        </tr>
        <tr v-if="rows.length === 0"><td :colspan="columns.length" class="text quiet">{{ empty }}</td></tr>
        <tr v-if="hidden > 0"><td :colspan="columns.length" class="text"><button type="button" class="linklike quiet" @click="isWhole = true">{{ hidden }} more</button></td></tr>
        <tr v-else-if="rows.length > most"><td :colspan="columns.length" class="text quiet">and {{ rows.length - most }} more; narrow the span or use the find field</td></tr>
      </tbody>
    </table>
    <p v-if="exportName && rows.length > 0" class="quiet condensed take"><button type="button" class="linklike" @click="copy">copy the table</button> <button type="button" class="linklike" data-test="csv" @click="save">save as CSV</button> <span role="status">{{ told }}</span></p>
  </div>
</template>

<style scoped>
tbody tr { cursor: pointer; }
.take { margin: 5px 0 0; font-size: 12px; display: flex; gap: 12px; justify-content: flex-end; }
th:first-child { min-width: 210px; }
@container (max-width: 620px) { th:first-child { min-width: 150px; } }
</style>
