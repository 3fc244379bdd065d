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
import { useWorkspace } from '../../stores/workspace.ts';
import InlineSelect from '../../components/InlineSelect.vue';
import FindingsList from './FindingsList.vue';
import PauseBuckets from './PauseBuckets.vue';
import PauseFigures from './PauseFigures.vue';
import { useCollections } from './collections-state.ts';
import { drawPauses, drawRates, drawShares, drawSizes, drawUtilisation, pauseText } from './pause-charts.ts';
import { allocationText, collectionTables, kindColumns, NO_TABLES } from './pause-tables.ts';

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
const columns = computed(() => kindColumns(grouping.value));

function group(by: PauseGrouping): void {
  grouping.value = by;
  if (workspace.pauseKind !== null) workspace.pickKind(null);
}

function pick(kind: PauseKind): void {
  workspace.pickKind(workspace.pauseKind?.name === kind.name ? null : { by: grouping.value, name: kind.name });
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
    <PauseFigures v-else :answer="answer" />
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
          :rows="() => tables.pauseRows"
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
          :rows="() => tables.shareRows"
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
          :rows="() => tables.mmuRows"
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
        :rows="() => tables.rateRows"
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
        :rows="() => tables.sizeRows"
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
</style>
