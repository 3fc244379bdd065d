<script setup lang="ts">
import { formatBytes, formatClock, type SectionRow, type SectionsAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, plusMinus } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** What rounds leave to the end, by the section of the round, between two marks, in which it was born. */
const props = defineProps<{ answer: SectionsAnswer }>();
const workspace = useWorkspace();
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
const nameOf = (at: number): string => {
  const { from, to } = props.answer.sections[at]!;
  return `${from} → ${to}`;
};
const columns = computed<readonly DenseColumn<SectionRow>[]>(() => [
  {
    key: 'site',
    title: CHARGE_WORDS[workspace.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'section',
    title: 'born between',
    text: (row) => nameOf(row.section),
    order: (row) => nameOf(row.section),
    isText: true,
  },
  {
    key: 'bytes',
    title: 'stays, a round',
    unit: 'bytes',
    text: (row) => `${formatBytes(row.perRoundBytes)} ${plusMinus(row.perRoundSe)}`.trim(),
    order: (row) => row.perRoundBytes,
    se: (row) => row.perRoundSe,
  },
  {
    key: 'objects',
    title: 'objects, the middle round',
    text: (row) => (Number.isNaN(row.medianCount) ? '–' : String(Number(row.medianCount.toFixed(1)))),
    order: (row) => row.medianCount,
  },
  {
    key: 'agree',
    title: 'rounds alike',
    text: (row) => `${row.agreeing} of ${props.answer.rounds}`,
    order: (row) => row.agreeing,
  },
]);
</script>

<template>
  <div data-test="sections">
    <h3>In which section of a round it was born</h3>
    <p class="condensed quiet line">
      <span v-for="({ perRoundBytes, perRoundSe }, at) in answer.sections" :key="at" class="section"
        >{{ nameOf(at) }}: {{ formatBytes(perRoundBytes) }} {{ plusMinus(perRoundSe) }} a round</span
      >
    </p>
    <DenseTable
      :columns="columns"
      :rows="answer.rows"
      :row-key="(row) => `${row.key} ${row.section}`"
      :chosen="chosen"
      :first="6"
      caption="Sites by what stays of a section's births"
      export-name="sections"
      empty="Nothing that was born in these rounds stayed and was sampled."
      @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
    >
      <template #cell-site="{ row }"
        ><span v-if="row.isConstant" class="constant" title="at least 80 % of the rounds leave the same">▪ </span
        ><KeyName :words="row"
      /></template>
    </DenseTable>
    <p class="quiet small">
      What was born in a round and lives at {{ formatClock(answer.countedMs) }}, after the last mark. Two more marks in
      the section that leaves most narrow it down by halves.
    </p>
  </div>
</template>

<style scoped>
h3 {
  margin-top: 10px;
}
.line {
  margin: 4px 0;
}
.section {
  margin-right: 18px;
  white-space: nowrap;
}
.constant {
  color: var(--attention);
}
</style>
