<script setup lang="ts">
import { type ComparisonAnswer, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import ChartFigure from '../../components/ChartFigure.vue';
import { drawDistributions, drawUtilisation } from './side-charts.ts';

/** Pauses of both sides drawn over each other, and what was left to the program in windows of every length. */
const props = defineProps<{ answer: ComparisonAnswer }>();

const hasPauses = computed(() => props.answer.a.pauses > 0 && props.answer.b.pauses > 0);
const drawn = computed(() => {
  const { a, b } = props.answer;
  return (svg: SVGSVGElement, width: number, height: number): void =>
    drawDistributions(svg, { width, height }, [a.pauseMs, b.pauseMs]);
});
const utilised = computed(() => {
  const { a, b } = props.answer;
  return (svg: SVGSVGElement, width: number, height: number): void =>
    drawUtilisation(svg, { width, height }, [a.mmu, b.mmu]);
});
const SHARES = [0.5, 0.9, 0.95, 0.99, 1];
const at = (sorted: Float64Array, share: number): string =>
  sorted.length === 0 ? '–' : formatDuration(sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)]!);
const pauseRows = computed(() =>
  SHARES.map((share) => [formatPercent(share), at(props.answer.a.pauseMs, share), at(props.answer.b.pauseMs, share)]),
);
const mmuRows = computed(() =>
  props.answer.a.mmu.map(({ windowMs, ratio }) => [
    formatDuration(windowMs),
    formatPercent(ratio),
    formatPercent(props.answer.b.mmu.find((point) => point.windowMs === windowMs)?.ratio ?? NaN),
  ]),
);
const text = computed(
  () =>
    `Half of the pauses are at most ${at(props.answer.a.pauseMs, 0.5)} in A and ${at(props.answer.b.pauseMs, 0.5)} in B; the longest are ${at(props.answer.a.pauseMs, 1)} and ${at(props.answer.b.pauseMs, 1)}.`,
);
</script>

<template>
  <div v-if="hasPauses" class="both">
    <ChartFigure
      name="pauses-compared"
      title="Share of pauses at most so long"
      :height="230"
      :draw="drawn"
      :text="text"
      :columns="['share', 'A', 'B']"
      :rows="() => pauseRows"
    />
    <ChartFigure
      v-if="answer.a.mmu.length > 0 && answer.b.mmu.length > 0"
      name="utilisation-compared"
      title="Least left to the program"
      :height="230"
      :draw="utilised"
      text="The least share of any window of a length that was left to the program, for both sides."
      :columns="['window', 'A', 'B']"
      :rows="() => mmuRows"
    />
  </div>
  <p v-else class="quiet">One of the sides tells no pauses: there is nothing to draw over each other.</p>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 18px;
}
</style>
