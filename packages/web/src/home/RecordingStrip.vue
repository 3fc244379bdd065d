<script setup lang="ts">
import { computed } from 'vue';

/** A recording's used memory in a small strip. */
const props = defineProps<{ values: readonly number[] }>();
const WIDTH = 100;
const HEIGHT = 24;
const path = computed(() => {
  const most = props.values.reduce((a, b) => Math.max(a, b), 0);
  if (props.values.length < 2 || most <= 0) return '';
  const step = WIDTH / props.values.length;
  const tops = props.values.map(
    (value, place) =>
      `L${(place * step).toFixed(1)},${(HEIGHT - (value / most) * HEIGHT).toFixed(1)}H${((place + 1) * step).toFixed(1)}`,
  );
  return `M0,${HEIGHT}${tops.join('')}V${HEIGHT}Z`;
});
</script>

<template>
  <svg :width="WIDTH" :height="HEIGHT" aria-hidden="true"><path :d="path" /></svg>
</template>

<style scoped>
svg {
  display: block;
  border-bottom: 1px solid var(--ink-2);
}
path {
  fill: var(--strata-1);
  opacity: 0.75;
}
</style>
