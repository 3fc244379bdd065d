<script setup lang="ts">
import { formatBytes, formatClock, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import { drawDistribution, drawPauses, drawRates, drawUtilisation, durationLabel, pauseText } from '../charts/pause-charts.ts';
import ChartFigure from '../components/ChartFigure.vue';
import type { DenseColumn } from '../components/dense-column.ts';
import DenseTable from '../components/DenseTable.vue';
import { useWorkspace } from '../stores/workspace.ts';
import type { CollectionsAnswer, PauseKindRow } from '../workers/answers/collections.ts';

const workspace = useWorkspace();
const answer = computed<CollectionsAnswer | null>(() => workspace.collections);
const chosenRow = computed(() => (workspace.selection?.kind === 'pause' ? workspace.selection.row : -1));

type Drawing = (svg: SVGSVGElement, width: number, height: number) => void;
const drawing = (draw: (svg: SVGSVGElement, width: number, height: number, shown: CollectionsAnswer) => void) => computed<Drawing>(() => {
  const shown = answer.value;
  return (svg, width, height) => { if (shown !== null) draw(svg, width, height, shown); };
});
const pausesDrawing = computed<Drawing>(() => {
  const shown = answer.value;
  const row = chosenRow.value;
  return (svg, width, height) => { if (shown !== null) drawPauses(svg, width, height, shown, row); };
});
const distribution = drawing(drawDistribution);
const utilisation = drawing(drawUtilisation);
const rates = drawing(drawRates);

const pauseRows = computed(() => (answer.value === null ? [] : Array.from(answer.value.pauseMs, (tMs, place) => [formatClock(tMs, true), formatDuration(answer.value!.pauseDurationMs[place]!)])));
const bucketRows = computed(() => (answer.value?.bucketCounts ?? []).map((count, place) => [`${durationLabel(answer.value!.edgesMs[place]!)} – ${durationLabel(answer.value!.edgesMs[place + 1]!)}`, String(count), formatDuration(answer.value!.bucketTotalsMs[place]!)]));
const mmuRows = computed(() => (answer.value?.mmu ?? []).map(({ windowMs, ratio }) => [formatDuration(windowMs), formatPercent(ratio)]));
const rateRows = computed(() => {
  const shown = answer.value;
  if (shown === null) return [];
  const binMs = (shown.span.toMs - shown.span.fromMs) / shown.allocRate.length;
  return Array.from(shown.allocRate, (rate, bin) => [formatClock(shown.span.fromMs + bin * binMs, true), `${formatBytes(rate)}/s`, `${formatBytes(shown.promotionRate[bin]!)}/s`]);
});
const longest = computed(() => {
  const shown = answer.value;
  if (shown === null || shown.pauseMs.length === 0) return null;
  let at = 0;
  for (let place = 1; place < shown.pauseMs.length; place++) if (shown.pauseDurationMs[place]! > shown.pauseDurationMs[at]!) at = place;
  return shown.pauseRow[at]!;
});

const ms = (value: number): string => formatDuration(value);
const columns: readonly DenseColumn<PauseKindRow>[] = [
  { key: 'label', title: 'pause', text: (kind) => kind.label, order: (kind) => kind.label, isText: true },
  { key: 'scope', title: 'scope', text: (kind) => kind.scope, order: (kind) => kind.scope, isText: true },
  { key: 'count', title: 'count', text: (kind) => String(kind.count), order: (kind) => kind.count },
  { key: 'sum', title: 'sum', text: (kind) => ms(kind.totalMs), order: (kind) => kind.totalMs },
  { key: 'p50', title: 'p50', text: (kind) => ms(kind.p50Ms), order: (kind) => kind.p50Ms },
  { key: 'p95', title: 'p95', text: (kind) => ms(kind.p95Ms), order: (kind) => kind.p95Ms },
  { key: 'p99', title: 'p99', text: (kind) => ms(kind.p99Ms), order: (kind) => kind.p99Ms },
  { key: 'max', title: 'longest', text: (kind) => ms(kind.maxMs), order: (kind) => kind.maxMs },
  { key: 'time', title: 'of time', text: (kind) => (kind.timeRatio === null ? '–' : formatPercent(kind.timeRatio)), order: (kind) => kind.timeRatio ?? 0 },
];
</script>

<template>
  <div v-if="answer" class="view">
    <h2>What does collecting cost?</h2>
    <p v-if="workspace.overview?.pausesTold === false" class="quiet" data-test="pauses-not-told">This log tells {{ workspace.overview.collections }} collections and none of their pauses, so what they cost the program is not known. ZGC prints its pauses with <code>-Xlog:gc*</code>.</p>
    <p v-else-if="answer.figures.count === 0" class="quiet">No collection stopped the program in this span.</p>
    <template v-else>
      <p class="condensed figures" data-test="pause-figures">
        <span><b data-test="pause-count">{{ answer.figures.count }}</b> pauses</span>
        <span><b data-test="pause-sum" :title="`${answer.figures.totalMs} ms`">{{ ms(answer.figures.totalMs) }}</b> in all</span>
        <span>p50 <b>{{ ms(answer.figures.p50Ms) }}</b></span>
        <span>p99 <b data-test="pause-p99" :title="`${answer.figures.p99Ms} ms`">{{ ms(answer.figures.p99Ms) }}</b></span>
        <span>longest <button v-if="longest !== null" type="button" class="linklike" data-test="pause-max" :title="`${answer.figures.maxMs} ms`" @click="workspace.select({ kind: 'pause', row: longest })">{{ ms(answer.figures.maxMs) }}</button></span>
        <span>throughput <b>{{ Number.isNaN(answer.figures.throughputRatio) ? 'unknown' : formatPercent(answer.figures.throughputRatio) }}</b></span>
        <span>{{ answer.counts.young }} young, {{ answer.counts.mixed }} mixed, {{ answer.counts.whole }} whole<template v-if="answer.counts.concurrentCycles">, {{ answer.counts.concurrentCycles }} concurrent cycles</template></span>
        <span v-if="answer.storms.length > 0" class="urgent">{{ answer.storms.length }} storm{{ answer.storms.length === 1 ? '' : 's' }} of whole-heap collections</span>
        <span v-if="answer.counts.own > 0" class="quiet">{{ answer.counts.own }} forced by the recorder, left out</span>
      </p>
      <div class="charts">
        <ChartFigure name="pause-chart" title="Pauses over time" :height="170" :draw="pausesDrawing" :text="pauseText(answer)" :columns="['began', 'length']" :rows="pauseRows">
          <template #beside><span class="quiet condensed key">| young · ○ mixed · ▪ whole</span></template>
        </ChartFigure>
        <ChartFigure name="size-chart" title="Pauses by length" :height="170" :draw="distribution" text="Pauses by length, with their count and share of the paused time" :columns="['length', 'count', 'sum']" :rows="bucketRows">
          <template #beside><span class="quiet condensed key">count · share of paused time</span></template>
        </ChartFigure>
        <ChartFigure name="rate-chart" title="Rates" :height="150" :draw="rates" text="Allocation and promotion rate over time" :columns="['from', 'allocation', 'promotion']" :rows="rateRows">
          <template #beside>
            <span class="quiet condensed key">— allocation{{ answer.allocation === null || Number.isNaN(answer.allocation.bytesPerSec) ? '' : ` ${answer.allocation.lowerBound ? 'at least ' : ''}${formatBytes(answer.allocation.bytesPerSec)}/s` }} · ┄ promotion{{ answer.promotion?.bytesPerSec == null ? '' : ` ${formatBytes(answer.promotion.bytesPerSec)}/s` }}</span>
          </template>
        </ChartFigure>
        <ChartFigure name="utilisation-chart" title="Least share left to the program" :height="150" :draw="utilisation" text="Minimum mutator utilisation over the length of the window" :columns="['window', 'share']" :rows="mmuRows">
          <template #beside><span class="quiet condensed key">by length of window</span></template>
        </ChartFigure>
      </div>
      <DenseTable data-test="pause-kinds" :columns="columns" :rows="answer.kinds" :row-key="(kind) => kind.label" :chosen="null" :most="60" caption="Pauses by kind" empty="No pauses." />
      <p v-if="answer.pausesLeftOut > 0" class="quiet small">Of {{ answer.figures.count }} pauses the longest {{ answer.pauseMs.length }} are drawn; all are counted.</p>
    </template>
  </div>
</template>

<style scoped>
.view { padding: 10px 20px 24px 22px; }
.figures { display: flex; flex-wrap: wrap; gap: 2px 16px; margin: 6px 0 10px; font-size: 13.5px; }
.figures b { font-weight: 500; }
.charts { display: grid; grid-template-columns: 1fr 1fr; gap: 12px 26px; margin-bottom: 14px; }
.key { font-size: 12px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.small { font-size: 12px; }
@media (max-width: 1100px) { .charts { grid-template-columns: 1fr; } }
</style>
