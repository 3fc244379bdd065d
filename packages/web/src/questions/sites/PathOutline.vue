<script setup lang="ts">
import { csvText, formatPercent, type PathRow, type PathsAnswer, Z_95 } from '@brisk-heron/core';
import { computed, nextTick, ref } from 'vue';
import TakeTable from '../../components/TakeTable.vue';
import { amountError, amountText } from '../../components/figures.ts';
import { useSites } from './sites-state.ts';

/** Call paths as an outline. Only the rows in sight are in the document. */
const props = defineProps<{ answer: PathsAnswer }>();
const who = useSites();
const ROW = 25;
const MOST_INDENT = 16;

interface Line {
  readonly row: PathRow;
  readonly depth: number;
  readonly isOpen: boolean;
}
const lines = computed<Line[]>(() => {
  const found: Line[] = [];
  const open = new Set(props.answer.open);
  const add = (parent: string, depth: number): void => {
    for (const row of props.answer.children.get(parent) ?? []) {
      const isOpen = open.has(row.id) && props.answer.children.has(row.id);
      found.push({ row, depth, isOpen });
      if (isOpen) add(row.id, depth + 1);
    }
  };
  add('', 0);
  return found;
});

const frame = ref<{ readonly $el: HTMLElement } | null>(null);
const active = ref(0);
const figure = (value: number): string => amountText(who.counted, value);
const error = (se: number): string => amountError(who.counted, se);
const selfWord = computed(() => (who.direction === 'entry' ? 'itself' : 'ends here'));
const share = (value: number): number => (props.answer.all > 0 ? value / props.answer.all : 0);

const foldedText = computed(() =>
  who.recursion === 'folded'
    ? ', and what a function calls again, by itself or through others, hangs under its first call'
    : '',
);

// The open lines, each with the whole way to it.
function csv(): string {
  const way: string[] = [];
  const rows = lines.value.map(({ row, depth }) => {
    way.splice(depth);
    way.push(
      row.words
        .map((word) =>
          word.kind === 'through' ? `through ${word.count} of ${word.of}` : `${word.name} ${word.place}`.trim(),
        )
        .join(' > '),
    );
    return [depth + 1, way.join(' > '), row.total, Z_95 * row.totalSe, share(row.total), row.self, Z_95 * row.selfSe];
  });
  return csvText(
    ['level', 'path', 'with all below', 'with all below ±', 'share', selfWord.value, `${selfWord.value} ±`],
    rows,
  );
}

async function go(place: number): Promise<void> {
  active.value = Math.max(0, Math.min(lines.value.length - 1, place));
  const element = frame.value?.$el;
  if (!element) return;
  const y = active.value * ROW;
  if (y < element.scrollTop) element.scrollTop = y;
  else if (y + ROW > element.scrollTop + element.clientHeight) element.scrollTop = y + ROW - element.clientHeight;
  await nextTick();
}

function key(event: KeyboardEvent): void {
  const line = lines.value[active.value];
  if (line === undefined) return;
  switch (event.key) {
    case 'ArrowDown':
      void go(active.value + 1);
      break;
    case 'ArrowUp':
      void go(active.value - 1);
      break;
    case 'Home':
      void go(0);
      break;
    case 'End':
      void go(lines.value.length - 1);
      break;
    case 'ArrowRight':
      if (line.isOpen) void go(active.value + 1);
      else if (line.row.children > 0) who.toggle(line.row.id);
      break;
    case 'ArrowLeft':
      if (line.isOpen) who.toggle(line.row.id);
      else void go(parentOf(active.value));
      break;
    case 'Enter':
    case ' ':
      if (line.row.children > 0) who.toggle(line.row.id);
      break;
    case 'w':
      who.openHeaviest(line.row.id);
      break;
    default:
      return;
  }
  event.preventDefault();
}

function parentOf(place: number): number {
  const { depth } = lines.value[place]!;
  let at = place;
  while (at > 0 && lines.value[at]!.depth >= depth) at--;
  return at;
}
</script>

