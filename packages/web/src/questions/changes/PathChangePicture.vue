<script setup lang="ts">
import { type ChangedPathCell, formatBytes, type PathChangesAnswer } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { cellBeside } from '../../components/outline-lines.ts';
import { useChanges } from './changes-state.ts';
import { intervalText, signed } from './changes-words.ts';

/**
 * Call paths of both sides as a picture: each cell as wide as its larger side, and at its foot as much of that as came
 * in B, or went from A, in that side's colour.
 */
const props = defineProps<{ answer: PathChangesAnswer }>();
const { tree } = useChanges();
const ROW = 24;
const LETTER = 6.6;
const frame = ref<HTMLElement | null>(null);
const width = ref(900);
const active = ref(0);
let observer: ResizeObserver | null = null;
onMounted(() => {
  observer = new ResizeObserver(() => {
    width.value = frame.value?.clientWidth ?? 900;
  });
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => observer?.disconnect());

const rows = computed(() => props.answer.cells.reduce((most, { depth }) => Math.max(most, depth + 1), 1));
const isClear = ({ low, high }: ChangedPathCell): boolean => low > 0 || high < 0;
const widthOf = ({ from, to }: ChangedPathCell): number => Math.max(1, (to - from) * width.value - 1);
/** Width of what came or went. */
const footOf = (cell: ChangedPathCell): number =>
  Math.min(1, Math.abs(cell.difference) / Math.max(cell.a, cell.b, 1e-9)) * widthOf(cell);
const label = (cell: ChangedPathCell): string =>
  [
    `${`${cell.text} ${cell.place}`.trim()}: A ${formatBytes(cell.a)}, B ${formatBytes(cell.b)}`,
    `${signed('bytes', cell.difference)} ${intervalText('bytes', cell)}`.trim(),
    ...(isClear(cell) ? [] : ['not clear']),
  ].join(', ');
const current = computed(() => props.answer.cells[active.value] ?? null);

function fitting(cell: ChangedPathCell): string {
  const letters = Math.floor((widthOf(cell) - 8) / LETTER);
  if (letters < 4) return '';
  return cell.text.length > letters ? `${cell.text.slice(0, letters - 1)}…` : cell.text;
}

function key(event: KeyboardEvent): void {
  const { cells } = props.answer;
  const cell = cells[active.value];
  if (cell === undefined) return;
  let near = -1;
  switch (event.key) {
    case 'ArrowDown':
    case 'ArrowUp':
    case 'ArrowRight':
    case 'ArrowLeft':
      near = cellBeside(cells, active.value, event.key);
      if (near >= 0) active.value = near;
      break;
    case 'Enter':
      tree.focusOn(cell.id);
      break;
    case 'Escape':
      tree.focusOn('');
      break;
    default:
      return;
  }
  event.preventDefault();
}
</script>

<template>
  <div class="filling">
    <p class="condensed quiet told" role="status">{{ current === null ? 'Nothing was allocated.' : label(current) }}</p>
    <div
      ref="frame"
      class="picture"
      tabindex="0"
      role="application"
      :aria-label="`Call paths of both sides, ${answer.cells.length} cells. Arrows move, Enter hangs one from the top.`"
      data-test="change-picture"
      @keydown="key"
    >
      <svg :width="width" :height="rows * ROW + 2" aria-hidden="true">
        <g
          v-for="(cell, place) in answer.cells"
          :key="cell.id"
          :class="{ active: place === active }"
          @click="active = place"
          @dblclick="tree.focusOn(cell.id)"
        >
          <title>{{ label(cell) }}</title>
          <rect class="cell" :x="cell.from * width" :y="cell.depth * ROW" :width="widthOf(cell)" :height="ROW - 2" />
          <rect
            :class="[cell.difference < 0 ? 'less' : 'more', { unclear: !isClear(cell) }]"
            :x="cell.from * width + widthOf(cell) - footOf(cell)"
            :y="cell.depth * ROW + ROW - 8"
            :width="footOf(cell)"
            height="6"
          />
          <text :x="cell.from * width + 4" :y="cell.depth * ROW + 12" :class="{ quiet: !cell.isOwn }">
            {{ fitting(cell) }}
          </text>
        </g>
      </svg>
    </div>
    <p class="quiet small">
      <span class="swatch less" /> went from A, <span class="swatch more" /> came in B; an outline is not clear. Double
      click hangs a cell from the top.
      <v-btn v-if="tree.focus" variant="plain" @click="tree.focusOn('')">show all</v-btn>
    </p>
  </div>
</template>

<style scoped>
.told {
  margin: 2px 0 4px;
  min-height: 20px;
}
.picture {
  flex: 1 1 auto;
  min-height: 160px;
  overflow-y: auto;
}
.cell {
  fill: var(--paper-2);
  stroke: var(--rule);
}
.active .cell {
  stroke: var(--ink);
  stroke-width: 1.6;
}
text {
  font-size: 12px;
  fill: var(--ink);
  pointer-events: none;
}
text.quiet {
  fill: var(--ink-2);
}
.less {
  fill: var(--side-a);
  stroke: var(--side-a);
}
.more {
  fill: var(--side-b);
  stroke: var(--side-b);
}
.unclear {
  fill: none;
  stroke-dasharray: 2 2;
}
.swatch {
  display: inline-block;
  width: 14px;
  height: 7px;
}
.swatch.less {
  background: var(--side-a);
}
.swatch.more {
  background: var(--side-b);
}
</style>
