<script setup lang="ts" generic="T">
import { csvText, Z_95 } from '@brisk-heron/core';
import { computed, ref } from 'vue';
import type { DenseColumn } from './dense-column.ts';
import TakeTable from './TakeTable.vue';

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
  /** Name of the file that the table is saved as. */
  exportName: string;
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
  return [...props.rows].sort((a, b) => compare(order(a), order(b), sign));
});

// Exact values where a column sorts by them, else its text; errors beside them.
function csv(): string {
  const columns = props.columns.filter(({ saved, order, text }) => saved ?? order ?? text);
  return csvText(
    columns.flatMap(({ title, se }) => (se === undefined ? [title] : [title, `${title} ±`])),
    sorted.value.map((row) =>
      columns.flatMap(({ saved, order, text, se }) => {
        const value = saved?.(row) ?? order?.(row) ?? text!(row);
        return se === undefined ? [value] : [value, Z_95 * se(row)];
      }),
    ),
  );
}

// What is no number comes last either way.
function compare(a: number | string, b: number | string, sign: number): number {
  if (typeof a === 'string' || typeof b === 'string') return sign * String(a).localeCompare(String(b));
  return Number.isNaN(a) || Number.isNaN(b) ? Number(Number.isNaN(a)) - Number(Number.isNaN(b)) : sign * (a - b);
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
      <caption class="visually-hidden">
        {{
          caption
        }}
      </caption>
      <thead>
        <tr>
          <th
            v-for="column in columns"
            :key="column.key"
            scope="col"
            :class="[`col-${column.key}`, { text: column.isText }]"
            :aria-sort="column.key === sortKey ? (sortDown ? 'descending' : 'ascending') : undefined"
          >
            <button v-if="column.order" type="button" @click="sortBy(column)">
              {{ column.title }}{{ column.key === sortKey ? (sortDown ? ' ↓' : ' ↑') : '' }}
            </button>
            <template v-else>{{ column.title }}</template>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="row in sorted.slice(0, shown)"
          :key="rowKey(row)"
          :class="{ chosen: rowKey(row) === chosen }"
          @click="emit('choose', row)"
        >
          <td
            v-for="(column, place) in columns"
            :key="column.key"
            :class="[`col-${column.key}`, { text: column.isText, wide: place === 0 }]"
            :title="column.hint?.(row)"
          >
            <button
              v-if="place === 0"
              type="button"
              class="row-name"
              :aria-pressed="rowKey(row) === chosen"
              @click.stop="emit('choose', row)"
            >
              <slot :name="`cell-${column.key}`" :row="row">{{ column.text?.(row) }}</slot>
            </button>
            <slot v-else :name="`cell-${column.key}`" :row="row">{{ column.text?.(row) }}</slot>
          </td>
        </tr>
        <tr v-if="rows.length === 0">
          <td :colspan="columns.length" class="text quiet">{{ empty }}</td>
        </tr>
        <tr v-if="hidden > 0">
          <td :colspan="columns.length" class="text">
            <button type="button" class="linklike quiet" @click="isWhole = true">{{ hidden }} more</button>
          </td>
        </tr>
        <tr v-else-if="rows.length > most">
          <td :colspan="columns.length" class="text quiet">
            and {{ rows.length - most }} more; narrow the span or use the find field
          </td>
        </tr>
      </tbody>
    </table>
    <TakeTable v-if="rows.length > 0" :csv="csv" :name="exportName" />
  </div>
</template>

<style scoped>
tbody tr {
  cursor: pointer;
}
th:first-child {
  min-width: 210px;
}
@container (max-width: 620px) {
  th:first-child {
    min-width: 150px;
  }
}
</style>
