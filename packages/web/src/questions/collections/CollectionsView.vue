<script setup lang="ts">
import {
  type CollectionsAnswer,
  formatBytes,
  formatDuration,
  formatPercent,
  type PauseGrouping,
  type PauseKind,
  type PauseStep,
} from '@brisk-heron/core';
import { storeToRefs } from 'pinia';
import { computed, onBeforeUnmount, onMounted } from 'vue';
import ChartFigure from '../../components/ChartFigure.vue';
import DenseTable from '../../components/DenseTable.vue';
import TermText from '../../words/TermText.vue';
import { useWorkspace } from '../../stores/workspace.ts';
import InlineSelect from '../../components/InlineSelect.vue';
import FindingsList from './FindingsList.vue';
import PauseBuckets from './PauseBuckets.vue';
import { useCollections } from './collections-state.ts';
import { drawPauses, drawRates, drawShares, drawSizes, drawUtilisation, pauseText } from './pause-charts.ts';
import { allocationText, collectionTables, kindColumns, NO_TABLES, overGoalText } from './pause-tables.ts';

const workspace = useWorkspace();
const collections = useCollections();
const answer = computed(() => collections.answer);
const chosenRow = computed(() => (workspace.selection?.kind === 'pause' ? workspace.selection.row : -1));
const { grouping, shownSize, pauseWhat } = storeToRefs(collections);

type Drawing = (svg: SVGSVGElement, width: number, height: number) => void;
const drawing = (draw: (svg: SVGSVGElement, width: number, height: number, shown: CollectionsAnswer) => void) =>
  computed<Drawing>(() => {
    const shown = answer.value;
    return (svg, width, height) => {
      if (shown !== null) draw(svg, width, height, shown);
    };
  });
const pausesDrawing = computed<Drawing>(() => {
  const shown = answer.value;
  const options = { chosenRow: chosenRow.value, what: pauseWhat.value };
  return (svg, width, height) => {
    if (shown !== null) drawPauses(svg, width, height, shown, options);
  };
});
const sizesDrawing = computed<Drawing>(() => {
  const shown = answer.value;
  const series = sizes.value;
  return (svg, width, height) => {
    if (shown !== null) drawSizes(svg, width, height, shown, series);
  };
});
const shares = drawing(drawShares);
const utilisation = drawing(drawUtilisation);
const rates = drawing(drawRates);
const sizes = computed(
  () => answer.value?.sizes.find(({ name }) => name === shownSize.value) ?? answer.value?.sizes[0],
);

const tables = computed(() => (answer.value === null ? NO_TABLES : collectionTables(answer.value, sizes.value)));
const longest = computed(() => {
  const shown = answer.value;
  if (shown === null || shown.pauseMs.length === 0) return null;
  let at = 0;
  for (let place = 1; place < shown.pauseMs.length; place++)
    if (shown.pauseDurationMs[place]! > shown.pauseDurationMs[at]!) at = place;
  return shown.pauseRow[at]!;
});

const columns = computed(() => kindColumns(grouping.value));

function group(by: PauseGrouping): void {
  grouping.value = by;
  if (workspace.pauseKind !== null) workspace.pickKind(null);
}

function pick(kind: PauseKind): void {
  workspace.pickKind(workspace.pauseKind?.name === kind.name ? null : { by: grouping.value, name: kind.name });
}

function setGoal(text: string): void {
  const goal = Number(text);
  if (Number.isFinite(goal) && goal > 0) workspace.setGoal(goal);
}

const PAUSE_WHATS = [
  ['length', 'length'],
  ['gap', 'gap before'],
] as const;
const KEYS: ReadonlyMap<string, PauseStep> = new Map([
  ['n', 'next'],
  ['p', 'previous'],
  ['l', 'nextLongest'],
  ['s', 'nextOfKind'],
  ['b', 'previousOfKind'],
]);

