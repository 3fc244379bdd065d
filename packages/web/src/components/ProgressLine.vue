<script setup lang="ts">
import { formatBytes, formatDuration } from '@brisk-heron/core';
import { computed } from 'vue';
import type { Progress } from '../worker/progress.ts';
import { countText } from './figures.ts';
import RecordingStrip from './RecordingStrip.vue';

const props = defineProps<{ progress: Progress }>();
const known = computed(() => props.progress.totalBytes > 0 || props.progress.doneRatio !== undefined);
const percent = computed(() =>
  props.progress.doneRatio !== undefined
    ? props.progress.doneRatio * 100
    : known.value
      ? Math.min(100, (props.progress.doneBytes / props.progress.totalBytes) * 100)
      : 0,
);
const soFar = computed(() => props.progress.soFar ?? null);
const caption = computed(() => {
  if (soFar.value === null) return '';
  const { durationMs, most, collections, objects } = soFar.value;
  const counted = [[collections, 'collection'] as const, [objects, 'object'] as const].map(([count, what]) =>
    count === 0 ? '' : `, ${countText(count)} ${what}${count === 1 ? '' : 's'}`,
  );
  return `Used memory in the ${formatDuration(durationMs)} read so far, at most ${formatBytes(Math.max(...most))}${counted.join('')}`;
});
/** Its units: as wide as what is read of the whole. */
const WIDTH = 600;
</script>

<template>
  <div>
    <div role="status">
      <p>
        {{ progress.doing }} …
        <span class="quiet condensed"
          >{{ progress.doneBytes > 0 ? formatBytes(progress.doneBytes) : ''
          }}{{ progress.totalBytes > 0 ? ` of ${formatBytes(progress.totalBytes)}` : '' }}</span
        >
      </p>
      <v-progress-linear :indeterminate="!known" :model-value="percent" :aria-label="progress.doing" />
    </div>
    <figure v-if="soFar" class="so-far" data-test="so-far">
      <RecordingStrip
        :values="soFar.most"
        :least="soFar.least"
        :width="WIDTH"
        :height="56"
        :style="{ width: `${known ? percent : 100}%` }"
      />
      <figcaption class="quiet condensed">{{ caption }}</figcaption>
    </figure>
  </div>
</template>

<style scoped>
.so-far {
  margin: 8px 0 4px;
}
</style>
