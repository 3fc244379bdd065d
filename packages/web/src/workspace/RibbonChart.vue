<script setup lang="ts">
import { formatBytes, formatClock, formatDuration, OWN_KIND, Scope } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { useTheme } from 'vuetify';
import { byteLabel, byteTicks, timeLabel, timeTicks } from '../charts/ticks.ts';
import { useWorkspace } from '../stores/workspace.ts';
import StrataTip from './StrataTip.vue';
import { PAUSE_LEAST_MS, pauseAt, pauseDepth, ribbonLayout, timeAt, xOf, yOfBytes, zoomed } from './ribbon-layout.ts';
import { bandOutline, strataAt, type StrataHit } from './strata-hit.ts';
import { bandColours, paintStrata, pixelColour } from './strata-paint.ts';

/** Time runs across; memory stands above the axis, pauses hang below it. Dragging selects the span. */
const HEIGHT = 206;
const DRAG_LEAST = 4;
const REACH = 5;
const FLAG_GAP = 60;
/** What holds nearly everywhere is no place to go to. */
const MARKED_RATIO = 0.6;
const workspace = useWorkspace();
const theme = useTheme();
const frame = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const width = ref(1200);
const drag = ref<{ from: number; to: number } | null>(null);
const hit = shallowRef<StrataHit | null>(null);
let observer: ResizeObserver | null = null;

const layout = computed(() => {
  const answer = workspace.ribbon;
  return answer === null ? null : ribbonLayout(width.value, HEIGHT, answer.window, answer.peakBytes);
});

const bytesAxis = computed(() =>
  layout.value === null
    ? []
    : byteTicks(layout.value.mostBytes, 4).map((bytes) => ({
        bytes,
        y: yOfBytes(layout.value!, bytes),
        label: byteLabel(bytes),
      })),
);
const pauseAxis = computed(() =>
  layout.value === null
    ? []
    : [1, 10, 100].map((ms) => ({ ms, y: layout.value!.axis + pauseDepth(layout.value!, ms) })),
);
const timeAxis = computed(() => {
  if (layout.value === null) return [];
  const { window } = layout.value;
  const ticks = timeTicks(window.fromMs, window.toMs, width.value / 110);
  const stepMs = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1000;
  return ticks.map((tMs) => ({ x: xOf(layout.value!, tMs), label: timeLabel(tMs, stepMs) }));
});

const pausePaths = computed(() => {
  const answer = workspace.ribbon;
  const place = layout.value;
  const paths = { young: '', mixed: '', whole: '', own: '', wholeEnds: '', ownEnds: '', mixedEnds: '', chosen: '' };
  if (answer === null || place === null) return paths;
  for (let at = 0; at < answer.pauseMs.length; at++) {
    const x = xOf(place, answer.pauseMs[at]!);
    const y = place.axis + pauseDepth(place, answer.pauseDurationMs[at]!);
    const stroke = `M${x.toFixed(1)},${place.axis}V${y.toFixed(1)}`;
    const kind = answer.pauseKind[at]!;
    if (answer.pauseChosen[at] === 1) paths.chosen += stroke;
    const own = kind >= OWN_KIND;
    const scope = own ? kind - OWN_KIND : kind;
    if (own) paths.own += stroke;
    else if (scope === Scope.young) paths.young += stroke;
    else if (scope === Scope.mixed) paths.mixed += stroke;
    else paths.whole += stroke;
    if (scope === Scope.mixed) paths.mixedEnds += `M${x.toFixed(1)},${(y - 2.3).toFixed(1)}a2.3,2.3 0 1 1 -.01,0z`;
    else if (scope !== Scope.young)
      paths[own ? 'ownEnds' : 'wholeEnds'] += `M${(x - 2.2).toFixed(1)},${(y - 2.2).toFixed(1)}h4.4v4.4h-4.4z`;
  }
  return paths;
});

/** Where findings hold: one path a finding, at the foot of the pauses. What holds all the time marks nothing. */
const findingMarks = computed(() => {
  const place = layout.value;
  const { overview } = workspace;
  if (place === null || overview === null) return [];
  const whole = overview.span.toMs - overview.span.fromMs;
  const most = MARKED_RATIO * whole;
  const somewhere = overview.findings.filter(
    ({ moments }) => moments.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0) < most,
  );
  return somewhere
    .map(({ code, sentence, moments }) => {
      let path = '';
      for (const { fromMs, toMs } of moments) {
        if (toMs < place.window.fromMs || fromMs > place.window.toMs) continue;
        const from = Math.max(place.left, xOf(place, fromMs));
        path += `M${from.toFixed(1)},${place.pauseEnd}h${Math.max(2, Math.min(place.right, xOf(place, toMs)) - from).toFixed(1)}`;
      }
      return { code, sentence, path };
    })
    .filter(({ path }) => path !== '');
});

