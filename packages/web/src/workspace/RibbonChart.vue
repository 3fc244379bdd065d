<script setup lang="ts">
import { formatBytes, formatClock, type Span } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { useDisplay, useTheme } from 'vuetify';
import { useWorkspace } from '../stores/workspace.ts';
import RibbonControls from './RibbonControls.vue';
import RibbonDrawing from '../ribbon/RibbonDrawing.vue';
import StrataTip from './StrataTip.vue';
import { paintRibbon } from '../ribbon/ribbon-canvas.ts';
import { PAUSE_LEAST_MS, pauseAt, type RibbonLayout, ribbonLayout, timeAt, zoomed } from '../ribbon/ribbon-layout.ts';
import { ribbonHeight } from './room.ts';
import { strataAt, type StrataHit } from '../ribbon/strata-hit.ts';

/** Time runs across; memory stands above the axis, pauses hang below it. Dragging selects the span. */
const DRAG_LEAST = 4;
/** A pointer that rests so long while it drags is about to let go there. */
const REST_MS = 60;
const REACH = 5;
/** Pixels that a wheel turns by one notch, about. */
const WHEEL_NOTCH = 120;
const workspace = useWorkspace();
const theme = useTheme();
const display = useDisplay();
const height = computed(() => ribbonHeight(display.height.value));
const frame = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const width = ref(1200);
interface Drag {
  readonly from: number;
  readonly to: number;
}
const drag = ref<Drag | null>(null);
const hit = shallowRef<StrataHit | null>(null);
let observer: ResizeObserver | null = null;
let resting: ReturnType<typeof setTimeout> | undefined;

const layout = computed(() => {
  const answer = workspace.ribbon;
  return answer === null ? null : ribbonLayout(width.value, height.value, answer.window, answer.peakBytes);
});

const plotStyle = computed(() => {
  const { left = 0, right = 0, top = 0, axis = 0 } = layout.value ?? {};
  return { left: `${left}px`, top: `${top}px`, width: `${right - left}px`, height: `${axis - top}px` };
});

const lookedInto = computed(() => (workspace.selection?.kind === 'moment' ? workspace.selection : null));
/** Instants that the drawer shows. */
const instants = computed(() =>
  [lookedInto.value?.tMs ?? NaN, lookedInto.value?.againstMs ?? NaN]
    .filter((tMs) => !Number.isNaN(tMs))
    .map((tMs) => ({ tMs })),
);

/** The span as it is dragged, else as it was chosen. */
const drawnSpan = computed<Span | null>(() => {
  const place = layout.value;
  return drag.value === null || place === null ? workspace.span : spanBetween(place, drag.value);
});

function spanBetween(place: RibbonLayout, { from, to }: Drag): Span {
  return { fromMs: timeAt(place, Math.min(from, to)), toMs: timeAt(place, Math.max(from, to)) };
}

const isClick = ({ from, to }: Drag): boolean => Math.abs(to - from) < DRAG_LEAST;

const text = computed(() => {
  const answer = workspace.ribbon;
  if (answer === null) return 'Memory over time';
  const where = `from ${formatClock(answer.window.fromMs)} to ${formatClock(answer.window.toMs)}`;
  return `Memory and pauses ${where}: at most ${formatBytes(answer.peakBytes)} used, ${answer.pauseMs.length} pauses drawn, ${answer.marks.length === 1 ? '1 mark' : `${answer.marks.length} marks`}. Arrow keys move, plus and minus zoom, Shift with arrows changes the span, Escape drops it, Enter shows what lived at the span's end.`;
});

function paint(): void {
  if (canvas.value !== null && workspace.ribbon !== null && layout.value !== null)
    paintRibbon(canvas.value, workspace.ribbon, layout.value);
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
onBeforeUnmount(() => {
  observer?.disconnect();
  clearTimeout(resting);
});
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
  if (drag.value === null) return;
  drag.value = { from: drag.value.from, to: inside(pointerX(event)) };
  clearTimeout(resting);
  resting = setTimeout(() => {
    if (drag.value !== null && layout.value !== null && !isClick(drag.value))
      workspace.expectSpan(spanBetween(layout.value, drag.value));
  }, REST_MS);
}

function finish(event: PointerEvent): void {
  clearTimeout(resting);
  const dragged = drag.value;
  const place = layout.value;
  drag.value = null;
  if (dragged === null || place === null) return;
  if (isClick(dragged)) choose(event, dragged.to);
  else workspace.setSpan(spanBetween(place, dragged));
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

function wheel(event: WheelEvent): void {
  const place = layout.value;
  if (place === null) return;
  // The window that is asked for, not the one that is drawn: several turns may come before its picture does.
  const window = workspace.shownWindow;
  if (Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey)
    pan((event.deltaX || event.deltaY) / (place.right - place.left));
  else {
    const share = (inside(pointerX(event)) - place.left) / (place.right - place.left);
    const aroundMs = window.fromMs + share * (window.toMs - window.fromMs);
    workspace.setWindow(zoomed(window, 1.25 ** (event.deltaY / WHEEL_NOTCH), aroundMs));
  }
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
    :style="{ height: `${height}px` }"
    @pointerdown="begin"
    @pointermove="move"
    @pointerup="finish"
    @pointerleave="hit = null"
    @wheel.prevent="wheel"
    @keydown="key"
  >
    <template v-if="layout">
      <canvas ref="canvas" :style="plotStyle" />
      <RibbonDrawing
        v-if="workspace.ribbon"
        :layout="layout"
        :answer="workspace.ribbon"
        :overview="workspace.overview"
        :stretch="workspace.moment"
        :band="hit?.band ?? lookedInto?.band ?? null"
        :kept="workspace.notebook.moments"
        :shown="instants"
        :span="drawnSpan"
        @span="workspace.setSpan"
        @instant="workspace.lookInto"
      />
      <StrataTip
        v-if="hit && workspace.ribbon?.hasStrata"
        :hit="hit"
        :layout="layout"
        :duration-ms="workspace.ribbon.durationMs"
        :bands="workspace.ribbon.bands"
      />
      <RibbonControls :span="drawnSpan" :is-dragged="drag !== null" />
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
</style>
