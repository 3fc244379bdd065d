<script setup lang="ts">
import { computed } from 'vue';

/** A series as a small figure in a table's cell, from nothing to its own highest value; the text says what it shows. */
const props = defineProps<{ values: readonly number[]; text: string }>();
const [WIDTH, HEIGHT] = [72, 15];

const shape = computed(() => {
  const most = Math.max(...props.values);
  if (!(most > 0)) return '';
  const step = WIDTH / Math.max(1, props.values.length - 1);
  const tops = props.values.map((value, at) => `${at * step},${HEIGHT - (value / most) * (HEIGHT - 1)}`);
  return `M0,${HEIGHT} L${tops.join(' ')} L${WIDTH},${HEIGHT} Z`;
});
</script>

<template>
  <svg :width="WIDTH" :height="HEIGHT" role="img" :aria-label="text">
    <title>{{ text }}</title>
    <path :d="shape" />
  </svg>
</template>

<style scoped>
svg {
  display: inline-block;
  vertical-align: middle;
  border-bottom: 1px solid var(--rule);
}
path {
  fill: var(--kept);
}
</style>
