<script setup lang="ts">
import { type BirthAgeMap, formatBytes, formatClock, formatDuration } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { useTheme } from 'vuetify';
import { pixelColour } from '../../charts/pixel-colour.ts';
import { timeLabel, timeTicks } from '../../charts/ticks.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import {
  collectionLine,
  mapLayout,
  type MapRegion,
  paintMap,
  regionAt,
  regionFind,
  withoutRegion,
  xOfBirth,
  yOfAge,
} from './map-layout.ts';

/**
 * Time of birth across, age up, shade by what died there; what still lives stands on the diagonal. A region that is
 * drawn, or moved by keys, is found everywhere. Holds the region while it is drawn: it is nobody else's.
 */
const props = defineProps<{ map: BirthAgeMap }>();
const workspace = useWorkspace();
const theme = useTheme();
const LEAST_HEIGHT = 300;
const AGES_MS = [1, 10, 100, 1000, 10_000, 60_000, 600_000, 3_600_000];
const frame = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const size = ref({ width: 900, height: LEAST_HEIGHT });
const corner = shallowRef<{ x: number; y: number } | null>(null);
const region = shallowRef<MapRegion | null>(null);
let observer: ResizeObserver | null = null;

const layout = computed(() => mapLayout(size.value.width, size.value.height));
const plotStyle = computed(() => {
  const { left, right, top, bottom } = layout.value;
  return { left: `${left}px`, top: `${top}px`, width: `${right - left}px`, height: `${bottom - top}px` };
});
const times = computed(() => {
  const { fromMs, toMs } = props.map.span;
  const ticks = timeTicks(fromMs, toMs, size.value.width / 100);
  const stepMs = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1000;
  return ticks.map((tMs) => ({ x: xOfBirth(props.map, layout.value, tMs), label: timeLabel(tMs, stepMs) }));
});
const isLog = computed(
  () => props.map.edgesMs[1]! < props.map.edgesMs[2]! - props.map.edgesMs[1]! - 1e-9 || props.map.edgesMs[1]! < 2,
);
const ages = computed(() => {
  const last = props.map.edgesMs[props.map.rows]!;
  const wanted = isLog.value ? AGES_MS.filter((ms) => ms < last) : timeTicks(0, last, 6).slice(1);
  return wanted.map((ms) => ({
    ms,
    y: yOfAge(props.map, layout.value, ms),
    label: formatDuration(ms).replace('.00', '').replace('.0', ''),
  }));
});
const collections = computed(() =>
  Array.from(props.map.wholeMs, (endMs) => collectionLine(props.map, layout.value, endMs)).join(''),
);
// What lives stands where its age is what is left of the span.
const edge = computed(() => {
  const { span, columns, alive } = props.map;
  const most = alive.reduce((a, b) => Math.max(a, b), 0);
  return Array.from(alive, (bytes, column) => {
    const born = span.fromMs + ((column + 0.5) / columns) * (span.toMs - span.fromMs);
    return {
      bytes,
      column,
      x: xOfBirth(props.map, layout.value, born),
      y: yOfAge(props.map, layout.value, span.toMs - born),
      r: 1 + 5 * Math.sqrt(bytes / (most || 1)),
    };
  }).filter(({ bytes }) => bytes > 0);
});
const text = computed(() => {
  const { deaths, living, span } = props.map;
  return `Deaths by time of birth, from ${formatClock(span.fromMs)} to ${formatClock(span.toMs)}, and by age: ${deaths.toLocaleString('en')} seen to die, ${living.toLocaleString('en')} alive at the end. Arrows move a region, with Shift its far corner, Enter finds it.`;
});
const box = computed(() => {
  if (region.value === null) return null;
  const { bornFromMs, bornToMs, ageFromMs, ageToMs } = region.value;
  const [x, right] = [bornFromMs, bornToMs].map((ms) => xOfBirth(props.map, layout.value, ms));
  const [bottom, y] = [ageFromMs, ageToMs].map((ms) => yOfAge(props.map, layout.value, ms));
  return { x: x!, y: y!, width: right! - x!, height: bottom! - y! };
});
const regionText = computed(() => {
  if (region.value === null) return '';
  const { bornFromMs, bornToMs, ageFromMs, ageToMs } = region.value;
  return `born ${formatClock(bornFromMs, true)} – ${formatClock(bornToMs, true)}, died at ${formatDuration(ageFromMs)} – ${formatDuration(ageToMs)}: ${formatBytes(diedIn(region.value))}`;
});

function diedIn({ bornFromMs, bornToMs, ageFromMs, ageToMs }: MapRegion): number {
  const { died, columns, rows, edgesMs, span } = props.map;
  let sum = 0;
  for (let row = 0; row < rows; row++) {
    if (edgesMs[row]! < ageFromMs || edgesMs[row + 1]! > ageToMs + 1e-9) continue;
    for (let column = 0; column < columns; column++) {
      const born = span.fromMs + ((column + 0.5) / columns) * (span.toMs - span.fromMs);
      if (born >= bornFromMs && born < bornToMs) sum += died[row * columns + column]!;
    }
  }
  return sum;
}

