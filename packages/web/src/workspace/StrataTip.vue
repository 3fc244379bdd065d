<script setup lang="ts">
import { formatBytes, formatClock, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import { type RibbonLayout, xOf } from '../ribbon/ribbon-layout.ts';
import type { StrataHit } from '../ribbon/strata-hit.ts';

/** What the pointer is on in the strata: when it was born, how much of it lives at that instant. */
const props = defineProps<{ hit: StrataHit; layout: RibbonLayout; durationMs: number; bands: number }>();
const WIDTH = 250;

const text = computed(() => {
  const { hit, durationMs, bands } = props;
  const at = `at ${formatClock(hit.tMs, true)}`;
  if (hit.band === null) return `${at}: click to see what lived`;
  const [from, to] = [hit.band, hit.band + 1].map((edge) => formatClock((edge * durationMs) / bands, true));
  const share = hit.bornBytes > 0 ? `, ${formatPercent(hit.bytes / hit.bornBytes)} of what was seen of it` : '';
  return `born ${from} – ${to}: ${formatBytes(hit.bytes)} lives ${at}${share}`;
});
const left = computed(() =>
  Math.min(props.layout.right - WIDTH, Math.max(props.layout.left, xOf(props.layout, props.hit.tMs) + 12)),
);
</script>

<template>
  <div class="tip condensed" data-test="strata-tip" :style="{ left: `${left}px`, width: `${WIDTH}px` }">{{ text }}</div>
</template>

<style scoped>
.tip {
  position: absolute;
  top: 2px;
  padding: 2px 6px;
  font-size: 12.5px;
  line-height: 1.3;
  background: var(--paper);
  border: 1px solid var(--ink-2);
  pointer-events: none;
}
</style>
