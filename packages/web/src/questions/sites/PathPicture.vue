<script setup lang="ts">
import { formatPercent, type PathCell, type PathsAnswer } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { amountError, amountText } from '../../components/figures.ts';
import { cellBeside } from '../../components/outline-lines.ts';
import { useSites } from './sites-state.ts';

/**
 * The same call paths as an icicle: each as wide as its share, callers above what they call. A cell that is chosen
 * hangs from the top.
 */
const props = defineProps<{ answer: PathsAnswer }>();
const who = useSites();
/** Rows are as tall as there is room for, within reason. */
const [LOWEST_ROW, HIGHEST_ROW] = [21, 30];
const LETTER = 6.4;
const LEAST_TEXT = 28;
const frame = ref<HTMLElement | null>(null);
const width = ref(900);
const tall = ref(0);
const active = ref(0);
const rows = computed(() => props.answer.cells.reduce((most, cell) => Math.max(most, cell.depth + 1), 1));
const rowHeight = computed(() =>
  Math.max(LOWEST_ROW, Math.min(HIGHEST_ROW, Math.floor((tall.value - 2) / rows.value))),
);
const withError = (value: number, se: number): string =>
  `${amountText(who.counted, value)} ${amountError(who.counted, se)}`.trim();
const label = (cell: PathCell): string =>
  `${`${cell.text} ${cell.place}`.trim()}: ${withError(cell.total, cell.totalSe)}, ${formatPercent(cell.total / Math.max(1e-9, props.answer.all))} of all${Number.isNaN(cell.keptRatio) ? '' : `, ${formatPercent(cell.keptRatio)} of it kept`}`;
/** Cells that have the word; what stands under one that has it counts with it. */
const found = computed(() => {
  const word = who.picked.trim().toLowerCase();
  return word === '' ? null : props.answer.cells.filter((cell) => cell.words.includes(word));
});
const isFound = computed(() => new Set(found.value?.map(({ id }) => id)));
const topmost = computed(() => (found.value ?? []).filter(({ id }) => !isBelowFound(id)));
const foundTotal = computed(() => topmost.value.reduce((sum, { total }) => sum + total, 0));
const foundSe = computed(() => Math.sqrt(topmost.value.reduce((sum, { totalSe }) => sum + totalSe ** 2, 0)));
function isBelowFound(id: string): boolean {
  for (let cut = id.lastIndexOf(','); cut > 0; cut = id.lastIndexOf(',', cut - 1))
    if (isFound.value.has(id.slice(0, cut))) return true;
  return false;
}
const current = computed(() => props.answer.cells[active.value] ?? null);

/** What fits on a cell: its name, and its place where there is room; of a function without a name the place first. */
function fitting(cell: PathCell): { name: string; place: string } {
  const room = (cell.to - cell.from) * width.value - 8;
  if (room < LEAST_TEXT) return { name: '', place: '' };
  const letters = Math.floor(room / LETTER);
  const name = cell.text === '(anonymous)' && cell.place !== '' ? cell.place : cell.text;
  if (name.length > letters) return { name: `${name.slice(0, Math.max(1, letters - 1))}…`, place: '' };
  const place = name === cell.place ? '' : cell.place;
  return { name, place: name.length + 1 + place.length <= letters ? place : '' };
}

const keptPercent = (cell: PathCell): number => (Number.isNaN(cell.keptRatio) ? 0 : 100 * cell.keptRatio);
/** On a dark ground letters are light. */
const DARK_PERCENT = 55;
const hasShade = computed(() => props.answer.cells.some(({ keptRatio }) => !Number.isNaN(keptRatio)));

const told = computed(
  () =>
    `Call paths as a picture of ${props.answer.cells.length} cells. Arrows move, n and N go to cells picked out, Enter hangs a cell from the top, Escape shows all.`,
);
function classOf(cell: PathCell, place: number): object {
  const isPicked = isFound.value.has(cell.id);
  return {
    own: cell.isOwn,
    active: place === active.value,
    found: isPicked,
    faint: found.value !== null && !isPicked,
    dark: keptPercent(cell) > DARK_PERCENT,
  };
}

// A line at the foot of a cell.
function wayOf({ from, to, depth }: PathCell): string {
  return `M${from * width.value + 1},${(depth + 1) * rowHeight.value - 1.5}h${Math.max(1, (to - from) * width.value - 2)}`;
}

