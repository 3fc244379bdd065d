<script setup lang="ts" generic="T">
import { csvText, Z_95 } from '@brisk-heron/core';
import { computed, ref, type StyleValue } from 'vue';
import ColumnGrip from './ColumnGrip.vue';
import TermTip from '../words/TermTip.vue';
import TakeTable from './TakeTable.vue';
import { columnChoice } from './column-choice.ts';
import type { DenseColumn } from './dense-column.ts';

/**
 * A dense sortable table of which only the rows in sight are in the document; the first column is a button that chooses
 * the row. Slots `cell-KEY` draw cells.
 */
const props = defineProps<{
  columns: readonly DenseColumn<T>[];
  rows: readonly T[];
  rowKey: (row: T) => string | number;
  chosen: string | number | null;
  caption: string;
  empty: string;
  /** Rows shown until all are asked for; all of them where it is missing. */
  first?: number;
  /** True for a table that takes the height that is left in its view. */
  fill?: boolean;
  /** Name of the file that the table is saved as. */
  exportName: string;
}>();
const emit = defineEmits<{ choose: [row: T] }>();

const ROW = 29;
const HEAD = 28;
/** Rows of a table that does not fill its view before it scrolls. */
const MOST_ROWS = 24;
const choice = columnChoice(props.exportName);
const frame = ref<HTMLElement | null>(null);
const sortKey = ref('');
const sortDown = ref(true);
const isWhole = ref(false);
const shownColumns = computed(() =>
  props.columns.filter(({ key }, place) => place === 0 || !choice.hidden.value.has(key)),
);
const hiddenRows = computed(() =>
  isWhole.value || props.first === undefined ? 0 : Math.max(0, props.rows.length - props.first),
);

const sorted = computed(() => {
  const order = props.columns.find((column) => column.key === sortKey.value)?.order;
  if (order === undefined) return props.rows;
  const sign = sortDown.value ? -1 : 1;
  return [...props.rows].sort((a, b) => compare(order(a), order(b), sign));
});
const shown = computed(() => [...sorted.value.slice(0, props.rows.length - hiddenRows.value)]);
/** Height of head and rows, with room for a scroll bar below them. */
const tall = computed(() => HEAD + 2 + Math.max(1, shown.value.length) * ROW);
const height = computed(() => Math.min(tall.value, HEAD + 2 + MOST_ROWS * ROW));

// Exact values where a column sorts by them, else its text; errors beside them.
function csv(): string {
  const columns = props.columns.filter(({ saved, order, text }) => saved ?? order ?? text);
  return csvText(
    columns.flatMap(({ title, unit, se }) => {
      const head = unit === undefined ? title : `${title} (${unit})`;
      return se === undefined ? [head] : [head, `${head} ±`];
    }),
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

const sortOf = (key: string): 'ascending' | 'descending' | undefined =>
  key !== sortKey.value ? undefined : sortDown.value ? 'descending' : 'ascending';
const arrowOf = (key: string): string => ({ ascending: ' ↑', descending: ' ↓', none: '' })[sortOf(key) ?? 'none'];
function widen(key: string, by: number): void {
  const drawn = frame.value?.querySelector(`th.col-${key}`)?.getBoundingClientRect().width ?? 0;
  choice.resize(key, (choice.widths.value.get(key) ?? drawn) + by);
}
const widthOf = (key: string): StyleValue => {
  const width = choice.widths.value.get(key);
  return width === undefined ? {} : { width: `${width}px`, minWidth: `${width}px`, maxWidth: `${width}px` };
};
// Rows are values of their own to the table: it looks into none.
const headers = computed(() => shownColumns.value.map(({ key, title }) => ({ key, title, value: () => null })));
</script>

<template>
  <div ref="frame" class="dense-table" :class="{ fill }" :style="{ '--tall': `${tall}px`, '--rows': shown.length }">
    <v-data-table-virtual
      class="dense"
      :headers="headers"
      :items="shown"
      :item-value="rowKey"
      :item-height="ROW"
      :height="fill ? undefined : height"
      fixed-header
    >
      <template #caption>
        <caption class="visually-hidden">
          {{
            caption
          }}
        </caption>
      </template>
      <template #headers>
        <tr>
          <th
            v-for="column in shownColumns"
            :key="column.key"
            scope="col"
            :class="[`col-${column.key}`, { text: column.isText }]"
            :style="widthOf(column.key)"
            :aria-sort="sortOf(column.key)"
          >
            <v-btn v-if="column.order" variant="plain" @click="sortBy(column)"
              >{{ column.title }}{{ arrowOf(column.key) }}<TermTip v-if="column.term" :word="column.term" /></v-btn
            ><template v-else>{{ column.title }}</template
            ><ColumnGrip @resize="(width) => choice.resize(column.key, width)" />
          </th>
        </tr>
      </template>
      <template #item="{ item: row }">
        <tr class="row" :class="{ chosen: rowKey(row) === chosen }" @click="emit('choose', row)">
          <td
            v-for="(column, place) in shownColumns"
            :key="column.key"
            :class="[`col-${column.key}`, { text: column.isText, wide: place === 0 }]"
            :style="widthOf(column.key)"
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
      </template>
      <template #no-data>
        <span class="quiet">{{ empty }}</span>
      </template>
    </v-data-table-virtual>
    <TakeTable v-if="rows.length > 0" :csv="csv" :name="exportName">
      <v-btn v-if="hiddenRows > 0" variant="plain" class="more" @click="isWhole = true">{{ hiddenRows }} more</v-btn>
      <template v-if="columns.length > 2" #columns>
        <v-menu :close-on-content-click="false">
          <template #activator="{ props: activator }"
            ><v-btn v-bind="activator" variant="plain">columns</v-btn></template
          >
          <v-list>
            <v-list-item v-for="column in columns.slice(1)" :key="column.key">
              <v-checkbox-btn
                :label="column.title"
                :model-value="!choice.hidden.value.has(column.key)"
                @update:model-value="choice.toggle(column.key)"
              />
              <template #append>
                <v-btn variant="plain" :aria-label="`${column.title}: narrower`" @click="widen(column.key, -24)"
                  >−</v-btn
                >{{ ' ' }}
                <v-btn variant="plain" :aria-label="`${column.title}: wider`" @click="widen(column.key, 24)">+</v-btn>
              </template>
            </v-list-item>
          </v-list>
        </v-menu>
      </template>
    </TakeTable>
  </div>
</template>

<style scoped>
.dense-table {
  display: flex;
  flex-direction: column;
}
.dense-table.fill {
  flex: 1 1 0;
  min-height: min(calc(var(--tall) + 24px), 250px);
  max-height: calc(var(--tall) + 24px);
}
.dense-table > :first-child {
  min-height: 0;
}
.more {
  margin-right: auto;
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
