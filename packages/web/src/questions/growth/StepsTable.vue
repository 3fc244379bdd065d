<script setup lang="ts">
import { formatBytes, formatClock, formatDuration, type Span, type Verdict } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { exactBytes } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** The steps of the floor; one that is chosen becomes the span, from the step before to the step after. */
const props = defineProps<{ verdict: Verdict; span: Span }>();
const workspace = useWorkspace();

interface StepRow {
  readonly tMs: number;
  readonly bytes: number;
  readonly sinceMs: number;
  readonly around: Span;
}
const rows = computed<StepRow[]>(() => {
  const { steps } = props.verdict;
  return steps.map(({ tMs, bytes }, place) => {
    const before = steps[place - 1]?.tMs ?? props.span.fromMs;
    return {
      tMs,
      bytes,
      sinceMs: place === 0 ? NaN : tMs - before,
      around: { fromMs: before, toMs: steps[place + 1]?.tMs ?? props.span.toMs },
    };
  });
});
const heading = computed(() => {
  const upward = props.verdict.steps
    .filter((step) => step.bytes > 0)
    .map((step) => step.bytes)
    .sort((a, b) => a - b);
  const period = Number.isNaN(props.verdict.periodMs)
    ? 'at uneven times'
    : `every ${formatDuration(props.verdict.periodMs)}`;
  return `+${formatBytes(upward[upward.length >> 1] ?? 0)} ${period}, ${upward.length} times`;
});
const columns: readonly DenseColumn<StepRow>[] = [
  {
    key: 'at',
    title: 'at',
    unit: 'ms',
    text: (row) => formatClock(row.tMs, true),
    order: (row) => row.tMs,
    isText: true,
  },
  {
    key: 'height',
    title: 'height',
    unit: 'bytes',
    text: (row) => `${row.bytes > 0 ? '+' : ''}${formatBytes(row.bytes)}`,
    order: (row) => row.bytes,
    hint: (row) => exactBytes(row.bytes),
  },
  {
    key: 'since',
    title: 'after the one before',
    unit: 'ms',
    text: (row) => (Number.isNaN(row.sinceMs) ? '–' : formatDuration(row.sinceMs)),
    order: (row) => row.sinceMs,
  },
];
</script>

<template>
  <v-expansion-panels class="steps" data-test="steps">
    <v-expansion-panel>
      <v-expansion-panel-title>
        <h3>Steps</h3>
        {{ ' ' }}
        <span class="quiet condensed">{{ heading }}</span>
      </v-expansion-panel-title>
      <v-expansion-panel-text>
        <DenseTable
          :columns="columns"
          :rows="rows"
          :row-key="(row) => row.tMs"
          :chosen="null"
          caption="Steps of the floor"
          export-name="steps"
          empty="No steps."
          @choose="(row) => workspace.setSpan(row.around)"
        />
        <p class="quiet small">A step that is chosen becomes the span, from the step before it to the step after.</p>
      </v-expansion-panel-text>
    </v-expansion-panel>
  </v-expansion-panels>
</template>

<style scoped>
.steps {
  margin: 4px 0 8px;
  max-width: 520px;
}
</style>
