<script setup lang="ts">
import { formatBytes, formatClock, type RoundRow, type RoundsAnswer, type Span } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import InlineSelect from '../../components/InlineSelect.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, shortType } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import SectionsTable from './SectionsTable.vue';
import { useGrowth } from './growth-state.ts';

/** What each site keeps from round to round, between marks that repeat. */
const props = defineProps<{ answer: RoundsAnswer }>();
const workspace = useWorkspace();
const growth = useGrowth();
const rounds = computed<Span[]>(() =>
  Array.from(props.answer.marksMs.subarray(0, -1), (fromMs, round) => ({
    fromMs,
    toMs: props.answer.marksMs[round + 1]!,
  })),
);
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));

const labels = computed(() => props.answer.labels.map(({ label, times }) => [label, `${label} (${times})`] as const));
const signed = (bytes: number): string => `${bytes > 0 ? '+' : ''}${formatBytes(bytes)}`;
const columns = computed<readonly DenseColumn<RoundRow>[]>(() => [
  {
    key: 'site',
    title: CHARGE_WORDS[growth.answer?.charge ?? 'site'],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  ...(props.answer.rows.some((row) => row.type !== null)
    ? [
        {
          key: 'type',
          title: 'type',
          text: (row: RoundRow) => shortType(row.type),
          order: (row: RoundRow) => row.type ?? '',
          isText: true,
        },
      ]
    : []),
  {
    key: 'bytes',
    title: 'a round leaves',
    unit: 'bytes',
    text: (row) => signed(row.perRoundBytes),
    order: (row) => row.perRoundBytes,
  },
  ...(props.answer.rows.some((row) => row.perRoundCount !== 0 && !Number.isNaN(row.perRoundCount))
    ? [
        {
          key: 'objects',
          title: 'objects',
          text: (row: RoundRow) =>
            Number.isNaN(row.perRoundCount)
              ? '–'
              : `${row.perRoundCount > 0 ? '+' : ''}${Number(row.perRoundCount.toFixed(1))}`,
          order: (row: RoundRow) => row.perRoundCount,
        },
      ]
    : []),
  {
    key: 'agree',
    title: 'rounds',
    text: (row) => `${row.agreeing} of ${row.incrementBytes.length}`,
    order: (row) => row.agreeing,
  },
  {
    key: 'back',
    title: 'first mark → last',
    text: (row) => `${formatBytes(row.firstBytes)} → ${formatBytes(row.lastBytes)}`,
    order: (row) => row.lastBytes - row.firstBytes,
    saved: (row) => `${row.firstBytes} → ${row.lastBytes}`,
  },
]);
</script>

<template>
  <section class="rounds" aria-label="Rounds" data-test="rounds">
    <div class="head">
      <h3>What each round leaves</h3>
      <span class="quiet condensed"
        >between marks{{ ' ' }}
        <InlineSelect label="Between marks" :value="answer.label" :options="labels" @choose="growth.setRounds"
      /></span>
      <span class="quiet condensed spans"
        >span:
        <v-btn
          v-for="(round, place) in rounds"
          :key="place"
          variant="plain"
          :title="`${formatClock(round.fromMs, true)} – ${formatClock(round.toMs, true)}`"
          :aria-label="`Span of round ${place + 1}`"
          @click="workspace.setSpan(round)"
        >
          {{ place + 1 }}
        </v-btn>
      </span>
    </div>
    <DenseTable
      :columns="columns"
      :rows="answer.rows"
      :row-key="(row) => row.key"
      :chosen="chosen"
      :first="6"
      caption="Sites by what a round leaves"
      export-name="rounds"
      empty="Nothing that lives at a mark was sampled."
      @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
    >
      <template #cell-site="{ row }"
        ><span
          v-if="row.isConstant"
          class="constant"
          title="at least 80 % of the rounds leave the same, within the estimate's error"
          >▪ </span
        ><KeyName :words="row"
      /></template>
    </DenseTable>
    <p class="quiet small">
      ▪ a constant leak: at least 80 % of the rounds leave the same. Counted at the first floor point after each
      mark<template v-if="answer.collected < answer.marksMs.length"
        >; after {{ answer.marksMs.length - answer.collected }} of {{ answer.marksMs.length }} marks none came, so what
        was dead and not yet noticed counts there too</template
      >.
    </p>
    <SectionsTable v-if="answer.sections" :answer="answer.sections" />
  </section>
</template>

<style scoped>
.rounds {
  margin-top: 14px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
  margin-bottom: 2px;
}
.spans {
  margin-left: auto;
}
.spans button {
  margin-left: 5px;
}
.constant {
  color: var(--attention-text);
}
</style>
