<script setup lang="ts">
import { computed } from 'vue';

/** A recording's used memory in a small strip: the most of each stretch, and the least where that is given. */
const props = defineProps<{ values: readonly number[]; least?: readonly number[]; width: number; height: number }>();
const most = computed(() => props.values.reduce((a, b) => Math.max(a, b), 0));
const pathOf = (values: readonly number[]): string => {
  const { width, height } = props;
  if (values.length < 2 || most.value <= 0) return '';
  const step = width / values.length;
  const tops = values.map(
    (value, place) =>
      `L${(place * step).toFixed(1)},${(height - (value / most.value) * height).toFixed(1)}H${((place + 1) * step).toFixed(1)}`,
  );
  return `M0,${height}${tops.join('')}V${height}Z`;
};
</script>

<template>
  <svg
    :width="width"
    :height="height"
    :viewBox="`0 0 ${width} ${height}`"
    preserveAspectRatio="none"
    aria-hidden="true"
  >
    <path :d="pathOf(values)" :class="{ pale: least }" />
    <path v-if="least" :d="pathOf(least)" />
  </svg>
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
.pale {
  opacity: 0.35;
}
</style>
