<script setup lang="ts">
import { formatBytes, formatClock, formatDuration, formatPercent, type RunSummary } from '@brisk-heron/core';
import { computed } from 'vue';
import { plusMinus } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/**
 * The run of a program that ended: when most lived and where that was made, what was churned and by whom, and what
 * collecting cost.
 */
const props = defineProps<{ run: RunSummary }>();
const workspace = useWorkspace();

const ROSE = {
  yes: 'the floor kept rising',
  no: 'the floor did not keep rising',
  unclear: 'whether the floor kept rising is not known',
} as const;
const facts = computed(() => {
  const { run } = props;
  const allocated = Number.isNaN(run.allocatedBytes)
    ? []
    : [`${run.allocatedLowerBound ? 'about ' : ''}${formatBytes(run.allocatedBytes)} were allocated`];
  const churned = Number.isNaN(run.churnedBytes)
    ? []
    : [
        `${formatBytes(run.churnedBytes)} of it were seen to die${run.churnSites
          .slice(0, 2)
          .map((site) => `, ${formatPercent(site.shareRatio)} of that from ${site.site}`)
          .join('')}`,
      ];
  const cost = Number.isNaN(run.collectingRatio)
    ? []
    : [`collecting took ${formatPercent(run.collectingRatio)} of the time`];
  const each =
    run.perMark === null
      ? []
      : [
          `${formatBytes(run.perMark.bytesPerMark)} (${formatBytes(run.perMark.low)}–${formatBytes(run.perMark.high)}) stayed for each of ${run.perMark.marks} marks “${run.perMark.label}”`,
        ];
  return [...allocated, ...churned, cost, ROSE[run.rose], ...each].flat().join('; ');
});
</script>

<template>
  <section class="run" aria-label="The run" data-test="run-summary">
    <h3>The run</h3>
    <p class="condensed">
      Ended after {{ formatDuration(run.lengthMs) }}<b v-if="run.outOfMemory" class="urgent"> for want of memory</b
      ><template v-if="!Number.isNaN(run.peakMs)"
        >; most was used after a collection at
        <v-btn variant="plain" @click="workspace.lookInto(run.peakMs)"> {{ formatClock(run.peakMs, true) }}</v-btn>,
        {{ formatBytes(run.peakBytes) }}</template
      >.
      <span class="quiet">{{ facts }}.</span>
    </p>
    <ul v-if="run.peakSites.length > 0" class="condensed" aria-label="What lived then, by site">
      <li v-for="site in run.peakSites" :key="site.site">
        <span class="share">{{ formatPercent(site.shareRatio) }}</span> <code>{{ site.site }}</code>{{ ' ' }}
        <span class="quiet">{{ formatBytes(site.bytes) }} {{ plusMinus(site.bytesSe) }} lived then</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.run {
  margin-top: 12px;
}
p {
  margin: 2px 0;
  max-width: 100ch;
}
ul {
  margin: 2px 0;
  padding: 0;
  list-style: none;
}
li {
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
.share {
  display: inline-block;
  width: 52px;
  text-align: right;
  margin-right: 8px;
  font-variant-numeric: tabular-nums;
}
</style>
