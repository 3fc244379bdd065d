<script setup lang="ts">
import { formatBytes, formatPercent, type LifetimeRow, type LifetimesAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, exactBytes, plusMinus } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** How what each key allocates goes, and which keys are worth a look. */
const props = defineProps<{ answer: LifetimesAnswer }>();
const workspace = useWorkspace();
const WIDTH = 120;
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));

const CLASSES = [
  {
    key: 'soon',
    title: 'dies at once',
    of: (row: LifetimeRow) => row.soonBytes,
    se: (row: LifetimeRow) => row.soonBytesSe,
  },
  {
    key: 'middle',
    title: 'after some',
    of: (row: LifetimeRow) => row.middleBytes,
    se: (row: LifetimeRow) => row.middleBytesSe,
  },
  {
    key: 'lasting',
    title: 'lasts',
    of: (row: LifetimeRow) => row.lastingBytes,
    se: (row: LifetimeRow) => row.lastingBytesSe,
  },
] as const;
const columns = computed<readonly DenseColumn<LifetimeRow>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[workspace.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  { key: 'bar', title: 'how it goes' },
  ...CLASSES.map(({ key, title, of, se }) => ({
    key,
    title,
    unit: 'bytes',
    text: (row: LifetimeRow) => `${formatBytes(of(row))} ${plusMinus(se(row))}`.trim(),
    hint: (row: LifetimeRow) => exactBytes(of(row)),
    order: of,
    se,
  })),
  {
    key: 'copied',
    title: 'copied',
    unit: 'bytes',
    text: (row) => formatBytes(row.copiedBytes),
    order: (row) => row.copiedBytes,
    hint: () => 'bytes times the collections they lived through, 16 at most: what collectors copied of it, about',
  },
  {
    key: 'advice',
    title: 'to look at',
    text: (row) => row.advice,
    hint: (row) => row.advice,
    order: (row) => row.advice,
    isText: true,
  },
]);
const part = (bytes: number, row: LifetimeRow): number => (row.bytes > 0 ? (bytes / row.bytes) * WIDTH : 0);
const shareOf = (bytes: number): string => formatPercent(bytes / Math.max(1, props.answer.all.bytes));
</script>

<template>
  <div class="filling">
    <p v-if="answer.collections === 0" class="quiet" data-test="classes-missing">
      No collection is told in this span: how many an object lived through cannot be said.
    </p>
    <template v-else>
      <p class="condensed">
        Of {{ formatBytes(answer.all.bytes) }} that were allocated <b>{{ shareOf(answer.all.soonBytes) }}</b> died
        before a collection, <b>{{ shareOf(answer.all.middleBytes) }}</b> after living through some,
        <b>{{ shareOf(answer.all.lastingBytes) }}</b> last; the rest is too young to tell.
      </p>
      <DenseTable
        data-test="lifetimes"
        :columns="columns"
        :rows="answer.rows"
        :row-key="(row) => row.key"
        :chosen="chosen"
        fill
        caption="How objects go"
        export-name="lifetimes"
        :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No object was seen in this span.'"
        @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
      >
        <template #cell-key="{ row }"><KeyName :words="row" /></template>
        <template #cell-bar="{ row }"
          ><span class="bar" :style="{ width: `${WIDTH}px` }"
            ><span class="soon" :style="{ width: `${part(row.soonBytes, row)}px` }" /><span
              v-if="part(row.middleBytes, row) >= 1"
              class="middle"
              :style="{ width: `${part(row.middleBytes, row)}px` }" /><span
              class="lasting"
              :class="{ grows: row.grows }"
              :style="{ width: `${part(row.lastingBytes, row)}px` }" /></span
        ></template>
      </DenseTable>
      <p class="quiet small">
        Hatched: dead before a collection was lived through. Framed: lived through one or more and died, the part that
        is copied for nothing. Filled: alive after at least one, red where it grows. What a change saves is at most what
        is said.
      </p>
    </template>
  </div>
</template>

<style scoped>
p {
  margin: 4px 0;
}
.bar {
  display: inline-flex;
  height: 12px;
  vertical-align: middle;
  border-bottom: 1px solid var(--rule);
}
.bar span {
  box-sizing: border-box;
}
.soon {
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--kept) 3px 4px);
}
.middle {
  border: 2px solid var(--promoted);
}
.lasting {
  background: var(--kept);
}
.lasting.grows {
  background: var(--attention);
}
:deep(td.col-advice) {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
@container (max-width: 960px) {
  :deep(.col-soon),
  :deep(.col-lasting) {
    display: none;
  }
}
@container (max-width: 680px) {
  :deep(.col-copied) {
    display: none;
  }
}
</style>
