<script setup lang="ts">
import { computed } from 'vue';

/** A recording's used memory in a small strip. */
const props = defineProps<{ values: readonly number[]; width: number; height: number }>();
const path = computed(() => {
  const { values, width, height } = props;
  const most = values.reduce((a, b) => Math.max(a, b), 0);
  if (values.length < 2 || most <= 0) return '';
  const step = width / values.length;
  const tops = values.map(
    (value, place) =>
      `L${(place * step).toFixed(1)},${(height - (value / most) * height).toFixed(1)}H${((place + 1) * step).toFixed(1)}`,
  );
  return `M0,${height}${tops.join('')}V${height}Z`;
});
</script>

<template>
  <svg :width="width" :height="height" aria-hidden="true"><path :d="path" /></svg>
</template>

<style scoped>
svg {
  display: block;
  flex: none;
  border-bottom: 1px solid var(--ink-2);
}
path {
  fill: var(--strata-1);
  opacity: 0.75;
}
</style>
