<script setup lang="ts">
import { formatClock, formatDuration, type Span } from '@brisk-heron/core';
import { computed, ref } from 'vue';
import { bothClocks, parseGoal, wallSpan } from '../look-controls/clock-time.ts';
import { useWorkspace } from '../stores/workspace.ts';

/** Below the ribbon: the span in both clocks, ways to it, and marks to pair. */
const props = defineProps<{ span: Span | null; isDragged: boolean }>();
const workspace = useWorkspace();
const typed = ref('');
const isWrong = ref(false);
/** The first of two marks that are paired to a span. */
const fromMark = ref<number | null>(null);

const startEpochMs = computed(() => workspace.overview?.startEpochMs ?? NaN);
const frame = computed(() => ({ durationMs: workspace.durationMs, startEpochMs: startEpochMs.value }));
const spanText = computed(() => {
  if (props.span === null) return '';
  const { fromMs, toMs } = props.span;
  const length = formatDuration(toMs - fromMs);
  if (workspace.isOpen && !props.isDragged) return `since ${formatClock(fromMs, true)} (${length})`;
  return `span ${formatClock(fromMs, true)} – ${formatClock(toMs, true)} (${length})`;
});
const clockText = computed(() => wallSpan(props.span ?? workspace.shownWindow, startEpochMs.value));
const marks = computed(() => workspace.ribbon?.marks ?? []);

const goalHint = computed(() => {
  const clock = Number.isFinite(startEpochMs.value) ? ' or by the clock as 14:03:12' : '';
  return `A time as 1:23.4${clock}; two with a dash are a span`;
});

function goTo(): void {
  const goal = parseGoal(typed.value, frame.value);
  isWrong.value = goal === null;
  if (goal === null) return;
  typed.value = '';
  if ('tMs' in goal) {
    const { fromMs, toMs } = workspace.shownWindow;
    const half = (toMs - fromMs) / 2;
    if (goal.tMs < fromMs || goal.tMs > toMs) workspace.setWindow({ fromMs: goal.tMs - half, toMs: goal.tMs + half });
    workspace.lookInto(goal.tMs);
  } else workspace.setSpan(goal);
}

function pair(tMs: number): void {
  const first = fromMark.value;
  if (first === null || first === tMs) {
    fromMark.value = first === tMs ? null : tMs;
    return;
  }
  workspace.setSpan({ fromMs: Math.min(first, tMs), toMs: Math.max(first, tMs) });
  fromMark.value = null;
}

function toNext({ tMs, label }: { readonly tMs: number; readonly label: string }): void {
  const next = marks.value.find((mark) => mark.label === label && mark.tMs > tMs);
  workspace.setSpan({ fromMs: tMs, toMs: next?.tMs ?? workspace.durationMs });
}
</script>

<template>
  <div class="controls condensed" @pointerdown.stop @pointerup.stop @keydown.stop>
    <span v-if="spanText" data-test="span">{{ spanText }}</span>
    <span v-if="clockText" class="quiet clock" data-test="clock">{{ clockText }}</span>
    <v-btn
      v-if="workspace.isLive && !isDragged"
      variant="plain"
      title="Every figure is then of what happens from now on; what was recorded stays"
      data-test="watch-since"
      @click="workspace.watchSince(workspace.durationMs)"
      >watch from now</v-btn
    >
    <template v-if="workspace.span && !isDragged">
      <v-btn variant="plain" @click="workspace.setSpan(null)">whole recording</v-btn>
      <v-btn variant="plain" @click="workspace.setWindow(workspace.span)">zoom to it</v-btn>
    </template>
    <v-btn v-if="workspace.window" variant="plain" @click="workspace.setWindow(null)">{{
      workspace.isLive ? 'follow the head' : 'show all'
    }}</v-btn>
    <v-menu v-if="marks.length > 0" :close-on-content-click="false" max-height="50vh">
      <template #activator="{ props: activator }">
        <v-btn v-bind="activator" variant="plain" data-test="marks">{{
          marks.length === 1 ? '1 mark' : `${marks.length} marks`
        }}</v-btn>
      </template>
      <v-card>
        <p class="quiet hint">Two that are chosen make the span.</p>
        <v-virtual-scroll :items="[...marks]" :item-height="26" max-height="40vh" data-test="mark-list">
          <template #default="{ item: mark }">
            <div class="mark-line">
              <v-btn variant="plain" :aria-pressed="fromMark === mark.tMs" @click="pair(mark.tMs)"
                >{{ bothClocks(mark.tMs, startEpochMs) }} {{ mark.label }}</v-btn
              >
              <v-btn variant="plain" class="quiet" :aria-label="`From ${mark.label} to the next`" @click="toNext(mark)"
                >to the next</v-btn
              >
            </div>
          </template>
        </v-virtual-scroll>
      </v-card>
    </v-menu>
    <form @submit.prevent="goTo">
      <v-text-field
        v-model="typed"
        class="inline-field goal"
        placeholder="go to"
        aria-label="Go to a time or a span"
        :title="goalHint"
        :error="isWrong"
        :aria-invalid="isWrong"
        data-test="go-to"
        @update:model-value="isWrong = false"
      />
    </form>
  </div>
</template>

<style scoped>
.controls {
  position: absolute;
  right: 20px;
  left: 58px;
  bottom: 0;
  justify-content: flex-end;
  display: flex;
  align-items: baseline;
  gap: 12px;
  height: 20px;
  font-size: 12.5px;
  line-height: 19px;
  background: var(--paper);
  padding: 0;
  cursor: default;
  white-space: nowrap;
}
.goal {
  width: 74px !important;
  font-size: 12.5px;
}
.goal :deep(.v-field__input) {
  min-height: 18px;
}
.hint {
  margin: 0;
  padding: 6px 11px 2px;
}
.mark-line {
  display: flex;
  gap: 20px;
  justify-content: space-between;
  padding: 2px 11px;
  height: 26px;
  min-width: 240px;
}
.mark-line [aria-pressed='true'] {
  font-weight: 600;
}
@media (max-width: 760px) {
  .clock {
    display: none;
  }
}
</style>