let observer: ResizeObserver | null = null;
onMounted(() => {
  observer = new ResizeObserver(() => {
    width.value = frame.value?.clientWidth ?? 900;
    tall.value = frame.value?.clientHeight ?? 0;
  });
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => observer?.disconnect());

// The cell that has the word next, round and round.
function nextFound(by: 1 | -1): number {
  const { cells } = props.answer;
  for (let step = 1; step <= cells.length; step++) {
    const place = (active.value + by * step + cells.length) % cells.length;
    if (isFound.value.has(cells[place]!.id)) return place;
  }
  return -1;
}

function key(event: KeyboardEvent): void {
  const { cells } = props.answer;
  const cell = cells[active.value];
  if (cell === undefined) return;
  const near = (found: number): void => {
    if (found >= 0) active.value = found;
  };
  switch (event.key) {
    case 'ArrowDown':
    case 'ArrowUp':
    case 'ArrowRight':
    case 'ArrowLeft':
      near(cellBeside(cells, active.value, event.key));
      break;
    case 'n':
      near(nextFound(1));
      break;
    case 'N':
      near(nextFound(-1));
      break;
    case 'Enter':
      who.focusOn(cell.id);
      break;
    case 'Escape':
      who.focusOn('');
      break;
    default:
      return;
  }
  event.preventDefault();
}
</script>

<template>
  <div class="filling">
    <p class="quiet condensed told" aria-live="polite">
      <span>{{ current ? label(current) : '' }}</span><span class="pick"
        ><label
          >pick out
          <v-text-field
            v-model="who.picked"
            class="inline-field word"
            placeholder="a word"
            data-test="pick"
            @keydown.enter.prevent="active = Math.max(0, nextFound(1))" /></label
        ><span v-if="found" data-test="picked"
          >{{ found.length }} cells, {{ withError(foundTotal, foundSe) }},
          {{ formatPercent(foundTotal / Math.max(1e-9, answer.all)) }}</span
        ></span
      ><v-btn v-if="who.focus !== ''" variant="plain" @click="who.focusOn('')">all of it</v-btn>
    </p>
    <div
      ref="frame"
      class="picture"
      tabindex="0"
      role="application"
      :aria-label="told"
      data-test="icicle"
      @keydown="key"
    >
      <svg :width="width" :height="rows * rowHeight + 2" aria-hidden="true">
        <g
          v-for="(cell, place) in answer.cells"
          :key="cell.id"
          :class="classOf(cell, place)"
          :style="{ '--kept-share': `${0.85 * keptPercent(cell)}%` }"
          @click="
            active = place;
            who.focusOn(cell.id);
          "
          @pointerenter="active = place"
        >
          <rect
            :x="cell.from * width + 0.5"
            :y="cell.depth * rowHeight + 0.5"
            :width="Math.max(1, (cell.to - cell.from) * width - 1)"
            :height="rowHeight - 1"
          />
          <path v-if="cell.isHeaviest" class="way" :d="wayOf(cell)" />
          <text :x="cell.from * width + 5" :y="cell.depth * rowHeight + rowHeight / 2 + 4">
            {{ fitting(cell).name }}
            <tspan class="place" dx="5">{{ fitting(cell).place }}</tspan>
          </text>
        </g>
      </svg>
    </div>
    <p class="quiet small">
      As wide as its share; what is called hangs below its caller.<template v-if="hasShade">
        The darker, the more of it was kept.</template
      >
      Your own code has a dark edge, the heaviest way down a line below. A click hangs a cell from the top. The outline
      holds the same figures.
    </p>
  </div>
</template>

<style scoped>
.picture {
  flex: 1 1 0;
  overflow: auto;
  min-height: 240px;
}
.told {
  margin: 4px 0;
  min-height: 19px;
  display: flex;
  justify-content: space-between;
}
g {
  cursor: pointer;
}
rect {
  fill: color-mix(in srgb, var(--kept) var(--kept-share), var(--paper));
  stroke: var(--rule);
}
.own rect {
  fill: color-mix(in srgb, var(--kept) var(--kept-share), var(--paper-2));
  stroke: var(--ink);
}
.way {
  stroke: var(--attention);
  stroke-width: 2;
}
.pick {
  display: flex;
  gap: 10px;
  margin-left: auto;
  padding-right: 14px;
}
.word {
  width: 110px;
}
.found rect {
  stroke: var(--ink);
  fill: var(--band);
}
.faint rect {
  opacity: 0.5;
}
.found text {
  fill: var(--ink);
}
.faint text {
  fill: var(--ink-2);
}
.active rect {
  stroke: var(--ink);
  stroke-width: 2;
}
text {
  fill: var(--ink-2);
  font-size: 12px;
  pointer-events: none;
}
.own text {
  fill: var(--ink);
  font-weight: 500;
}
.place {
  font-weight: 400;
  opacity: 0.8;
}
.dark text {
  fill: var(--paper);
}
</style>