const momentEdges = computed(() => {
  const place = layout.value;
  const { moment } = workspace;
  if (place === null || moment === null || moment.toMs < place.window.fromMs || moment.fromMs > place.window.toMs)
    return null;
  const left = Math.max(place.left, xOf(place, moment.fromMs));
  return { left, width: Math.max(3, Math.min(place.right, xOf(place, moment.toMs)) - left) };
});

/** The band under the pointer, or the one that the drawer shows. */
const outline = computed(() => {
  const answer = workspace.ribbon;
  const band = hit.value?.band ?? (workspace.selection?.kind === 'moment' ? workspace.selection.band : null);
  return answer === null || layout.value === null || band === null ? '' : bandOutline(answer, layout.value, band);
});

/** Kept moments, and those that are looked at. */
const instants = computed(() => {
  const place = layout.value;
  if (place === null) return { kept: [], shown: [] };
  const isThere = (tMs: number): boolean => tMs >= place.window.fromMs && tMs <= place.window.toMs;
  const chosen = workspace.selection?.kind === 'moment' ? workspace.selection : null;
  return {
    kept: workspace.notebook.moments
      .filter(({ tMs }) => isThere(tMs))
      .map(({ name, tMs }) => ({ name, tMs, x: xOf(place, tMs) })),
    shown: [chosen?.tMs ?? NaN, chosen?.againstMs ?? NaN].filter(isThere).map((tMs) => xOf(place, tMs)),
  };
});

const floorLine = computed(() => {
  const answer = workspace.ribbon;
  const place = layout.value;
  if (answer === null || place === null || answer.hasStrata) return '';
  return Array.from(
    answer.floorMs,
    (tMs, at) =>
      `${at === 0 ? 'M' : 'L'}${xOf(place, tMs).toFixed(1)},${yOfBytes(place, answer.floorBytes[at]!).toFixed(1)}`,
  ).join('');
});

const marks = computed(() => {
  const place = layout.value;
  const answer = workspace.ribbon;
  if (place === null || answer === null) return [];
  let free = -Infinity;
  let flagEnd = -Infinity;
  return answer.marks
    .filter(({ tMs }) => tMs >= answer.window.fromMs && tMs <= answer.window.toMs)
    .map(({ tMs, label }) => {
      const x = xOf(place, tMs);
      const wide = 12 + label.length * 5.6;
      // A flag without its words where marks crowd, and where it would leave the ribbon.
      const worded = x > free && x + wide < place.right;
      const bare = x <= flagEnd;
      if (worded) free = x + wide + FLAG_GAP;
      if (worded || !bare) flagEnd = x + (worded ? wide : 7);
      return { x, tMs, label, wide, worded, bare };
    });
});

const spanEdges = computed(() => {
  const place = layout.value;
  if (place === null) return null;
  if (drag.value !== null)
    return { left: Math.min(drag.value.from, drag.value.to), right: Math.max(drag.value.from, drag.value.to) };
  const { span } = workspace;
  if (span === null) return null;
  return { left: Math.max(place.left, xOf(place, span.fromMs)), right: Math.min(place.right, xOf(place, span.toMs)) };
});

const spanText = computed(() => {
  const place = layout.value;
  const edges = spanEdges.value;
  if (place === null || edges === null) return '';
  const fromMs = drag.value === null ? workspace.span!.fromMs : timeAt(place, edges.left);
  const toMs = drag.value === null ? workspace.span!.toMs : timeAt(place, edges.right);
  return `span ${formatClock(fromMs, true)} – ${formatClock(toMs, true)} (${formatDuration(toMs - fromMs)})`;
});

const text = computed(() => {
  const answer = workspace.ribbon;
  if (answer === null) return 'Memory over time';
  const where = `from ${formatClock(answer.window.fromMs)} to ${formatClock(answer.window.toMs)}`;
  return `Memory and pauses ${where}: at most ${formatBytes(answer.peakBytes)} used, ${answer.pauseMs.length} pauses drawn, ${answer.marks.length} marks. Arrow keys move, plus and minus zoom, Shift with arrows changes the span, Escape drops it, Enter shows what lived at the span's end.`;
});

