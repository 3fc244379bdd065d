<script setup lang="ts">
import { formatBytes, formatDuration, formatPercent, spanLengthMs } from '@brisk-heron/core';
import { computed } from 'vue';
import ChargeControl from '../components/ChargeControl.vue';
import type { DenseColumn } from '../components/dense-column.ts';
import DenseTable from '../components/DenseTable.vue';
import { CHARGE_WORDS, exactBytes, plusMinus, shortType } from '../components/figures.ts';
import KeyName from '../components/KeyName.vue';
import FindField from '../components/FindField.vue';
import { useWorkspace } from '../stores/workspace.ts';
import type { ChargeRow } from '../workers/answers/sites.ts';

const workspace = useWorkspace();
const answer = computed(() => workspace.sites);
const seconds = computed(() => (answer.value === null ? 1 : Math.max(1e-3, answer.value.seenMs / 1000)));
const blindMs = computed(() => (answer.value === null ? 0 : spanLengthMs(answer.value.span) - answer.value.seenMs));
const rows = computed(() => answer.value?.rows ?? []);
const chosen = computed(() => (workspace.selection?.kind === 'key' && workspace.selection.charge === answer.value?.charge ? workspace.selection.key : null));
const shareOf = (site: ChargeRow): number => (answer.value === null || answer.value.allocBytes === 0 ? 0 : site.allocBytes / answer.value.allocBytes);
const keptShare = (site: ChargeRow): number => (site.allocBytes > 0 ? Math.min(1, site.keptOfSpanBytes / site.allocBytes) : 0);

/** Estimates of inferred bytes where a recorder infers, else what the objects are. */
const fifth = computed<DenseColumn<ChargeRow>>(() => ((answer.value?.inferredBytes ?? 0) > 0 || !answer.value?.rows.some((site) => site.type !== null)
  ? { key: 'inferred', title: 'inferred', text: (site) => (site.inferredBytes > 0 ? formatPercent(site.inferredBytes / site.allocBytes) : '–'), order: (site) => site.inferredBytes }
  : { key: 'type', title: 'mostly', text: (site) => shortType(site.type), hint: (site) => site.type ?? '', order: (site) => shortType(site.type), isText: true }));

const columns = computed<readonly DenseColumn<ChargeRow>[]>(() => [
  { key: 'site', title: CHARGE_WORDS[answer.value?.charge ?? 'site'], order: (site) => site.name, isText: true },
  { key: 'allocated', title: 'allocated', order: (site) => site.allocBytes, hint: (site) => exactBytes(site.allocBytes) },
  { key: 'share', title: 'share', order: shareOf },
  { key: 'rate', title: 'a second', text: (site) => formatBytes(site.allocBytes / seconds.value), order: (site) => site.allocBytes },
  { key: 'kept', title: 'kept', order: (site) => site.keptBytes, hint: (site) => exactBytes(site.keptBytes) },
  fifth.value,
  { key: 'samples', title: 'samples', text: (site) => String(site.samples), order: (site) => site.samples },
]);
</script>

<template>
  <div v-if="answer" class="view">
    <div class="head"><h2>Who allocates?</h2><FindField v-if="answer.observed" /></div>
    <template v-if="answer.observed">
      <p class="condensed quiet line">
        <ChargeControl /> · {{ formatBytes(answer.allocBytes) }} from {{ answer.keyCount }} {{ answer.charge === 'site' || answer.charge === 'ownFrame' ? 'sites' : `${CHARGE_WORDS[answer.charge]}s` }} · {{ formatBytes(answer.keptBytes) }} kept at its end<template v-if="answer.measured?.basis === 'collections'"> · collections measured {{ formatBytes(answer.measured.totalBytes) }}</template><template v-if="blindMs > 0"> · births were not watched for {{ formatDuration(blindMs) }}</template>
      </p>
      <DenseTable
        data-test="alloc-sites" :columns="columns" :rows="rows" :row-key="(site) => site.key" :chosen="chosen" :most="80" caption="Sites by bytes allocated"
        :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No allocation was seen in this span.'" @choose="(site) => workspace.select({ kind: 'key', charge: workspace.charge, key: site.key })"
      >
        <template #cell-site="{ row }"><KeyName :words="row" /></template>
        <template #cell-allocated="{ row }">{{ formatBytes(row.allocBytes) }} <span class="quiet">{{ plusMinus(row.allocBytesSe) }}</span></template>
        <template #cell-share="{ row }">
          <span class="bar" :title="`${formatPercent(keptShare(row))} of it kept`"><span class="died" :style="{ width: `${Math.max(1, shareOf(row) * 44)}px` }"><span class="kept" :style="{ width: `${keptShare(row) * 100}%` }" /></span></span><span class="percent">{{ formatPercent(shareOf(row)) }}</span>
        </template>
        <template #cell-kept="{ row }">{{ row.keptBytes > 0 ? formatBytes(row.keptBytes) : '–' }}</template>
      </DenseTable>
      <p class="quiet small">Solid is kept, hatched has died or is too young to tell.<template v-if="answer.inferredBytes > 0"> Inferred is short-lived allocation that no sample could show: it is worked out from the site's share while every birth was watched.</template></p>
    </template>
    <p v-else class="quiet">A GC log tells how much is allocated and when, but not where. Record the program to see its sites: <code>./heron record -- node app.js</code> or <code>./heron record -- java -jar app.jar</code></p>
  </div>
</template>

<style scoped>
.view { padding: 10px 20px 24px 22px; }
.head { display: flex; align-items: baseline; gap: 16px; }
.line { margin: 8px 0 4px; }
.bar { display: inline-block; width: 46px; text-align: left; vertical-align: middle; }
.died { display: inline-block; height: 12px; vertical-align: middle; border: 1px solid var(--kept); background: repeating-linear-gradient(135deg, transparent 0 3px, var(--kept) 3px 4px); }
.kept { display: block; height: 100%; background: var(--kept); }
.percent { display: inline-block; min-width: 42px; }
.small { font-size: 12px; max-width: 70ch; }
:deep(td.col-type) { max-width: 130px; overflow: hidden; text-overflow: ellipsis; }
@container (max-width: 720px) { :deep(.col-samples), :deep(.col-rate) { display: none; } }
@container (max-width: 560px) { :deep(.col-type) { display: none; } }
</style>
