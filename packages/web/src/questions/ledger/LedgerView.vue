<script setup lang="ts">
import { formatDuration, LedgerKind, type LedgerLine } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import ProgressLine from '../../components/ProgressLine.vue';
import { exactBytes, plusMinus } from '../../components/figures.ts';
import FindField from '../../look-controls/FindField.vue';
import { parseInstant } from '../../look-controls/clock-time.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { useLedger } from './ledger-state.ts';
import { exactClock, lifetime, runColumns, size, what } from './ledger-words.ts';

/** Every event in order. Only the lines in sight are asked for, so that millions scroll like ten. */
const workspace = useWorkspace();
const book = useLedger();
const answer = computed(() => book.answer);
const hasObjects = computed(() => (workspace.overview?.objects ?? 0) > 0);
const ROW = 24;
/** Browsers lay out no more than some millions of pixels: a longer ledger is scrolled by its share. */
const MOST_PIXELS = 4_000_000;
const frame = ref<HTMLElement | null>(null);
const jump = ref('');
const invalid = ref(false);
let observer: ResizeObserver | null = null;
let scrolledTo = -1;

const tall = computed(() => Math.min(MOST_PIXELS, (answer.value?.total ?? 0) * ROW));
/** How far it scrolls: its height less what is in sight, which need not be whole lines. */
const roomOf = (): number => Math.max(1, tall.value - (frame.value?.clientHeight ?? book.count * ROW));
const topOf = (place: number): number => {
  const total = answer.value?.total ?? 0;
  return total <= book.count ? 0 : (place / (total - book.count)) * roomOf();
};

function scrolled(): void {
  const element = frame.value;
  if (element === null || answer.value === null || Math.abs(element.scrollTop - scrolledTo) < 1) return;
  scrolledTo = element.scrollTop;
  const place = Math.round((element.scrollTop / roomOf()) * Math.max(0, answer.value.total - book.count));
  if (place !== answer.value.place) book.go({ kind: 'place', place });
}

// The scroll bar follows where a jump or a key led to.
watch(
  () => answer.value?.place,
  (place) => {
    const element = frame.value;
    if (element === null || place === undefined) return;
    const wanted = topOf(place);
    if (Math.abs(element.scrollTop - wanted) > ROW || tall.value >= MOST_PIXELS)
      element.scrollTop = scrolledTo = Math.round(wanted);
  },
  { flush: 'post' },
);

