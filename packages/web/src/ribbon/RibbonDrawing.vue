<script setup lang="ts">
import type { Overview, RibbonAnswer, Span } from '@brisk-heron/core';
import { computed, useId } from 'vue';
import { type RibbonLayout, xOf } from './ribbon-layout.ts';
import {
  findingMarks,
  flagPath,
  floorLine,
  instantsAt,
  markFlags,
  pausePaths,
  ribbonAxes,
  spanEdges,
  stretchFrame,
} from './ribbon-marks.ts';
import { bandOutline } from './strata-hit.ts';

/** All that is drawn over the ribbon's layers: axes, pauses, marks, moments, the span. Stateless. */
const props = defineProps<{
  layout: RibbonLayout;
  answer: RibbonAnswer;
  overview: Overview | null;
  /** A stretch of time that is looked at. */
  stretch: Span | null;
  /** A birth band that is outlined. */
  band: number | null;
  /** Moments that are kept, and those that the drawer shows. */
  kept: readonly { readonly name: string; readonly tMs: number }[];
  shown: readonly { readonly tMs: number }[];
  span: Span | null;
}>();
const emit = defineEmits<{ span: [span: Span]; instant: [tMs: number] }>();

const plotId = useId();
const axes = computed(() => ribbonAxes(props.layout));
const paths = computed(() => pausePaths(props.answer, props.layout));
const findings = computed(() => (props.overview === null ? [] : findingMarks(props.overview, props.layout)));
const frame = computed(() => (props.stretch === null ? null : stretchFrame(props.stretch, props.layout)));
const outline = computed(() => (props.band === null ? '' : bandOutline(props.answer, props.layout, props.band)));
const floor = computed(() => floorLine(props.answer, props.layout));
const marks = computed(() => markFlags(props.answer, props.layout));
const keptAt = computed(() => instantsAt(props.kept, props.layout));
const shownAt = computed(() => instantsAt(props.shown, props.layout));
const edges = computed(() => (props.span === null ? null : spanEdges(props.span, props.layout)));

/** The span from a mark to the next with its label, else to the end. */
function spanFrom(mark: { readonly tMs: number; readonly label: string }): void {
  const next = props.answer.marks.find(({ tMs, label }) => label === mark.label && tMs > mark.tMs);
  emit('span', { fromMs: mark.tMs, toMs: next?.tMs ?? props.answer.durationMs });
}
</script>