function paint(): void {
  const answer = workspace.ribbon;
  const place = layout.value;
  const element = canvas.value;
  if (answer === null || place === null || element === null) return;
  const density = Math.min(2, globalThis.devicePixelRatio || 1);
  const wide = Math.round((place.right - place.left) * density);
  const tall = Math.round((place.axis - place.top) * density);
  if (wide < 1 || tall < 1) return;
  element.width = wide;
  element.height = tall;
  const context = element.getContext('2d');
  if (context === null) return;
  const image = context.createImageData(wide, tall);
  const token = (name: string): string => getComputedStyle(element).getPropertyValue(name).trim();
  paintStrata({ pixels: new Uint32Array(image.data.buffer), width: wide, height: tall }, answer, place, {
    bands: bandColours(
      [0, 1, 2, 3].map((stop) => token(`--strata-${stop}`)),
      answer.bands,
    ),
    rest: pixelColour(token('--rest')),
    hatch: pixelColour(token('--hatch')),
    floor: pixelColour(token('--after')),
  });
  context.putImageData(image, 0, 0);
}

function resize(): void {
  width.value = frame.value?.clientWidth ?? 1200;
  const bins = Math.max(100, Math.min(2000, Math.round(width.value - 76)));
  if (bins !== workspace.ribbonBins) {
    workspace.ribbonBins = bins;
    void workspace.refresh('ribbon');
  }
}

onMounted(() => {
  observer = new ResizeObserver(resize);
  if (frame.value !== null) observer.observe(frame.value);
  resize();
});
onBeforeUnmount(() => observer?.disconnect());
watch([() => workspace.ribbon, layout, () => theme.global.name.value], paint, { flush: 'post' });

function pointerX(event: PointerEvent | WheelEvent): number {
  return event.clientX - (frame.value?.getBoundingClientRect().left ?? 0);
}

function pointerY(event: PointerEvent): number {
  return event.clientY - (frame.value?.getBoundingClientRect().top ?? 0);
}

function inside(x: number): number {
  return Math.min(layout.value!.right, Math.max(layout.value!.left, x));
}

function begin(event: PointerEvent): void {
  if (layout.value === null || event.button !== 0) return;
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
  const x = inside(pointerX(event));
  drag.value = { from: x, to: x };
}

function move(event: PointerEvent): void {
  const answer = workspace.ribbon;
  const place = layout.value;
  hit.value =
    answer === null || place === null || drag.value !== null
      ? null
      : strataAt(answer, place, pointerX(event), pointerY(event));
  if (drag.value !== null) drag.value = { from: drag.value.from, to: inside(pointerX(event)) };
}

function finish(event: PointerEvent): void {
  const dragged = drag.value;
  const place = layout.value;
  drag.value = null;
  if (dragged === null || place === null) return;
  if (Math.abs(dragged.to - dragged.from) >= DRAG_LEAST) {
    workspace.setSpan({
      fromMs: timeAt(place, Math.min(dragged.from, dragged.to)),
      toMs: timeAt(place, Math.max(dragged.from, dragged.to)),
    });
  } else choose(event, dragged.to);
}

/**
 * Above the axis the instant with what lived then, below it the pause. With Shift, beside the instant that is looked at
 * already.
 */
function choose(event: PointerEvent, x: number): void {
  const answer = workspace.ribbon;
  const place = layout.value;
  const y = pointerY(event);
  if (answer === null || place === null) return;
  const found = strataAt(answer, place, x, y);
  if (found !== null && answer.hasStrata) {
    const before = workspace.selection?.kind === 'moment' ? workspace.selection.tMs : null;
    if (event.shiftKey && before !== null) workspace.lookInto(found.tMs, null, before);
    else workspace.lookInto(found.tMs, found.band);
    return;
  }
  if (y < place.axis) return;
  const at = pauseAt(place, answer.pauseMs, answer.pauseDurationMs, x, REACH);
  if (at >= 0) workspace.select({ kind: 'pause', row: answer.pauseRow[at]! });
}

/** The span from a mark to the next with its label, else to the end. */
function spanFrom(mark: { readonly tMs: number; readonly label: string }): void {
  const next = workspace.ribbon?.marks.find(({ tMs, label }) => label === mark.label && tMs > mark.tMs);
  workspace.setSpan({ fromMs: mark.tMs, toMs: next?.tMs ?? workspace.durationMs });
}

