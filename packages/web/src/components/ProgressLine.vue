<script setup lang="ts">
import { formatBytes } from '@brisk-heron/core';
import { computed } from 'vue';
import type { Progress } from '../worker/progress.ts';

const props = defineProps<{ progress: Progress }>();
const known = computed(() => props.progress.totalBytes > 0 || props.progress.doneRatio !== undefined);
const percent = computed(() =>
  props.progress.doneRatio !== undefined
    ? props.progress.doneRatio * 100
    : known.value
      ? Math.min(100, (props.progress.doneBytes / props.progress.totalBytes) * 100)
      : 0,
);
</script>

<template>
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
</template>
