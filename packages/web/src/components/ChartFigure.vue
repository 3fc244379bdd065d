<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { drawQueue } from '../charts/draw-queue.ts';
import TermText from '../words/TermText.vue';
import PlainTable from './PlainTable.vue';

/** A drawn chart with its text alternative and, on request, the table that holds the same figures. */
const props = defineProps<{
  title: string;
  /** Word of docs/words.md that explains the title. */
  term?: string;
  /** What the chart says, for those who do not see it. */
  text: string;
  /** Height of the drawing in pixels, or the least of it where it fills the room there is. */
  height: number;
  fill?: boolean;
  draw: (svg: SVGSVGElement, width: number, height: number) => void;
  columns: readonly string[];
  /** Rows of the table: asked for when it is shown, for a chart may have as many points as a recording has collections. */
  rows: () => readonly (readonly string[])[];
  /** Class of the drawing, so that a test can find it. */
  name: string;
  /** What going to a row of the table means; rows are no buttons without it. */
  goTitle?: string;
}>();
const emit = defineEmits<{ pick: [event: MouseEvent]; go: [row: number] }>();

const plot = ref<HTMLElement | null>(null);
const drawing = ref<SVGSVGElement | null>(null);
const asTable = ref(false);
const shownRows = computed(() => (asTable.value ? props.rows() : []));
let observer: ResizeObserver | null = null;

const owner = {};

function redraw(): void {
  drawQueue.ask(owner, drawNow);
}

function drawNow(): void {
  const { clientWidth: width = 0, clientHeight: height = 0 } = plot.value ?? {};
  if (drawing.value !== null && width > 0) props.draw(drawing.value, width, props.fill ? height : props.height);
}

onMounted(() => {
  observer = new ResizeObserver(redraw);
  if (plot.value !== null) observer.observe(plot.value);
});
onBeforeUnmount(() => {
  observer?.disconnect();
  drawQueue.drop(owner);
});
watch(() => [props.draw, props.height, asTable.value], redraw, { flush: 'post' });
</script>

<template>
  <figure class="figure" :class="{ fill }">
    <figcaption>
      <h3>
        <TermText v-if="term" :word="term">{{ title }}</TermText><template v-else>{{ title }}</template>
      </h3>
      <slot name="beside" />
      <v-btn variant="plain" class="quiet" :aria-pressed="asTable" @click="asTable = !asTable">
        {{ asTable ? 'as a chart' : 'as a table' }}
      </v-btn>
    </figcaption>
    <div ref="plot" class="plot" :style="fill ? { minHeight: `${height}px` } : { height: `${height}px` }">
      <svg v-show="!asTable" ref="drawing" :class="name" role="img" :aria-label="text" @click="emit('pick', $event)" />
      <div v-if="asTable" class="table" tabindex="0" role="region" :aria-label="`${title}, as a table`">
        <PlainTable :columns="columns" :rows="shownRows" :go-title="goTitle" @go="(row) => emit('go', row)" />
      </div>
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
figcaption > :last-child {
  margin-left: auto;
  font-size: 12px;
  white-space: nowrap;
}
h3 {
  white-space: nowrap;
}
.fill {
  display: flex;
  flex-direction: column;
  flex: 1 1 auto;
}
/* What is drawn does not give the plot its size. */
.plot {
  position: relative;
  flex: 1 1 auto;
}
svg,
.table {
  position: absolute;
  inset: 0;
  display: block;
  width: 100%;
}
</style>