function wheel(event: WheelEvent): void {
  const place = layout.value;
  if (place === null) return;
  const { window } = place;
  if (Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey)
    pan((event.deltaX || event.deltaY) / (place.right - place.left));
  else workspace.setWindow(zoomed(window, event.deltaY > 0 ? 1.25 : 0.8, timeAt(place, inside(pointerX(event)))));
}

function pan(share: number): void {
  const { fromMs, toMs } = workspace.shownWindow;
  const byMs = (toMs - fromMs) * share;
  if (workspace.window !== null) workspace.setWindow({ fromMs: fromMs + byMs, toMs: toMs + byMs });
}

function resizeSpan(share: number): void {
  const { fromMs, toMs } = workspace.shownWindow;
  const span = workspace.span ?? { fromMs: (fromMs + toMs) / 2, toMs: (fromMs + toMs) / 2 };
  const end = Math.min(workspace.durationMs, span.toMs + (toMs - fromMs) * share);
  if (end > span.fromMs) workspace.setSpan({ fromMs: span.fromMs, toMs: end });
}

function key(event: KeyboardEvent): void {
  const window = workspace.shownWindow;
  const middleMs = (window.fromMs + window.toMs) / 2;
  switch (event.key) {
    case 'ArrowLeft':
      if (event.shiftKey) resizeSpan(-0.05);
      else pan(-0.1);
      break;
    case 'ArrowRight':
      if (event.shiftKey) resizeSpan(0.05);
      else pan(0.1);
      break;
    case '+':
    case '=':
      workspace.setWindow(zoomed(window, 0.7, middleMs));
      break;
    case '-':
      workspace.setWindow(zoomed(window, 1.4, middleMs));
      break;
    case 'Enter':
      workspace.lookInto(workspace.span?.toMs ?? middleMs);
      break;
    case 'Home':
      workspace.setWindow(null);
      break;
    case 'Escape':
      workspace.setSpan(null);
      break;
    default:
      return;
  }
  event.preventDefault();
}
</script>

