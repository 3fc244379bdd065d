<script setup lang="ts" generic="T extends OutlineRow">
import { computed, ref, useId } from 'vue';
import { type OutlineRow, outlineLines } from './outline-lines.ts';

/**
 * Call paths as an outline of which only the rows in sight are in the document. Arrows move and open; the slot draws
 * the figures of a row.
 */
const props = defineProps<{
  children: ReadonlyMap<string, readonly T[]>;
  open: readonly string[];
  label: string;
  test: string;
  /** Key that asks for a way down from a row. */
  wayKey: string;
}>();
const emit = defineEmits<{ toggle: [id: string]; way: [id: string] }>();
const ROW = 25;
const MOST_INDENT = 16;
const rowId = useId();
const lines = computed(() => outlineLines(props.children, props.open));
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

function toggle(row: T): void {
  if (row.children > 0) emit('toggle', row.id);
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
    case 'Home':
      go(0);
      break;
    case 'End':
      go(lines.value.length - 1);
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
    case props.wayKey:
      emit('way', line.row.id);
      break;
    default:
      return;
  }
  event.preventDefault();
}

function choose(place: number, row: T): void {
  active.value = place;
  toggle(row);
}
</script>

<template>
  <v-virtual-scroll
    ref="frame"
    class="outline"
    :items="lines"
    :item-height="ROW"
    item-key="row.id"
    role="tree"
    tabindex="0"
    :aria-label="label"
    :aria-activedescendant="`${rowId}-${active}`"
    :data-test="test"
    @keydown="key"
  >
    <template #default="{ item: line, index: place }">
      <div
        :id="`${rowId}-${place}`"
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
        <slot :row="line.row" />
      </div>
    </template>
  </v-virtual-scroll>
</template>

<style scoped>
.outline {
  flex: 1 1 0;
  min-height: 200px;
  border-bottom: 1px solid var(--rule);
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
</style>