<template>
  <svg :width="layout.width" :height="layout.height" aria-hidden="true">
    <g v-for="tick in axes.bytes" :key="tick.bytes">
      <text :x="layout.left - 8" :y="tick.y" dy="0.35em" text-anchor="end">{{ tick.label }}</text>
    </g>
    <g v-for="tick in axes.pauses" :key="`p${tick.ms}`">
      <text :x="layout.left - 8" :y="tick.y" dy="0.35em" text-anchor="end" class="small">
        {{ tick.ms }}{{ tick.ms === 100 ? ' ms' : '' }}
      </text>
    </g>
    <text v-for="tick in axes.times" :key="tick.x" :x="tick.x" :y="layout.labelY" text-anchor="middle">
      {{ tick.label }}
    </text>
    <rect
      v-for="storm in answer.storms"
      :key="storm.fromMs"
      class="storm"
      :x="xOf(layout, storm.fromMs)"
      :y="layout.axis"
      :width="Math.max(2, xOf(layout, storm.toMs) - xOf(layout, storm.fromMs))"
      :height="layout.pauseEnd - layout.axis"
    />
    <path v-for="finding in findings" :key="finding.code" class="finding" :d="finding.path" :data-code="finding.code">
      <title>{{ finding.sentence }}</title>
    </path>
    <rect
      v-if="frame"
      class="moment"
      :x="frame.left"
      :y="layout.top - 4"
      :width="frame.width"
      :height="layout.pauseEnd - layout.top + 8"
    />
    <clipPath :id="plotId">
      <rect :x="layout.left" y="0" :width="layout.right - layout.left" :height="layout.height" />
    </clipPath>
    <path :d="outline" class="outline" :clip-path="`url(#${plotId})`" />
    <path :d="floor" class="floor" :clip-path="`url(#${plotId})`" />
    <line :x1="layout.left" :x2="layout.right" :y1="layout.axis" :y2="layout.axis" class="axis" />
    <path :d="paths.own" class="own" />
    <path :d="paths.young" class="young" />
    <path :d="paths.mixed" class="whole" />
    <path :d="paths.whole" class="whole" />
    <path :d="paths.ownEnds" class="own-end" />
    <path :d="paths.chosen" class="chosen" />
    <path :d="paths.wholeEnds" class="whole-end" />
    <path :d="paths.mixedEnds" class="mixed-end" />
    <g v-for="mark in marks" :key="mark.x" class="mark">
      <title>{{ mark.label }}{{ mark.bare && !mark.worded ? '' : ': click for the span to the next' }}</title>
      <line :x1="mark.x" :x2="mark.x" :y1="layout.top - 20" :y2="layout.axis" />
      <path
        v-if="mark.worded || !mark.bare"
        class="flag"
        :d="flagPath(mark, layout)"
        @pointerdown.stop
        @pointerup.stop
        @click="spanFrom(mark)"
      />
      <text v-if="mark.worded" :x="mark.x + 3" :y="layout.top - 10.5">{{ mark.label }}</text>
    </g>
    <line
      v-for="{ x } in shownAt"
      :key="`shown${x}`"
      class="shown"
      :x1="x"
      :x2="x"
      :y1="layout.top - 4"
      :y2="layout.pauseEnd"
    />
    <path
      v-for="{ name, tMs, x } in keptAt"
      :key="`kept${tMs}`"
      class="kept"
      :d="`M${x},${layout.axis - 5}l4,5l-4,5l-4,-5z`"
      @pointerdown.stop
      @pointerup.stop
      @click="emit('instant', tMs)"
    >
      <title>{{ name }}: what lived then</title>
    </path>
    <template v-if="edges">
      <rect
        class="outside"
        :x="layout.left"
        :y="0"
        :width="Math.max(0, edges.left - layout.left)"
        :height="layout.pauseEnd + 4"
      />
      <rect
        class="outside"
        :x="edges.right"
        :y="0"
        :width="Math.max(0, layout.right - edges.right)"
        :height="layout.pauseEnd + 4"
      />
      <line class="edge" :x1="edges.left" :x2="edges.left" y1="0" :y2="layout.pauseEnd + 4" />
      <line class="edge" :x1="edges.right" :x2="edges.right" y1="0" :y2="layout.pauseEnd + 4" />
    </template>
  </svg>
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
}
.small {
  font-size: 11px;
}
.axis {
  stroke: var(--ink-2);
}
.floor {
  fill: none;
  stroke: var(--kept);
  stroke-width: 1.6;
}
.young {
  stroke: var(--ink-2);
  stroke-width: 1;
  fill: none;
}
.whole {
  stroke: var(--ink);
  stroke-width: 1.5;
  fill: none;
}
.own {
  stroke: var(--ink-2);
  stroke-width: 1;
  stroke-dasharray: 2 2;
  fill: none;
  opacity: 0.75;
}
.whole-end {
  fill: var(--ink);
}
.own-end {
  fill: var(--paper);
  stroke: var(--ink-2);
}
.mixed-end {
  fill: var(--paper);
  stroke: var(--ink);
}
.finding {
  stroke: var(--attention);
  stroke-width: 3;
  fill: none;
}
.moment {
  fill: none;
  stroke: var(--attention);
  stroke-dasharray: 3 2;
}
.outline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.2;
  pointer-events: none;
}
.shown {
  stroke: var(--ink);
  stroke-width: 1.2;
  stroke-dasharray: 5 2;
}
.kept {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 1.2;
  cursor: pointer;
}
.chosen {
  stroke: var(--kept);
  stroke-width: 2.4;
  fill: none;
}
.storm {
  fill: var(--attention);
  opacity: 0.16;
}
.mark line {
  stroke: var(--ink);
  stroke-width: 0.8;
  opacity: 0.45;
}
.mark path {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 0.8;
}
.flag {
  cursor: pointer;
}
.mark text {
  pointer-events: none;
  fill: var(--ink);
  font-size: 11px;
}
.outside {
  fill: var(--paper);
  opacity: 0.62;
}
.edge {
  stroke: var(--ink);
  stroke-width: 1.3;
}
</style>
