<script setup lang="ts">
import { formatBytes, formatPercent, type PromotionAnswer, type PromotionRow } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { CHARGE_WORDS, exactBytes, plusMinus } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** What keys put into the old space, held against what collections promoted, and a log's survivors by age. */
const props = defineProps<{ answer: PromotionAnswer; byKey: boolean }>();
const workspace = useWorkspace();
const BAR = 160;
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
const share = (row: PromotionRow): number => row.promotedBytes / Math.max(1, props.answer.sumBytes);
const deadShare = (row: PromotionRow): number => row.deadBytes / Math.max(1, row.promotedBytes);

const columns = computed<readonly DenseColumn<PromotionRow>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[workspace.charge],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'promoted',
    title: 'promoted',
    term: 'promotion',
    unit: 'bytes',
    text: (row) => `${formatBytes(row.promotedBytes)} ${plusMinus(row.promotedBytesSe)}`.trim(),
    hint: (row) => exactBytes(row.promotedBytes),
    order: (row) => row.promotedBytes,
    se: (row) => row.promotedBytesSe,
  },
  { key: 'share', title: 'share', unit: 'ratio', text: (row) => formatPercent(share(row)), order: share },
  {
    key: 'dead',
    title: 'of it dead by the end',
    unit: 'ratio',
    text: (row) => formatPercent(deadShare(row)),
    order: deadShare,
  },
]);
const sums = computed(() => {
  const { after, afterFrom, sumBytes, sumBytesSe, measuredBytes } = props.answer;
  const found = `${formatBytes(sumBytes)} ${plusMinus(sumBytesSe)} by key.`;
  const times = `${after} collection${after === 1 ? '' : 's'}`;
  const rule =
    afterFrom === 'measured'
      ? `An object counts as promoted once it has lived through ${times}: under that the sum comes nearest to what the collections say`
      : `An object is taken to be promoted once it has lived through ${times}: that is not told here`;
  if (measuredBytes === null) return `${found} ${rule}. No collection says what was promoted.`;
  const off = formatPercent(Math.abs(sumBytes - measuredBytes) / Math.max(1, measuredBytes));
  const said = `Young and mixed collections say that they promoted ${formatBytes(measuredBytes)} of everything in the heap`;
  const against =
    afterFrom === 'measured'
      ? `${off} ${sumBytes < measuredBytes ? 'less' : 'more'} is found here`
      : 'what whole collections move is not in that, so the two cannot be held together';
  return `${found} ${rule}. ${said}: ${against}.`;
});
const mostMean = computed(() => props.answer.ages.reduce((most, { meanBytes }) => Math.max(most, meanBytes), 1));
</script>

<template>
  <div class="filling">
    <template v-if="byKey">
      <p class="condensed" data-test="promotion-sums">{{ sums }}</p>
      <DenseTable
        data-test="promotion"
        :columns="columns"
        :rows="answer.rows"
        :row-key="(row) => row.key"
        :chosen="chosen"
        fill
        caption="What is promoted"
        export-name="promotion"
        empty="Nothing that was seen lived long enough to be promoted."
        @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
      >
        <template #cell-key="{ row }"><KeyName :words="row" /></template>
      </DenseTable>
    </template>
    <template v-if="answer.ages.length > 0">
      <h3 class="below">Survivors by age, as the collector prints them</h3>
      <v-table class="dense ages" data-test="ages">
        <thead>
          <tr>
            <th scope="col">lived through</th>
            <th scope="col">mean at a collection</th>
            <th scope="col">collections</th>
            <th scope="col" class="text" />
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ age, meanBytes, times } in answer.ages" :key="age">
            <td>{{ age }}</td>
            <td>{{ formatBytes(meanBytes) }}</td>
            <td>{{ times }}</td>
            <td class="text">
              <span class="bar" :style="{ width: `${(meanBytes / mostMean) * BAR}px` }" />
            </td>
          </tr>
        </tbody>
      </v-table>
      <p class="quiet small">
        The oldest age is where the collector promotes: what stands there goes into the old space next.
      </p>
    </template>
    <p v-else-if="!byKey && workspace.overview?.format === 'jvm-unified'" class="quiet small">
      A JVM prints its survivors by age with <code>-Xlog:gc+age=trace</code>.
    </p>
  </div>
</template>

<style scoped>
p {
  margin: 4px 0;
  max-width: 110ch;
}
.below {
  margin: 12px 0 2px;
}
.ages {
  max-width: 560px;
}
.bar {
  display: inline-block;
  height: 11px;
  background: var(--kept);
  vertical-align: middle;
}
</style>