<template>
  <section
    ref="frame"
    class="ribbon"
    tabindex="0"
    role="application"
    :aria-label="text"
    data-test="ribbon"
    :style="{ height: `${HEIGHT}px` }"
    @pointerdown="begin"
    @pointermove="move"
    @pointerup="finish"
    @pointerleave="hit = null"
    @wheel.prevent="wheel"
    @keydown="key"
  >
    <template v-if="layout">
      <canvas
        ref="canvas"
        :style="{
          left: `${layout.left}px`,
          top: `${layout.top}px`,
          width: `${layout.right - layout.left}px`,
          height: `${layout.axis - layout.top}px`,
        }"
      />
      <svg :width="width" :height="HEIGHT" aria-hidden="true">
        <g v-for="tick in bytesAxis" :key="tick.bytes">
          <text :x="layout.left - 8" :y="tick.y" dy="0.35em" text-anchor="end">{{ tick.label }}</text>
        </g>
        <g v-for="tick in pauseAxis" :key="`p${tick.ms}`">
          <text :x="layout.left - 8" :y="tick.y" dy="0.35em" text-anchor="end" class="small">
            {{ tick.ms }}{{ tick.ms === 100 ? ' ms' : '' }}
          </text>
        </g>
        <text v-for="tick in timeAxis" :key="tick.x" :x="tick.x" :y="HEIGHT - 5" text-anchor="middle">
          {{ tick.label }}
        </text>
        <rect
          v-for="storm in workspace.ribbon?.storms ?? []"
          :key="storm.fromMs"
          class="storm"
          :x="xOf(layout, storm.fromMs)"
          :y="layout.axis"
          :width="Math.max(2, xOf(layout, storm.toMs) - xOf(layout, storm.fromMs))"
          :height="layout.pauseEnd - layout.axis"
        />
        <path
          v-for="finding in findingMarks"
          :key="finding.code"
          class="finding"
          :d="finding.path"
          :data-code="finding.code"
        >
          <title>{{ finding.sentence }}</title>
        </path>
        <rect
          v-if="momentEdges"
          class="moment"
          :x="momentEdges.left"
          :y="layout.top - 4"
          :width="momentEdges.width"
          :height="layout.pauseEnd - layout.top + 8"
        />
        <clipPath id="ribbon-plot">
          <rect :x="layout.left" y="0" :width="layout.right - layout.left" :height="HEIGHT" />
        </clipPath>
        <path :d="outline" class="outline" clip-path="url(#ribbon-plot)" />
        <path :d="floorLine" class="floor" clip-path="url(#ribbon-plot)" />
        <line :x1="layout.left" :x2="layout.right" :y1="layout.axis" :y2="layout.axis" class="axis" />
        <path :d="pausePaths.own" class="own" />
        <path :d="pausePaths.young" class="young" />
        <path :d="pausePaths.mixed" class="whole" />
        <path :d="pausePaths.whole" class="whole" />
        <path :d="pausePaths.ownEnds" class="own-end" />
        <path :d="pausePaths.chosen" class="chosen" />
        <path :d="pausePaths.wholeEnds" class="whole-end" />
        <path :d="pausePaths.mixedEnds" class="mixed-end" />
        <g v-for="mark in marks" :key="mark.x" class="mark">
          <title>{{ mark.label }}{{ mark.bare && !mark.worded ? '' : ': click for the span to the next' }}</title>
          <line :x1="mark.x" :x2="mark.x" :y1="layout.top - 20" :y2="layout.axis" />
          <path
            v-if="mark.worded || !mark.bare"
            class="flag"
            :d="
              mark.worded
                ? `M${mark.x},${layout.top - 20}h${mark.wide}l-4,6l4,6H${mark.x}z`
                : `M${mark.x},${layout.top - 20}l7,4l-7,4z`
            "
            @pointerdown.stop
            @pointerup.stop
            @click="spanFrom(mark)"
          />
          <text v-if="mark.worded" :x="mark.x + 3" :y="layout.top - 10.5">{{ mark.label }}</text>
        </g>
        <line
          v-for="x in instants.shown"
          :key="`shown${x}`"
          class="shown"
          :x1="x"
          :x2="x"
          :y1="layout.top - 4"
          :y2="layout.pauseEnd"
        />
        <path
          v-for="{ name, tMs, x } in instants.kept"
          :key="`kept${tMs}`"
          class="kept"
          :d="`M${x},${layout.axis - 5}l4,5l-4,5l-4,-5z`"
          @pointerdown.stop
          @pointerup.stop
          @click="workspace.lookInto(tMs)"
        >
          <title>{{ name }}: what lived then</title>
        </path>
        <template v-if="spanEdges">
          <rect
            class="outside"
            :x="layout.left"
            :y="0"
            :width="Math.max(0, spanEdges.left - layout.left)"
            :height="HEIGHT - 18"
          />
          <rect
            class="outside"
            :x="spanEdges.right"
            :y="0"
            :width="Math.max(0, layout.right - spanEdges.right)"
            :height="HEIGHT - 18"
          />
          <line class="edge" :x1="spanEdges.left" :x2="spanEdges.left" y1="0" :y2="HEIGHT - 18" />
          <line class="edge" :x1="spanEdges.right" :x2="spanEdges.right" y1="0" :y2="HEIGHT - 18" />
        </template>
      </svg>
      <StrataTip
        v-if="hit && workspace.ribbon?.hasStrata"
        :hit="hit"
        :layout="layout"
        :duration-ms="workspace.ribbon.durationMs"
        :bands="workspace.ribbon.bands"
      />
      <div class="controls condensed" @pointerdown.stop @pointerup.stop>
        <span v-if="spanText" data-test="span">{{ spanText }}</span>
        <button v-if="workspace.span && !drag" type="button" class="linklike" @click="workspace.setSpan(null)">
          whole recording
        </button>
        <button
          v-if="workspace.span && !drag"
          type="button"
          class="linklike"
          @click="workspace.setWindow(workspace.span)"
        >
          zoom to it
        </button>
        <button v-if="workspace.window" type="button" class="linklike" @click="workspace.setWindow(null)">
          {{ workspace.isLive ? 'follow the head' : 'show all' }}
        </button>
      </div>
      <p class="visually-hidden">Pauses hang on a logarithmic scale from {{ PAUSE_LEAST_MS }} ms.</p>
    </template>
  </section>
</template>

<style scoped>
.ribbon {
  position: relative;
  border-bottom: 1px solid var(--rule);
  user-select: none;
  cursor: crosshair;
  touch-action: none;
  overflow: hidden;
}
.ribbon:focus-visible {
  outline-offset: -3px;
}
canvas {
  position: absolute;
  image-rendering: auto;
}
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
.controls {
  position: absolute;
  right: 20px;
  bottom: 0;
  display: flex;
  gap: 12px;
  font-size: 12.5px;
  background: var(--paper);
  padding: 0 6px;
  cursor: default;
}
</style>