<template>
  <div class="filling">
    <div class="heads condensed quiet" aria-hidden="true">
      <span class="what">{{ who.direction === 'entry' ? 'from the entry down' : 'from the allocation up' }}</span><span
        class="total"
        >with all below</span
      ><span class="bar">share</span><span class="self">{{ selfWord }}</span>
    </div>
    <v-virtual-scroll
      ref="frame"
      class="outline"
      :items="lines"
      :item-height="ROW"
      item-key="row.id"
      role="tree"
      tabindex="0"
      aria-label="Call paths"
      :aria-activedescendant="`path-${active}`"
      data-test="outline"
      @keydown="key"
    >
      <template #default="{ item: line, index: place }">
        <div
          :id="`path-${place}`"
          role="treeitem"
          class="row"
          :class="{ active: place === active }"
          :aria-level="line.depth + 1"
          :aria-expanded="line.row.children > 0 ? line.isOpen : undefined"
          :aria-selected="place === active"
          @click="
            active = place;
            line.row.children > 0 && who.toggle(line.row.id);
          "
        >
          <span class="what" :style="{ paddingLeft: `${Math.min(line.depth, MOST_INDENT) * 14 + 4}px` }">
            <span class="twist" aria-hidden="true">{{ line.row.children === 0 ? '·' : line.isOpen ? '▾' : '▸' }}</span>
            <template v-for="(word, at) in line.row.words" :key="at"
              ><span v-if="at > 0" class="quiet"> → </span
              ><em v-if="word.kind === 'through'" class="quiet">through {{ word.count }} of {{ word.of }}</em
              ><span v-else
                ><code :class="{ quiet: !word.isOwn }">{{ word.name }}</code
                >{{ ' ' }} <span class="quiet condensed">{{ word.place }}</span></span
              ></template
            >
          </span>
          <span class="total"
            >{{ figure(line.row.total) }} <span class="quiet">{{ error(line.row.totalSe) }}</span></span
          >
          <span class="bar"
            ><span :style="{ width: `${share(line.row.total) * 60}px` }" />{{
              formatPercent(share(line.row.total))
            }}</span
          >
          <span class="self"
            >{{ line.row.self > 0 ? figure(line.row.self) : '–' }}
            <span class="quiet">{{ error(line.row.selfSe) }}</span></span
          >
        </div>
      </template>
    </v-virtual-scroll>
    <p class="quiet small">
      Arrows move and open, <kbd>w</kbd> opens the heaviest way down. Chains without a branch are one line{{
        foldedText
      }}.<template v-if="answer.withoutPath > 0"> {{ figure(answer.withoutPath) }} have no path.</template
      ><template v-if="answer.leftOut > 0">
        {{ answer.leftOut.toLocaleString('en') }} lines, lighter than those beside them, are left out: use the find
        field.</template
      >
    </p>
    <TakeTable :csv="csv" name="paths" />
  </div>
</template>

<style scoped>
.outline {
  flex: 1 1 0;
  min-height: 260px;
  border-bottom: 1px solid var(--rule);
}
.heads {
  display: flex;
  border-bottom: 1.5px solid var(--ink);
  padding: 3px 0;
  padding-right: 14px;
}
.row {
  height: 25px;
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  cursor: pointer;
  white-space: nowrap;
}
.row:hover {
  background: var(--paper-2);
}
.row.active {
  background: var(--chosen);
}
.what {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.twist {
  display: inline-block;
  width: 14px;
  color: var(--ink-2);
}
.total {
  width: 150px;
  text-align: right;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
  font-variant-numeric: tabular-nums;
}
.bar {
  width: 120px;
  padding-left: 14px;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
}
.bar span {
  display: inline-block;
  height: 11px;
  margin-right: 5px;
  background: var(--kept);
  vertical-align: middle;
  min-width: 1px;
}
.self {
  width: 140px;
  text-align: right;
  padding-right: 6px;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
}
kbd {
  font: inherit;
  border: 1px solid var(--rule);
  padding: 0 4px;
}
@container (max-width: 860px) {
  .self {
    width: 84px;
  }
  .self .quiet {
    display: none;
  }
}
@container (max-width: 700px) {
  .bar {
    width: 108px;
  }
  .self {
    display: none;
  }
  .total {
    width: 120px;
  }
}
</style>
