<script setup lang="ts">
import { type CollectionsAnswer, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { countText } from '../../components/figures.ts';
import PlainTable from '../../components/PlainTable.vue';
import { bucketLayout, movedEdge, readEdges } from './bucket-layout.ts';
import { durationLabel } from './pause-charts.ts';

/** Pauses by length, in buckets whose edges are dragged, moved with the arrow keys, or typed. */
const props = defineProps<{ answer: CollectionsAnswer; isOwn: boolean; height: number; fill?: boolean }>();
const emit = defineEmits<{ edges: [edgesMs: readonly number[] | null] }>();

const KEY_FACTOR = 1.1;
const frame = ref<HTMLElement | null>(null);
const width = ref(400);
const tall = ref(props.height);
const asTable = ref(false);
const dragged = ref(-1);
const typed = ref('');
const problem = ref('');
let observer: ResizeObserver | null = null;

const layout = computed(() => bucketLayout(props.answer.buckets, width.value, tall.value));
const inner = computed(() => props.answer.buckets.edgesMs.slice(1, -1));
const share = (bucket: number): number =>
  props.answer.figures.totalMs > 0 ? props.answer.buckets.totalsMs[bucket]! / props.answer.figures.totalMs : 0;
const range = (bucket: number): string =>
  `${durationLabel(props.answer.buckets.edgesMs[bucket]!)} – ${durationLabel(props.answer.buckets.edgesMs[bucket + 1]!)}`;

const bucketRows = computed(() =>
  Array.from(props.answer.buckets.counts, (count, bucket) => [
    range(bucket),
    countText(count),
    formatDuration(props.answer.buckets.totalsMs[bucket]!),
    formatPercent(share(bucket)),
  ]),
);

watch(
  inner,
  (edges) => {
    typed.value = edges.join(', ');
  },
  { immediate: true },
);

onMounted(() => {
  observer = new ResizeObserver(() => {
    width.value = frame.value?.clientWidth ?? width.value;
    tall.value = (props.fill ? frame.value?.clientHeight : undefined) ?? props.height;
  });
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => observer?.disconnect());

function drag(event: PointerEvent, edge: number): void {
  dragged.value = edge;
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
}

function move(event: PointerEvent): void {
  if (dragged.value < 0) return;
  const x = event.clientX - (frame.value?.getBoundingClientRect().left ?? 0);
  const edges = props.answer.buckets.edgesMs;
  // An edge stays between its neighbours.
  const ms = Math.min(
    edges[dragged.value + 1]! * 0.98,
    Math.max((edges[dragged.value - 1]! || 0.01) * 1.02, layout.value.msAt(x)),
  );
  emit('edges', movedEdge(edges, dragged.value, ms));
}

function key(event: KeyboardEvent, edge: number): void {
  const ms = props.answer.buckets.edgesMs[edge]!;
  if (event.key === 'ArrowRight')
    emit(
      'edges',
      movedEdge(props.answer.buckets.edgesMs, edge, Math.max(ms * KEY_FACTOR, Number(ms.toPrecision(2)) * 1.06)),
    );
  else if (event.key === 'ArrowLeft') emit('edges', movedEdge(props.answer.buckets.edgesMs, edge, ms / KEY_FACTOR));
  else if (event.key === 'Delete')
    emit('edges', props.answer.buckets.edgesMs.filter((_, place) => place !== edge).slice(1));
  else return;
  event.preventDefault();
}

function type(): void {
  const edges = readEdges(typed.value);
  problem.value = edges === null ? 'expected lengths in ms, like 1, 5, 20, 100' : '';
  if (edges !== null) emit('edges', edges);
}
</script>

<template>
  <figure class="figure" :class="{ fill }">
    <figcaption>
      <h3>Pauses by length</h3>
      <span class="quiet condensed key">count · share of paused time</span>
      <v-btn variant="plain" class="quiet" :aria-pressed="asTable" @click="asTable = !asTable">
        {{ asTable ? 'as a chart' : 'as a table' }}
      </v-btn>
    </figcaption>
    <div ref="frame" class="plot" :style="fill ? { minHeight: `${height}px` } : { height: `${height}px` }">
      <svg
        v-if="!asTable"
        class="size-chart"
        :width="width"
        :height="tall"
        role="group"
        :aria-label="`Pauses by length: ${layout.bars.map((bar) => `${range(bar.bucket)}: ${countText(bar.count)}`).join('; ')}`"
        @pointermove="move"
        @pointerup="dragged = -1"
      >
        <g v-for="bar in layout.bars" :key="bar.bucket">
          <title>
            {{ range(bar.bucket) }}: {{ countText(bar.count) }} pauses,
            {{ formatDuration(answer.buckets.totalsMs[bar.bucket]!) }} ({{ formatPercent(share(bar.bucket)) }} of paused
            time)
          </title>
          <rect class="bar" :x="bar.x" :y="bar.y" :width="bar.width" :height="bar.height" />
          <text
            v-if="bar.count > 0 && bar.width > 14"
            class="count"
            :x="bar.x + bar.width / 2"
            :y="bar.y - (bar.width > 30 ? 15 : 4)"
            text-anchor="middle"
          >
            {{ countText(bar.count) }}
          </text>
          <text
            v-if="bar.count > 0 && bar.width > 30"
            class="share"
            :x="bar.x + bar.width / 2"
            :y="bar.y - 4"
            text-anchor="middle"
          >
            {{ formatPercent(share(bar.bucket)) }}
          </text>
        </g>
        <line class="axis" :x1="layout.left" :x2="layout.right" :y1="layout.axisY" :y2="layout.axisY" />
        <g
          v-for="handle in layout.handles"
          :key="handle.edge"
          class="edge"
          :class="{ held: dragged === handle.edge }"
          role="slider"
          tabindex="0"
          :data-edge="handle.edge"
          :aria-label="`Edge between buckets`"
          :aria-valuenow="handle.ms"
          :aria-valuetext="durationLabel(handle.ms)"
          :aria-valuemin="0"
          :aria-valuemax="answer.buckets.edgesMs.at(-1)"
          @pointerdown="drag($event, handle.edge)"
          @keydown="key($event, handle.edge)"
        >
          <rect class="grip" :x="handle.x - 7" :y="layout.axisY - 4" width="14" height="24" />
          <path :d="`M${handle.x},${layout.axisY}v7`" />
          <text
            v-if="handle.labelled || dragged === handle.edge"
            :x="handle.x"
            :y="layout.axisY + 18"
            text-anchor="middle"
          >
            {{ durationLabel(handle.ms) }}
          </text>
        </g>
      </svg>
      <div v-else class="table" tabindex="0" role="region" aria-label="Pauses by length, as a table">
        <PlainTable :columns="['length', 'count', 'sum', 'of paused time']" :rows="bucketRows" />
      </div>
    </div>
    <form class="typed condensed" @submit.prevent="type">
      <label
        >edges
        <v-text-field
          v-model="typed"
          class="edges"
          data-test="edges"
          spellcheck="false"
          :error="problem !== ''"
          :aria-invalid="problem !== ''"
          @change="type"
        />
        ms</label
      >
      <v-btn v-if="isOwn" variant="plain" class="quiet" @click="emit('edges', null)">usual edges</v-btn>
      <span v-if="problem" class="urgent" role="alert">{{ problem }}</span>
    </form>
  </figure>
</template>

<style scoped>
.figure {
  margin: 0;
  min-width: 0;
}
figcaption {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
figcaption > :last-child {
  margin-left: auto;
  font-size: 12px;
  white-space: nowrap;
}
h3 {
  white-space: nowrap;
}
.key {
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
svg {
  display: block;
  touch-action: none;
}
.bar {
  fill: var(--kept);
}
.count {
  fill: var(--ink);
}
.share {
  font-size: 11px;
}
.axis {
  stroke: var(--ink-2);
}
.edge {
  cursor: ew-resize;
}
.edge path {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.edge .grip {
  fill: transparent;
}
.edge:hover .grip,
.held .grip {
  fill: var(--chosen);
}
.fill {
  display: flex;
  flex-direction: column;
}
.plot {
  position: relative;
  flex: 1 1 auto;
}
.plot > * {
  position: absolute;
  inset: 0;
}
.typed {
  display: flex;
  gap: 12px;
  align-items: baseline;
  font-size: 12.5px;
  color: var(--ink-2);
}
.typed label {
  flex: 1;
  display: flex;
  gap: 6px;
  align-items: baseline;
}
.edges {
  flex: 1;
  max-width: 280px;
}
</style>