function key(event: KeyboardEvent): void {
  const step = KEYS.get(event.key);
  const writing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select') !== null;
  if (step === undefined || writing || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  void workspace.step(step);
}

onMounted(() => globalThis.addEventListener('keydown', key));
onBeforeUnmount(() => globalThis.removeEventListener('keydown', key));
</script>

<template>
  <div v-if="answer" class="view">
    <h2>What does collecting cost?</h2>
    <p v-if="workspace.find" class="quiet condensed" data-test="find-note">
      Collections are of the whole heap: “{{ workspace.find.trim() }}” narrows objects, and the layers above, not them.
      <v-btn variant="plain" @click="workspace.find = ''">clear the find</v-btn>
    </p>
    <p v-if="answer.lost && answer.lost.ratio > 0" class="condensed" data-test="lost">
      <b :class="{ urgent: answer.lost.ratio > 0.1 }">{{ formatPercent(answer.lost.ratio) }}</b> of the time was lost in
      all<template v-if="answer.lost.threads > 0"
        >: {{ answer.lost.threads }} threads waited {{ formatDuration(answer.lost.waitedMs + answer.lost.pacedMs) }} for
        memory, counted by their share of those threads; <code>{{ answer.lost.worstThread }}</code> lost
        {{ formatPercent(answer.lost.worstRatio) }} of its time</template
      ><template v-if="answer.lost.otherStopsMs > 0"
        >; {{ formatDuration(answer.lost.otherStopsMs) }} of stops that are no pauses</template
      >.
    </p>
    <p v-if="(workspace.overview?.silences.length ?? 0) > 0" class="quiet" data-test="silent">
      Nothing was heard of {{ workspace.overview?.silences.join('; ') }}: what collecting cost then is not known, and no
      share of time is claimed.
    </p>
    <p v-else-if="workspace.overview?.pausesTold === false" class="quiet" data-test="pauses-not-told">
      This log tells {{ workspace.overview.collections }} collections and none of their pauses, so what they cost the
      program is not known. ZGC prints its pauses with <code>-Xlog:gc*</code>.
    </p>
    <p v-else-if="answer.figures.count === 0" class="quiet">No collection stopped the program in this span.</p>
    <p v-else class="condensed figures" data-test="pause-figures">
      <span
        ><b data-test="pause-count">{{ answer.figures.count }}</b> pauses</span
      >
      <span
        ><b data-test="pause-sum" :title="`${answer.figures.totalMs} ms`">{{
          formatDuration(answer.figures.totalMs)
        }}</b>
        in all</span
      >
      <span
        >p50 <b>{{ formatDuration(answer.figures.p50Ms) }}</b></span
      >
      <span
        >p99
        <b data-test="pause-p99" :title="`${answer.figures.p99Ms} ms`">{{
          formatDuration(answer.figures.p99Ms)
        }}</b></span
      >
      <span
        >longest
        <v-btn
          v-if="longest !== null"
          variant="plain"
          data-test="pause-max"
          :title="`${answer.figures.maxMs} ms`"
          @click="workspace.select({ kind: 'pause', row: longest })"
        >
          {{ formatDuration(answer.figures.maxMs) }}
        </v-btn></span
      >
      <span
        ><TermText word="throughput" />{{ ' ' }}
        <b>{{
          Number.isNaN(answer.figures.throughputRatio) ? 'unknown' : formatPercent(answer.figures.throughputRatio)
        }}</b></span
      >
      <span
        >{{ answer.counts.young }} young, {{ answer.counts.mixed }} mixed, {{ answer.counts.whole }} whole<template
          v-if="answer.counts.concurrentCycles"
          >, {{ answer.counts.concurrentCycles }} concurrent cycles</template
        ></span
      >
      <span v-if="answer.counts.own > 0" class="quiet">{{ answer.counts.own }} forced by the recorder, left out</span>
      <span v-if="answer.concurrentMs !== null">{{ formatDuration(answer.concurrentMs) }} beside the program</span>
      <span
        v-if="answer.cpu"
        title="user and system time of the collector's threads, against the time that passed; printed in steps of 10 ms"
        >processor time {{ formatDuration(answer.cpu.userMs + answer.cpu.sysMs) }} in
        {{ formatDuration(answer.cpu.realMs) }}</span
      >
      <span
        v-if="answer.stops"
        :title="`${answer.stops.count} stops of every thread, for collecting or not; the slowest took ${formatDuration(answer.stops.mostReachMs)} to reach`"
        >{{ formatDuration(answer.stops.reachMs) }} until all had stopped</span
      >
      <label class="goal"
        >goal
        <v-text-field
          class="inline-field number"
          :model-value="answer.goalMs"
          inputmode="decimal"
          aria-label="Pause goal in milliseconds"
          data-test="goal"
          @change="setGoal(($event.target as HTMLInputElement).value)"
        />
        ms:
        <b :class="{ urgent: answer.overGoal.count > 0 }" data-test="over-goal">{{
          answer.overGoal.count === 0 ? 'none breaks it' : overGoalText(answer)
        }}</b>
      </label>
    </p>
    <FindingsList v-if="answer.counts.count > 0" :findings="answer.findings" />
    <div v-if="answer.counts.count > 0 || answer.figures.count > 0" class="charts">
      <template v-if="answer.figures.count > 0">
        <ChartFigure
          name="pause-chart"
          title="Pauses over time"
          :height="170"
          fill
          :draw="pausesDrawing"
          :text="pauseText(answer)"
          :columns="['began', 'length', 'after the one before']"
          :rows="tables.pauseRows"
        >
          <template #beside>
            <span class="quiet condensed key"
              >by{{ ' ' }}
              <InlineSelect
                label="What stands for a pause"
                :value="pauseWhat"
                :options="PAUSE_WHATS"
                data-test="pause-what"
                @choose="(what) => (pauseWhat = what)"
              />
              | young ○ mixed ▪ whole</span
            >
          </template>
        </ChartFigure>
        <PauseBuckets
          :answer="answer"
          :is-own="workspace.edgesMs !== null"
          :height="150"
          fill
          @edges="workspace.setEdges"
        />
        <ChartFigure
          v-if="answer.hasClock"
          name="share-chart"
          title="Time left to the program"
          :height="140"
          fill
          :draw="shares"
          text="Share of time left to the program by the pauses, and in which the collector worked beside it"
          :columns="['from', 'left to the program', 'collector beside it']"
          :rows="tables.shareRows"
        >
          <template #beside
            ><span class="quiet condensed key"
              >— left by the pauses{{ answer.concurrentMs === null ? '' : ' · ▬ collector beside it' }}</span
            ></template
          >
        </ChartFigure>
        <ChartFigure
          v-if="answer.hasClock"
          name="utilisation-chart"
          title="Least share left"
          term="least share left"
          :height="140"
          fill
          :draw="utilisation"
          text="Minimum mutator utilisation over the length of the window"
          :columns="['window', 'share']"
          :rows="tables.mmuRows"
        >
          <template #beside><span class="quiet condensed key">minimum utilisation by length of window</span></template>
        </ChartFigure>
      </template>
      <ChartFigure
        v-if="answer.hasClock"
        name="rate-chart"
        title="Rates"
        :height="140"
        fill
        :draw="rates"
        text="Rates of allocation, promotion and reclaiming over time"
        :columns="['from', 'allocation', 'promotion', 'reclaimed']"
        :rows="tables.rateRows"
      >
        <template #beside>
          <span class="quiet condensed key"
            >— allocation{{
              answer.allocation === null || Number.isNaN(answer.allocation.bytesPerSec)
                ? ''
                : ` ${allocationText(answer)}`
            }}
            · ┄ promotion{{
              answer.promotion?.bytesPerSec == null ? '' : ` ${`${formatBytes(answer.promotion.bytesPerSec)}/s`}`
            }}
            · ⋯ reclaimed</span
          >
        </template>
      </ChartFigure>
      <ChartFigure
        v-if="answer.sizes.length > 0"
        name="sizes-chart"
        title="Sizes"
        :height="140"
        fill
        :draw="sizesDrawing"
        :text="`Size of ${sizes?.name} before and after each collection`"
        :columns="['at', 'before', 'after']"
        :rows="tables.sizeRows"
      >
        <template #beside>
          <span class="quiet condensed key"
            >of{{ ' ' }}
            <InlineSelect
              label="Space whose sizes are drawn"
              :value="sizes?.name ?? ''"
              :options="answer.sizes.map(({ name }) => [name, name === 'heap' ? 'the heap' : name] as const)"
              data-test="size-of"
              @choose="(name) => (shownSize = name)"
            />
            before and ▬ after</span
          >
        </template>
      </ChartFigure>
    </div>
    <template v-if="answer.figures.count > 0">
      <div class="quiet by">
        <v-btn-toggle aria-label="Pauses by" :model-value="grouping" @update:model-value="group">
          <v-btn value="label" :aria-pressed="grouping === 'label'">by kind</v-btn>
          <v-btn value="cause" :aria-pressed="grouping === 'cause'" data-test="by-cause">by cause</v-btn>
        </v-btn-toggle>
        <span v-if="workspace.pauseKind">
          <b>{{ workspace.pauseKind.name }}</b> is picked out;
          <v-btn variant="plain" @click="workspace.pickKind(null)">show all alike</v-btn></span
        >
      </div>
      <DenseTable
        data-test="pause-kinds"
        :columns="columns"
        :rows="grouping === 'label' ? answer.kinds : answer.causes"
        :row-key="(kind) => kind.name"
        :chosen="workspace.pauseKind?.name ?? null"
        caption="Pauses by kind"
        :export-name="`pauses-by-${grouping === 'label' ? 'kind' : 'cause'}`"
        empty="No pauses."
        @choose="pick"
      />
      <p v-if="answer.pausesLeftOut > 0" class="quiet small">
        Of {{ answer.figures.count }} pauses the longest {{ answer.pauseMs.length }} are drawn; all are counted.
      </p>
      <p class="quiet small">Keys: n next, p previous, l next longest, s and b next and previous of its kind.</p>
    </template>
  </div>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 6px 0 10px;
  font-size: 13.5px;
  align-items: baseline;
}
.figures b {
  font-weight: 500;
}
.charts {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  grid-auto-rows: minmax(max-content, 1fr);
  flex: 1 1 auto;
  gap: 12px 26px;
  margin-bottom: 10px;
}
.key {
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.by {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
.goal {
  white-space: nowrap;
}
@container (max-width: 660px) {
  .charts {
    grid-template-columns: minmax(0, 1fr);
  }
}
@container (max-width: 720px) {
  :deep(.col-mean),
  :deep(.col-p95),
  :deep(.col-scope) {
    display: none;
  }
}
.number {
  width: 44px !important;
}
</style>
