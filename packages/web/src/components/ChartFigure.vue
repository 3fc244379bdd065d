<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { drawQueue } from '../charts/draw-queue.ts';

/** A drawn chart with its text alternative and, on request, the table that holds the same figures. */
const props = defineProps<{
  title: string;
  /** What the chart says, for those who do not see it. */
  text: string;
  height: number;
  draw: (svg: SVGSVGElement, width: number, height: number) => void;
  columns: readonly string[];
  rows: readonly (readonly string[])[];
  /** Class of the drawing, so that a test can find it. */
  name: string;
  /** What going to a row of the table means; rows are no buttons without it. */
  goTitle?: string;
}>();
const emit = defineEmits<{ pick: [event: MouseEvent]; go: [row: number] }>();

const MOST_ROWS = 500;
const frame = ref<HTMLElement | null>(null);
const drawing = ref<SVGSVGElement | null>(null);
const asTable = ref(false);
let observer: ResizeObserver | null = null;

const owner = {};

function redraw(): void {
  drawQueue.ask(owner, drawNow);
}

function drawNow(): void {
  const width = frame.value?.clientWidth ?? 0;
  if (drawing.value !== null && width > 0) props.draw(drawing.value, width, props.height);
}

onMounted(() => {
  observer = new ResizeObserver(redraw);
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => {
  observer?.disconnect();
  drawQueue.drop(owner);
});
watch(() => [props.draw, props.height, asTable.value], redraw, { flush: 'post' });
</script>

<template>
  <figure ref="frame" class="figure">
    <figcaption>
      <h3>{{ title }}</h3>
      <slot name="beside" />
      <button type="button" class="linklike quiet" :aria-pressed="asTable" @click="asTable = !asTable">
        {{ asTable ? 'as a chart' : 'as a table' }}
      </button>
    </figcaption>
    <svg
      v-show="!asTable"
      ref="drawing"
      :class="name"
      :height="height"
      role="img"
      :aria-label="text"
      @click="emit('pick', $event)"
    />
    <div
      v-if="asTable"
      class="scroll"
      :style="{ height: `${height}px` }"
      tabindex="0"
      role="region"
      :aria-label="`${title}, as a table`"
    >
      <table class="dense">
        <thead>
          <tr>
            <th v-for="column in columns" :key="column" scope="col">{{ column }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, place) in rows.slice(0, MOST_ROWS)" :key="place">
            <td v-for="(cell, at) in row" :key="at">
              <button
                v-if="goTitle && at === 0"
                type="button"
                class="linklike"
                :title="goTitle"
                @click="emit('go', place)"
              >
                {{ cell }}</button><template v-else>{{ cell }}</template>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="rows.length > MOST_ROWS" class="quiet">and {{ rows.length - MOST_ROWS }} more</p>
    </div>
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
figcaption button {
  margin-left: auto;
  font-size: 12px;
  white-space: nowrap;
}
h3 {
  white-space: nowrap;
}
svg {
  display: block;
  width: 100%;
}
.scroll {
  overflow: auto;
}
</style>
