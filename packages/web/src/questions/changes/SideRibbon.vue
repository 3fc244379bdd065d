<script setup lang="ts">
import { formatBytes, formatClock, type RibbonAnswer, type Span } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { useTheme } from 'vuetify';
import RibbonDrawing from '../../ribbon/RibbonDrawing.vue';
import { paintRibbon } from '../../ribbon/ribbon-canvas.ts';
import { ribbonLayout, timeAt } from '../../ribbon/ribbon-layout.ts';

/** The ribbon of one side. Dragging chooses the side's span. */
const props = defineProps<{
  which: 'a' | 'b';
  name: string;
  ribbon: RibbonAnswer;
  span: Span;
  /** The most that either side used, so that both are of one scale. */
  mostBytes: number;
}>();
const emit = defineEmits<{ choose: [span: Span | null] }>();
const HEIGHT = 158;
const DRAG_LEAST = 4;
const theme = useTheme();
const frame = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const width = ref(900);
const drag = ref<{ readonly from: number; readonly to: number } | null>(null);
let observer: ResizeObserver | null = null;

const layout = computed(() => ribbonLayout(width.value, HEIGHT, props.ribbon.window, props.mostBytes));
const plotStyle = computed(() => {
  const { left, right, top, axis } = layout.value;
  return { left: `${left}px`, top: `${top}px`, width: `${right - left}px`, height: `${axis - top}px` };
});
const isWhole = computed(() => props.span.fromMs <= 0 && props.span.toMs >= props.ribbon.durationMs - 1);
const drawnSpan = computed<Span | null>(() => {
  if (drag.value === null) return isWhole.value ? null : props.span;
  const { from, to } = drag.value;
  return { fromMs: timeAt(layout.value, Math.min(from, to)), toMs: timeAt(layout.value, Math.max(from, to)) };
});
const text = computed(
  () =>
    `${props.which.toUpperCase()}, ${props.name}: memory and pauses, at most ${formatBytes(props.ribbon.peakBytes)} used; looked at from ${formatClock(props.span.fromMs)} to ${formatClock(props.span.toMs)}. Left and right move the span, with Shift its end; Escape drops it.`,
);

function paint(): void {
  if (canvas.value !== null) paintRibbon(canvas.value, props.ribbon, layout.value);
}
onMounted(() => {
  observer = new ResizeObserver(() => {
    width.value = frame.value?.clientWidth ?? 900;
  });
  if (frame.value !== null) observer.observe(frame.value);
  paint();
});
onBeforeUnmount(() => observer?.disconnect());
watch([() => props.ribbon, layout, () => theme.global.name.value], paint, { flush: 'post' });

function xOf(event: PointerEvent): number {
  const x = event.clientX - (frame.value?.getBoundingClientRect().left ?? 0);
  return Math.min(layout.value.right, Math.max(layout.value.left, x));
}

function begin(event: PointerEvent): void {
  if (event.button !== 0) return;
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
  drag.value = { from: xOf(event), to: xOf(event) };
}

function move(event: PointerEvent): void {
  if (drag.value !== null) drag.value = { from: drag.value.from, to: xOf(event) };
}

// What lies outside of the recording is no part of its span.
function finish(): void {
  const chosen = drawnSpan.value;
  const isDragged = drag.value !== null && Math.abs(drag.value.to - drag.value.from) >= DRAG_LEAST;
  drag.value = null;
  if (isDragged && chosen !== null) emitWithin(chosen);
}

function emitWithin({ fromMs, toMs }: Span): void {
  const within = { fromMs: Math.max(0, fromMs), toMs: Math.min(props.ribbon.durationMs, toMs) };
  if (within.fromMs < within.toMs) emit('choose', within);
}

function key(event: KeyboardEvent): void {
  const { fromMs, toMs } = props.span;
  const stepMs = (props.ribbon.window.toMs - props.ribbon.window.fromMs) / 20;
  const signs: Readonly<Partial<Record<'ArrowLeft' | 'ArrowRight', number>>> = { ArrowLeft: -1, ArrowRight: 1 };
  const sign = signs[event.key as 'ArrowLeft' | 'ArrowRight'];
  if (event.key === 'Escape') emit('choose', null);
  else if (sign === undefined) return;
  else if (event.shiftKey) emitWithin({ fromMs, toMs: toMs + sign * stepMs });
  else emitWithin({ fromMs: fromMs + sign * stepMs, toMs: toMs + sign * stepMs });
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <section
    ref="frame"
    class="ribbon"
    tabindex="0"
    role="application"
    :aria-label="text"
    :data-test="`ribbon-${which}`"
    :style="{ height: `${HEIGHT}px` }"
    @pointerdown="begin"
    @pointermove="move"
    @pointerup="finish"
    @keydown="key"
  >
    <canvas ref="canvas" :style="plotStyle" />
    <RibbonDrawing
      :layout="layout"
      :answer="ribbon"
      :overview="null"
      :stretch="null"
      :band="null"
      :kept="[]"
      :shown="[]"
      :span="drawnSpan"
      @span="emitWithin"
    />
    <b :class="`side-${which}`">{{ which.toUpperCase() }}</b>
  </section>
</template>

<style scoped>
.ribbon {
  position: relative;
  margin-bottom: -18px;
  user-select: none;
  cursor: crosshair;
  touch-action: none;
}
canvas {
  position: absolute;
}
.ribbon :deep(svg) {
  position: absolute;
  inset: 0;
}
b {
  position: absolute;
  left: 0;
  top: 2px;
  font-size: 15px;
}
.side-a {
  color: var(--side-a);
}
.side-b {
  color: var(--side-b);
}
</style>
