<script setup lang="ts">
import { formatBytes, formatClock, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import { drawFloor, trendLabel } from '../charts/floor-chart.ts';
import { sparkPath } from '../charts/spark.ts';
import ChargeControl from '../components/ChargeControl.vue';
import ChartFigure from '../components/ChartFigure.vue';
import type { DenseColumn } from '../components/dense-column.ts';
import DenseTable from '../components/DenseTable.vue';
import { exactBytes, patternOf, plusMinus } from '../components/figures.ts';
import FindField from '../components/FindField.vue';
import RoundsTable from '../components/RoundsTable.vue';
import SiteName from '../components/SiteName.vue';
import { useWorkspace } from '../stores/workspace.ts';
import type { GrowthAnswer } from '../workers/answers/growth.ts';
import type { SiteRow } from '../workers/answers/sites.ts';
import { matchesFind } from './find.ts';

const workspace = useWorkspace();
const answer = computed<GrowthAnswer | null>(() => workspace.growth);
const draw = computed(() => {
  const shown = answer.value;
  return (svg: SVGSVGElement, width: number, height: number): void => { if (shown !== null) drawFloor(svg, width, height, shown); };
});
const sites = computed(() => (answer.value?.sites ?? []).filter((site) => matchesFind(site, workspace.find)));
const floorRows = computed(() => {
  const floor = answer.value?.verdict.floor;
  return floor === undefined ? [] : Array.from(floor.tMs, (tMs, place) => [formatClock(tMs, true), formatBytes(floor.bytes[place]!), exactBytes(floor.bytes[place]!)]);
});
/** What the collector does not manage: a growth there is none of the floor's. */
const outside = computed(() => {
  const shown = answer.value?.outside;
  if (!shown || Number.isNaN(shown.externalBytes)) return '';
  const slope = (bytesPerSec: number): string => `${bytesPerSec < 0 ? '' : '+'}${formatBytes(bytesPerSec * 60)}/min`;
  return `Outside the heap: ${formatBytes(shown.externalBytes)} in buffers and external strings (${slope(shown.externalBytesPerSec)}); the process has ${formatBytes(shown.residentBytes)} resident (${slope(shown.residentBytesPerSec)}).`;
});
const chosen = computed(() => (workspace.selection?.kind === 'site' ? workspace.selection.frameId : null));

const columns: readonly DenseColumn<SiteRow>[] = [
  { key: 'site', title: 'site', order: (site) => site.functionName, isText: true },
  { key: 'adds', title: 'adds/min', order: (site) => site.growthBytesPerSec, hint: (site) => `95 %: ${formatBytes(site.growthLow * 60)} to ${formatBytes(site.growthHigh * 60)}` },
  { key: 'share', title: 'of growth', order: (site) => site.growthShareRatio },
  { key: 'kept', title: 'kept now', order: (site) => site.keptBytes, hint: (site) => exactBytes(site.keptBytes) },
  { key: 'pattern', title: 'pattern', text: patternOf, isText: true },
  { key: 'spark', title: 'in the span' },
];
</script>

<template>
  <div v-if="answer" class="view">
    <div class="head"><h2>Is it growing?</h2><FindField v-if="answer.observed" /></div>
    <ChartFigure
      name="floor-chart" title="Floor" :height="210" :draw="draw" :text="`Memory used after collections. ${trendLabel(answer) || answer.verdict.missing}`"
      :columns="['time', 'floor', 'exactly']" :rows="floorRows"
    >
      <template #beside><span class="quiet condensed key">▪ floor point · ○ used after any collection</span></template>
    </ChartFigure>
    <template v-if="answer.observed">
      <div class="head below">
        <h3>What adds to the floor</h3>
        <span class="condensed quiet beside">
          <ChargeControl /> · older than {{ formatDuration(answer.settleMs) }} · {{ answer.recentLeftOut }} recent left out<template v-if="answer.explainedRatio !== null"> · explains {{ formatPercent(answer.explainedRatio) }}</template>
        </span>
      </div>
      <DenseTable
        data-test="growth-sites" :columns="columns" :rows="sites" :row-key="(site) => site.frameId" :chosen="chosen" :most="40" caption="Sites by what they add to the floor"
        :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No sampled object has lived longer than the settle time yet.'" @choose="(site) => workspace.select({ kind: 'site', frameId: site.frameId })"
      >
        <template #cell-site="{ row }"><SiteName :site="row" /></template>
        <template #cell-adds="{ row }">{{ formatBytes(row.growthBytesPerSec * 60) }} <span class="quiet">± {{ Number.isFinite(row.growthHigh - row.growthLow) ? formatBytes((row.growthHigh - row.growthLow) * 30) : '?' }}</span></template>
        <template #cell-share="{ row }"><span class="bar"><span :style="{ width: `${row.growthShareRatio * 50}px` }" /></span><span class="share">{{ formatPercent(row.growthShareRatio) }}</span></template>
        <template #cell-kept="{ row }">{{ formatBytes(row.keptBytes) }} <span class="quiet">{{ plusMinus(row.keptBytesSe) }}</span></template>
        <template #cell-spark="{ row }"><svg width="66" height="18" aria-hidden="true"><path :d="sparkPath(row.liveBytes, 66, 18)" fill="none" stroke="var(--ink)" stroke-width="1.3" /></svg></template>
      </DenseTable>
      <RoundsTable v-if="answer.rounds" :answer="answer.rounds" />
      <p v-if="answer.followed" class="quiet small">Objects were followed from {{ formatClock(answer.followed.fromMs) }} to {{ formatClock(answer.followed.toMs) }}.</p>
      <p v-if="outside" class="quiet small">{{ outside }}</p>
    </template>
    <p v-else class="quiet">A GC log knows no allocation sites. Record the program to see which sites add to the floor: <code>./heron record -- {{ workspace.overview?.runtime.startsWith('OpenJDK') ? 'java -jar app.jar' : 'node app.js' }}</code></p>
  </div>
</template>

<style scoped>
.view { padding: 10px 20px 24px 22px; }
.head { display: flex; align-items: baseline; gap: 16px; }
.below { margin: 14px 0 2px; }
.beside { margin-left: auto; }
.key { font-size: 12.5px; }
.bar { display: inline-block; width: 52px; text-align: left; vertical-align: middle; }
.bar span { display: inline-block; height: 12px; background: var(--kept); vertical-align: middle; min-width: 1px; }
.share { display: inline-block; min-width: 42px; }
.small { font-size: 12px; margin: 6px 0 0; }
/* Beside an open drawer on a small screen: what the drawer shows as well goes first. */
@container (max-width: 720px) { :deep(.col-pattern) { display: none; } }
@container (max-width: 620px) { :deep(.col-spark) { display: none; } }
</style>