onMounted(() => {
  observer = new ResizeObserver(() => book.fit(Math.max(5, Math.floor((frame.value?.clientHeight ?? 400) / ROW))));
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => observer?.disconnect());

function key(event: KeyboardEvent): void {
  const shown = answer.value;
  if (shown === null) return;
  const by = (lines: number): void => book.goTo(standing() + lines);
  switch (event.key) {
    case 'ArrowDown':
      by(1);
      break;
    case 'ArrowUp':
      by(-1);
      break;
    case 'PageDown':
      by(book.count - 1);
      break;
    case 'PageUp':
      by(1 - book.count);
      break;
    case 'Home':
      book.goTo(0);
      break;
    case 'End':
      book.goTo(shown.total - 1);
      break;
    case 'c':
      toCollection(1);
      break;
    case 'C':
      toCollection(-1);
      break;
    case 'Enter':
    case ' ': {
      const line = shown.lines[standing() - shown.place];
      if (line !== undefined) choose(line);
      break;
    }
    default:
      return;
  }
  event.preventDefault();
}

// The active line, or the first in sight where it was scrolled away.
function standing(): number {
  const shown = answer.value;
  if (shown === null) return 0;
  const { active, count, isGoing } = book;
  return isGoing || (active >= shown.place && active < shown.place + count) ? active : shown.place;
}

function classOf({ place, kind }: LedgerLine): object {
  return {
    active: place === standing(),
    bare: !hasObjects.value,
    collection: kind === LedgerKind.collection,
    mark: kind === LedgerKind.mark,
  };
}

function toCollection(by: 1 | -1): void {
  book.go({ kind: 'collection', place: standing(), by });
}

function jumpTo(): void {
  const tMs = parseInstant(jump.value, {
    durationMs: workspace.durationMs,
    startEpochMs: workspace.overview?.startEpochMs ?? NaN,
  });
  invalid.value = Number.isNaN(tMs);
  if (!invalid.value) book.go({ kind: 'time', tMs });
}

function choose(line: LedgerLine): void {
  book.active = line.place;
  if ((line.kind === LedgerKind.birth || line.kind === LedgerKind.flow) && line.ownKey !== null) {
    workspace.chargeTo('ownFrame');
    workspace.select({ kind: 'key', charge: 'ownFrame', key: line.ownKey });
  } else if (line.kind === LedgerKind.collection) void workspace.selectPauseAt(line.tMs + 1);
}
</script>

<template>
  <div class="view">
    <div class="view-head">
      <h2>What happened, exactly?</h2>
      <FindField v-if="hasObjects" />
    </div>
    <div class="line condensed quiet">
      <span v-if="answer">{{ answer.total.toLocaleString('en') }} events in the span</span>
      <form @submit.prevent="jumpTo">
        go to
        <v-text-field
          v-model="jump"
          class="inline-field time"
          placeholder="1:23.4"
          aria-label="Go to a time"
          :error="invalid"
          :aria-invalid="invalid"
          data-test="jump"
        />
      </form>
      <v-btn variant="plain" title="Key C" @click="toCollection(-1)">previous collection</v-btn>
      <v-btn variant="plain" title="Key c" @click="toCollection(1)">next collection</v-btn>
    </div>
    <div class="heads condensed quiet" :class="{ bare: !hasObjects }" aria-hidden="true">
      <span class="t">time</span><span class="what">what</span><span class="n">size</span
      ><span class="n">lived, or took</span
      ><span v-if="workspace.overview?.charges.includes('thread')" class="thread">thread</span
      ><span class="where">made at</span>
    </div>
    <div
      ref="frame"
      class="book"
      tabindex="0"
      role="listbox"
      aria-label="Events in order. Arrows, Page and Home and End move, Enter opens; c goes to the next collection, C to the one before."
      :aria-activedescendant="`event-${standing()}`"
      data-test="ledger"
      @scroll="scrolled"
      @keydown="key"
    >
      <div :style="{ height: `${tall}px` }">
        <div v-if="answer" class="lines">
          <div
            v-for="line in answer.lines"
            :id="`event-${line.place}`"
            :key="line.place"
            role="option"
            :aria-selected="line.place === standing()"
            class="row"
            :class="classOf(line)"
            @click="choose(line)"
          >
            <span class="t" :title="line.offMs > 0 ? `± ${formatDuration(line.offMs)}` : ''">{{
              exactClock(line.tMs)
            }}</span>
            <span class="what">{{ what(line) }}</span>
            <span
              class="n"
              :title="Number.isNaN(line.bytes) ? '' : `${exactBytes(line.bytes)} ${plusMinus(line.bytesSe)}`.trim()"
              >{{ size(line) }}</span
            >
            <span class="n">{{ lifetime(line) }}</span>
            <span v-if="workspace.overview?.charges.includes('thread')" class="thread">{{ line.thread }}</span>
            <span class="where" :title="line.own ? `${line.site}, by ${line.own}` : line.site"
              ><code>{{ line.own || line.site }}</code
              ><span v-if="line.own" class="quiet"> through {{ line.site }}</span></span
            >
          </div>
        </div>
      </div>
    </div>
    <p class="quiet small">
      A death stands in the line of its birth, as how long the object lived until it was noticed dead. Bytes whose
      objects were not seen singly stand where the stretch of time begins within which they were allocated; what is
      inferred has no line.
    </p>
    <div class="take condensed quiet">
      <template v-if="workspace.files.progress"
        ><ProgressLine :progress="workspace.files.progress" class="writing" /><v-btn
          variant="plain"
          @click="workspace.files.stop()"
        >
          stop
        </v-btn></template
      >
      <template v-else
        >Ask your own question:
        <v-btn
          variant="plain"
          data-test="arrow"
          title="Every event, and the call paths that they point to, as two Arrow IPC files"
          @click="workspace.files.take(workspace.name)"
        >
          save all events as Arrow</v-btn
        >{{ ' ' }}
        <v-btn
          v-if="answer && answer.total > 0"
          variant="plain"
          data-test="ledger-csv"
          title="The events that the span and the find let through, one a line"
          @click="workspace.files.takeLedger(workspace.name, workspace.look)"
        >
          save these events as CSV
        </v-btn></template
      >
      <span v-if="workspace.files.problem" class="urgent" role="alert">{{ workspace.files.problem }}</span>
    </div>
    <template v-if="answer && answer.runs.length > 0">
      <h3 class="below">Alike, over and over</h3>
      <DenseTable
        data-test="runs"
        :columns="runColumns"
        :rows="answer.runs"
        :row-key="(run) => `${run.originId} ${run.fromMs}`"
        :chosen="null"
        :first="6"
        caption="Runs of alike allocations"
        empty=""
        export-name="runs"
        @choose="(run) => workspace.setSpan({ fromMs: run.fromMs, toMs: Math.max(run.toMs, run.fromMs + 1) })"
      />
      <p class="quiet small">
        The same type from the same call path, never longer than {{ formatDuration(book.gapMs) }} apart as far as was
        seen. One that is chosen becomes the span.
      </p>
    </template>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 18px;
  align-items: baseline;
  margin: 8px 0 4px;
}
.time {
  width: 74px;
}
.below {
  margin: 14px 0 2px;
}
.heads {
  display: flex;
  gap: 10px;
  border-bottom: 1.5px solid var(--ink);
  padding: 3px 16px 3px 4px;
}
.book {
  flex: 1 1 0;
  min-height: 241px;
  overflow: auto;
  border-bottom: 1px solid var(--rule);
}
.lines {
  position: sticky;
  top: 0;
}
.row {
  display: flex;
  gap: 10px;
  height: 24px;
  align-items: center;
  padding: 0 4px;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  cursor: pointer;
  font-size: 13px;
}
.row:hover {
  background: var(--paper-2);
}
.row.active {
  background: var(--chosen);
}
.collection {
  background: var(--paper-2);
  color: var(--ink-2);
}
.mark {
  font-weight: 500;
  cursor: default;
}
.t {
  width: 72px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.what {
  width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.n {
  width: 104px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.thread {
  width: 96px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.where {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
/* Of a log there are collections alone: their names get the room. */
.bare .where {
  display: none;
}
.bare .what {
  flex: 1;
}
.take {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 4px 0 0;
}
.writing {
  flex: 0 1 420px;
}
@container (max-width: 760px) {
  .thread {
    display: none;
  }
  .what {
    width: 130px;
  }
}
</style>