function paint(): void {
  const element = canvas.value;
  const context = element?.getContext('2d');
  if (!element || !context) return;
  const { columns, rows } = props.map;
  element.width = columns;
  element.height = rows;
  const image = context.createImageData(columns, rows);
  const colour = pixelColour(getComputedStyle(element).getPropertyValue('--kept').trim());
  paintMap(new Uint32Array(image.data.buffer), props.map, colour);
  context.putImageData(image, 0, 0);
}

const pointOf = (event: PointerEvent): { x: number; y: number } => {
  const at = frame.value!.getBoundingClientRect();
  return { x: event.clientX - at.left, y: event.clientY - at.top };
};

function begin(event: PointerEvent): void {
  if (event.button !== 0) return;
  frame.value!.setPointerCapture(event.pointerId);
  corner.value = pointOf(event);
}

function move(event: PointerEvent): void {
  if (corner.value !== null) region.value = regionAt(props.map, layout.value, corner.value, pointOf(event));
}

function finish(): void {
  if (corner.value !== null && region.value !== null) find();
  corner.value = null;
}

// What stood in the find field beside births, ages and fates stays.
function find(): void {
  if (region.value === null) return;
  workspace.find = `${withoutRegion(workspace.find ?? '')} ${regionFind(region.value)}`.trim();
}

const STEP = 0.04;
function key(event: KeyboardEvent): void {
  const { left, right, top, bottom } = layout.value;
  const sideways = { ArrowLeft: -1, ArrowRight: 1 }[event.key] ?? 0;
  const upward = { ArrowUp: -1, ArrowDown: 1 }[event.key] ?? 0;
  if (event.key === 'Enter') find();
  else if (event.key === 'Escape') region.value = null;
  else if (sideways !== 0 || upward !== 0) {
    const now = box.value ?? {
      x: (left + right) / 2,
      y: (top + bottom) / 2,
      width: (right - left) / 10,
      height: (bottom - top) / 10,
    };
    const [dx, dy] = [sideways * STEP * (right - left), upward * STEP * (bottom - top)];
    const grows = event.shiftKey;
    const from = { x: now.x + (grows ? 0 : dx), y: now.y + (grows ? dy : dy) };
    const to = { x: now.x + now.width + dx, y: now.y + now.height + (grows ? 0 : dy) };
    region.value = regionAt(props.map, layout.value, from, to);
  } else return;
  event.preventDefault();
}

onMounted(() => {
  observer = new ResizeObserver(() => {
    const { clientWidth = 900, clientHeight = LEAST_HEIGHT } = frame.value ?? {};
    size.value = { width: clientWidth, height: clientHeight };
  });
  if (frame.value !== null) observer.observe(frame.value);
  paint();
});
onBeforeUnmount(() => observer?.disconnect());
watch([() => props.map, () => theme.global.name.value], paint, { flush: 'post' });
</script>

<template>
  <div class="filling">
    <p v-if="map.deaths === 0" class="quiet" data-test="map-missing">
      None of the {{ map.living.toLocaleString('en') }} objects that were born in this span was seen to die: only what
      lives is drawn.
    </p>
    <p class="quiet condensed told" role="status">{{ regionText || 'Draw over a region to find what died in it.' }}</p>
    <div
      ref="frame"
      class="map"
      tabindex="0"
      role="application"
      :aria-label="text"
      data-test="birth-age"
      @pointerdown="begin"
      @pointermove="move"
      @pointerup="finish"
      @keydown="key"
    >
      <canvas ref="canvas" :style="plotStyle" />
      <svg :width="size.width" :height="size.height" aria-hidden="true">
        <g v-for="tick in ages" :key="tick.ms">
          <line class="grid" :x1="layout.left" :x2="layout.right" :y1="tick.y" :y2="tick.y" />
          <text :x="layout.left - 8" :y="tick.y" dy="0.35em" text-anchor="end">{{ tick.label }}</text>
        </g>
        <text v-for="tick in times" :key="tick.x" :x="tick.x" :y="size.height - 6" text-anchor="middle">
          {{ tick.label }}
        </text>
        <path class="collections" :d="collections" />
        <circle v-for="at in edge" :key="at.column" class="alive" :cx="at.x" :cy="at.y" :r="at.r" />
        <rect v-if="box" class="region" v-bind="box" />
        <text :x="layout.left" :y="13">age</text>
      </svg>
    </div>
    <p class="quiet small">
      Born across, age up; the darker, the more bytes died there, by their logarithm. Circles on the edge are what still
      lives. Slanting lines are whole collections: what dies on one was noticed by it. Bytes whose objects were not seen
      singly are not drawn.
    </p>
  </div>
</template>

<style scoped>
.told {
  margin: 4px 0;
  min-height: 19px;
}
.map {
  position: relative;
  flex: 1 1 300px;
  min-height: 300px;
  cursor: crosshair;
  touch-action: none;
  user-select: none;
}
canvas {
  position: absolute;
  image-rendering: pixelated;
}
svg {
  position: absolute;
  inset: 0;
}
.grid {
  stroke: var(--rule);
}
.collections {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 0.7;
  opacity: 0.4;
}
.alive {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 1;
}
.region {
  fill: var(--attention);
  fill-opacity: 0.1;
  stroke: var(--attention);
}
</style>
