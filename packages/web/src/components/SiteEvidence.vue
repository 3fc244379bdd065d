<script setup lang="ts">
import { formatBytes, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import { sparkPath } from '../charts/spark.ts';
import { useWorkspace } from '../stores/workspace.ts';
import type { SiteDetail } from '../workers/answers/site-detail.ts';
import { exactBytes, patternOf, plusMinus } from './figures.ts';

const props = defineProps<{ detail: SiteDetail }>();
const workspace = useWorkspace();
const WIDTH = 300;

const filePath = computed(() => props.detail.frame.file.replace(/^file:\/\//, ''));
const grows = computed(() => props.detail.site.growthLow > 0);
const copied = (): Promise<void> => navigator.clipboard.writeText(`${filePath.value}:${props.detail.frame.line}:${props.detail.frame.column}`);
</script>

<template>
  <div>
    <h2 class="mono name" data-test="site-name">{{ detail.site.functionName }}</h2>
    <p class="quiet place" :title="filePath">{{ detail.site.place || 'place unknown' }}{{ detail.site.type ? ` · ${detail.site.type}` : '' }}</p>

    <h3>Path from the entry</h3>
    <ol class="path">
      <li v-for="(step, place) in detail.path" :key="place" :style="{ paddingLeft: `${Math.min(place, 10) * 9}px` }">
        <span v-if="step.kind === 'folded'" class="quiet through">through {{ step.count }} frame{{ step.count === 1 ? '' : 's' }} of {{ step.through }}</span>
        <span v-else :class="{ site: step.isSite }"><code>{{ step.frame.functionName }}</code> <span class="quiet condensed">{{ step.frame.file.split('/').pop() }}:{{ step.frame.line }}</span></span>
      </li>
    </ol>

    <h3>Source</h3>
    <div v-if="detail.source" class="source mono" data-test="source" tabindex="0" role="region" aria-label="Source lines">
      <div v-for="(line, place) in detail.source.lines" :key="place" :class="{ here: detail.source.firstLine + place === detail.frame.line }">
        <span class="number">{{ detail.source.firstLine + place }}</span>{{ line }}
      </div>
    </div>
    <p v-else class="quiet">The recording carries no source of this file.</p>
    <button type="button" class="linklike quiet" @click="copied">copy the place for an editor</button>

    <h3>Kept over the span</h3>
    <svg class="series" height="46" :viewBox="`0 0 ${WIDTH} 46`" preserveAspectRatio="none" role="img" :aria-label="`Settled live bytes: ${patternOf(detail.site)}, now ${formatBytes(detail.site.keptBytes)}`">
      <path :d="sparkPath(detail.site.liveBytes, WIDTH, 46)" fill="none" stroke="var(--kept)" stroke-width="1.8" />
    </svg>
    <table class="dense facts">
      <tbody>
        <tr><td>adds to the floor</td><td :class="{ urgent: grows }" :title="exactBytes(detail.site.growthBytesPerSec * 60)">{{ formatBytes(detail.site.growthBytesPerSec * 60) }}/min</td></tr>
        <tr><td>share of growth</td><td>{{ formatPercent(detail.site.growthShareRatio) }}</td></tr>
        <tr><td>kept now</td><td :title="exactBytes(detail.site.keptBytes)">{{ formatBytes(detail.site.keptBytes) }} <span class="quiet">{{ plusMinus(detail.site.keptBytesSe) }}</span></td></tr>
        <tr><td>allocated in the span</td><td :title="exactBytes(detail.site.allocBytes)">{{ formatBytes(detail.site.allocBytes) }} <span class="quiet">{{ plusMinus(detail.site.allocBytesSe) }}</span></td></tr>
        <tr v-if="detail.site.inferredBytes > 0"><td>of it inferred</td><td>{{ formatBytes(detail.site.inferredBytes) }}</td></tr>
        <tr v-if="detail.site.allocCount > 0"><td>objects</td><td>about {{ Math.round(detail.site.allocCount).toLocaleString('en') }}, {{ formatBytes(detail.site.allocBytes / detail.site.allocCount) }} each</td></tr>
        <tr><td>samples seen</td><td>{{ detail.site.samples }}</td></tr>
      </tbody>
    </table>
    <p class="quiet">Kept means alive and older than {{ formatDuration(detail.settleMs) }}, the settle time. {{ detail.lineMeans === 'function' ? 'A frame is named with the line where its function begins.' : 'A frame is named with the line that was running.' }}</p>
    <v-btn @click="workspace.find = detail.site.functionName">Only this</v-btn>
  </div>
</template>

<style scoped>
.name { padding-right: 44px; font-size: 15px; font-weight: 500; overflow-wrap: anywhere; }
.place { margin: 1px 0 0; }
h3 { margin: 14px 0 4px; border-bottom: 1px solid var(--rule); font-weight: 500; }
.path { list-style: none; margin: 0; padding: 0; }
.path li { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.through { font-style: italic; }
.site code { font-weight: 500; border-bottom: 1.5px solid var(--attention); }
.source { background: var(--paper); border: 1px solid var(--rule); padding: 5px 0; overflow-x: auto; font-size: 12px; }
.source div { white-space: pre; padding: 0 8px; }
.source .here { background: color-mix(in srgb, var(--attention) 14%, transparent); }
.number { display: inline-block; width: 3.2em; color: var(--ink-2); user-select: none; }
.source .here .number { color: var(--ink); }
.series { width: 100%; }
.facts td:first-child { color: var(--ink-2); }
.facts td { padding: 2px 4px; white-space: normal; }
</style>
