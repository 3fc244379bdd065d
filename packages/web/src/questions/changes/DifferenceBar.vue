<script setup lang="ts">
import { barWidth } from './side-layout.ts';

/** A difference as a bar from the middle: to the left more in A, to the right more in B; an outline is not clear. */
defineProps<{ difference: number; most: number; half: number; isClear: boolean }>();
</script>

<template>
  <svg :width="2 * half + 1" height="13" aria-hidden="true">
    <line :x1="half" :x2="half" y1="0" y2="13" />
    <rect
      :x="difference < 0 ? half - barWidth(difference, most, half) : half"
      y="2"
      :width="barWidth(difference, most, half)"
      height="9"
      :class="[difference < 0 ? 'less' : 'more', { unclear: !isClear }]"
    />
  </svg>
</template>

<style scoped>
svg {
  vertical-align: middle;
}
line {
  stroke: var(--rule);
}
.less {
  fill: var(--side-a);
  stroke: var(--side-a);
}
.more {
  fill: var(--side-b);
  stroke: var(--side-b);
}
.unclear {
  fill: none;
  stroke-dasharray: 2 2;
}
</style>
