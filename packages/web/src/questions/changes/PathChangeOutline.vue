<script setup lang="ts">
import { type ChangedPathRow, formatBytes, type PathChangesAnswer } from '@brisk-heron/core';
import { computed, ref } from 'vue';
import { useChanges } from './changes-state.ts';
import { intervalText, signed } from './changes-words.ts';
import { barWidth } from './side-layout.ts';

/** Call paths of both sides as one outline: A, B and the difference at every node. Only the rows in sight are there. */
const props = defineProps<{ answer: PathChangesAnswer }>();
const { tree } = useChanges();
const ROW = 25;
const MOST_INDENT = 16;
const HALF = 30;

interface Line {
  readonly row: ChangedPathRow;
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
const most = computed(() => lines.value.reduce((top, { row }) => Math.max(top, Math.abs(row.difference)), 0));
const isClear = ({ low, high }: ChangedPathRow): boolean => low > 0 || high < 0;
const barX = (difference: number): number => (difference < 0 ? HALF - barWidth(difference, most.value, HALF) : HALF);
const frame = ref<{ readonly $el: HTMLElement } | null>(null);
const active = ref(0);

function go(place: number): void {
  active.value = Math.max(0, Math.min(lines.value.length - 1, place));
  const element = frame.value?.$el;
  if (!element) return;
  const y = active.value * ROW;
  if (y < element.scrollTop) element.scrollTop = y;
  else if (y + ROW > element.scrollTop + element.clientHeight) element.scrollTop = y + ROW - element.clientHeight;
}

function parentOf(place: number): number {
  const { depth } = lines.value[place]!;
  let at = place;
  while (at > 0 && lines.value[at]!.depth >= depth) at--;
  return at;
}

function toggle(row: ChangedPathRow): void {
  if (row.children > 0) tree.toggle(row.id);
}

function key(event: KeyboardEvent): void {
  const line = lines.value[active.value];
  if (line === undefined) return;
  switch (event.key) {
    case 'ArrowDown':
      go(active.value + 1);
      break;
    case 'ArrowUp':
      go(active.value - 1);
      break;
    case 'ArrowRight':
      if (line.isOpen) go(active.value + 1);
      else toggle(line.row);
      break;
    case 'ArrowLeft':
      if (line.isOpen) toggle(line.row);
      else go(parentOf(active.value));
      break;
    case 'Enter':
    case ' ':
      toggle(line.row);
      break;
    case 'i':
      tree.openGrowth(line.row.id);
      break;
    default:
      return;
  }
  event.preventDefault();
}

function choose(place: number, row: ChangedPathRow): void {
  active.value = place;
  toggle(row);
}
</script>

<template>
  <div class="filling">
    <div class="heads condensed quiet" aria-hidden="true">
      <span class="what">{{ tree.direction === 'entry' ? 'from the entry down' : 'from the allocation up' }}</span><span
        class="side"
        >A</span
      ><span class="side">B</span><span class="difference">difference</span><span class="bar">less · more</span>
    </div>
    <v-virtual-scroll
      ref="frame"
      class="outline"
      :items="lines"
      :item-height="ROW"
      item-key="row.id"
      role="tree"
      tabindex="0"
      aria-label="Call paths of both sides"
      :aria-activedescendant="`change-${active}`"
      data-test="change-outline"
      @keydown="key"
    >
      <template #default="{ item: line, index: place }">
        <div
          :id="`change-${place}`"
          role="treeitem"
          class="row"
          :class="{ active: place === active }"
          :aria-level="line.depth + 1"
          :aria-expanded="line.row.children > 0 ? line.isOpen : undefined"
          :aria-selected="place === active"
          @click="choose(place, line.row)"
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
          <span class="side">{{ formatBytes(line.row.a) }}</span>
          <span class="side">{{ formatBytes(line.row.b) }}</span>
          <span class="difference" :class="{ quiet: !isClear(line.row) }"
            >{{ signed('bytes', line.row.difference) }}{{ ' ' }}
            <span class="quiet">{{ intervalText('bytes', line.row) }}</span></span
          >
          <svg class="bar" :width="2 * HALF + 1" height="13" aria-hidden="true">
            <rect
              :x="barX(line.row.difference)"
              y="2"
              :width="barWidth(line.row.difference, most, HALF)"
              height="9"
              :class="[line.row.difference < 0 ? 'less' : 'more', { unclear: !isClear(line.row) }]"
            />
          </svg>
        </div>
      </template>
    </v-virtual-scroll>
    <p class="quiet small">
      Key i opens the way of the greatest increase. A difference in quiet letters is not clear.{{
        answer.leftOut > 0 ? ` ${answer.leftOut} lighter ones are left out.` : ''
      }}
    </p>
  </div>
</template>

<style scoped>
.heads,
.row {
  display: flex;
  align-items: center;
  height: 25px;
  white-space: nowrap;
}
.heads {
  border-bottom: 1px solid var(--ink);
}
.row {
  border-bottom: 1px solid var(--rule);
  cursor: pointer;
}
.row.active {
  background: var(--chosen);
}
.outline {
  flex: 1 1 200px;
  min-height: 160px;
}
.what {
  flex: 1 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
}
.side,
.difference {
  flex: 0 0 84px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.difference {
  flex-basis: 172px;
}
.bar {
  flex: 0 0 61px;
  margin-left: 14px;
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
.twist {
  display: inline-block;
  width: 14px;
}
</style>
