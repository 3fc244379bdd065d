<script setup lang="ts">
import { formatPercent, type KeyWords } from '@brisk-heron/core';
import { computed } from 'vue';

/** A charge key in a table: its name, then its place; quiet when it is not the engineer's own. */
const props = defineProps<{
  words: KeyWords;
  /** Of its bytes, those that were not looked at one by one. */
  inferredRatio?: number;
  /** True where optimised code may book under it what it calls. */
  mayInline?: boolean;
}>();
/** A smaller part changes no figure that is shown. */
const MARKED_RATIO = 0.01;
const unsure = computed(() =>
  [
    ...((props.inferredRatio ?? 0) >= MARKED_RATIO
      ? [`${formatPercent(props.inferredRatio!)} of its bytes is inferred`]
      : []),
    ...(props.mayInline ? ['it may stand for what it calls'] : []),
  ].join('; '),
);
</script>

<template>
  <span :title="`${words.name} ${words.place}`"
    ><code :class="{ quiet: !words.isOwn }">{{ words.name }}</code
    >{{ ' ' }} <span class="quiet">{{ words.shortPlace }}</span><span
      v-if="unsure"
      class="quiet unsure"
      :title="unsure"
      :aria-label="unsure"
      role="note"
    >
      ≈</span
    ></span
  >
</template>
