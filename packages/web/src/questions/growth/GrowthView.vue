<script setup lang="ts">
import {
  formatBytes,
  formatClock,
  formatDuration,
  formatPercent,
  parseBytes,
  parseDuration,
  type SeriesVerdict,
} from '@brisk-heron/core';
import { computed } from 'vue';
import { useDisplay } from 'vuetify';
import ChartFigure from '../../components/ChartFigure.vue';
import { exactBytes, plusMinus, shortType } from '../../components/figures.ts';
import ChargeControl from '../../look-controls/ChargeControl.vue';
import FindField from '../../look-controls/FindField.vue';
import SettledValue from '../../look-controls/SettledValue.vue';
import TermText from '../../words/TermText.vue';
import { useWorkspace } from '../../stores/workspace.ts';
import GrowthTable from './GrowthTable.vue';
import PeakTable from './PeakTable.vue';
import RoundsTable from './RoundsTable.vue';
import RunSummary from './RunSummary.vue';
import StepsTable from './StepsTable.vue';
import { drawFloor, floorPointAt, trendLabel } from './floor-chart.ts';
import { useGrowth } from './growth-state.ts';

/** A page that is taller gives the chart more room. */
const TALL = 960;
const display = useDisplay();
const isTall = computed(() => display.height.value >= TALL);
const workspace = useWorkspace();
const growth = useGrowth();
const answer = computed(() => growth.answer);
const draw = computed(() => {
  const shown = answer.value;
  return (svg: SVGSVGElement, width: number, height: number): void => {
    if (shown !== null) drawFloor(svg, width, height, shown);
  };
});
function floorRows(): string[][] {
  const floor = answer.value?.verdict.floor;
  return floor === undefined
    ? []
    : Array.from(floor.tMs, (tMs, place) => [
        formatClock(tMs, true),
        formatBytes(floor.bytes[place]!),
        exactBytes(floor.bytes[place]!),
      ]);
}
const severalHeaps = computed(() => (workspace.overview?.chosenHeaps ?? workspace.overview?.heaps ?? []).length > 1);
const limitText = computed(() => {
  const { limitBytes, limitHeap } = answer.value?.verdict ?? { limitBytes: NaN, limitHeap: null };
  return Number.isNaN(limitBytes)
    ? 'not known'
    : `${formatBytes(limitBytes)}${limitHeap === null ? '' : limitHeap === '' ? ' each' : ` of ${limitHeap}`}`;
});
/** What the collector does not manage: a growth there is none of the floor's. */
const outside = computed(() => {
  const shown = answer.value?.outside;
  if (!shown || Number.isNaN(shown.externalBytes)) return '';
  const slope = (bytesPerSec: number): string => `${bytesPerSec < 0 ? '' : '+'}${formatBytes(bytesPerSec * 60)}/min`;
  const attributed = Number.isNaN(shown.attributedBytes)
    ? ''
    : `, ${formatBytes(shown.attributedBytes)} ${plusMinus(shown.attributedBytesSe)} of it from known sites (space=outside), ${formatBytes(shown.unattributedBytes)} unattributed`;
  const { outside: judged, resident } = answer.value!.verdict;
  const kind = (series: SeriesVerdict | null): string => (series === null ? '' : `, ${series.kind}`);
  return `Outside the heap: ${formatBytes(shown.externalBytes)} in buffers and external strings (${slope(shown.externalBytesPerSec)}${kind(judged)})${attributed}; the process has ${formatBytes(shown.residentBytes)} resident (${slope(shown.residentBytesPerSec)}${kind(resident)}).`;
});
const emptyText = computed(() =>
  workspace.find
    ? `Nothing here matches “${workspace.find}”.`
    : 'No sampled object has lived longer than the settle time yet.',
);
/** Only the table of sites stands below the chart: it takes what room there is. */
const isAlone = computed(() => {
  const shown = answer.value;
  return shown !== null && !shown.types?.length && shown.together.length === 0 && !shown.rounds && !shown.peak;
});
const ratioText = (ratios: readonly number[]): string =>
  ratios.map((ratio) => (ratio < 10 ? Number(ratio.toFixed(1)) : Math.round(ratio)).toLocaleString('en')).join(' : ');

/** Goes to a floor point: what lived then, or the collection that told it where no object was seen. */
function goTo(point: number): void {
  const tMs = answer.value?.verdict.floor.tMs[point];
  if (tMs === undefined) return;
  if (answer.value?.observed) workspace.lookInto(tMs);
  else void workspace.selectPauseAt(tMs);
}

function clicked(event: MouseEvent): void {
  if (answer.value === null) return;
  const box = (event.currentTarget as SVGSVGElement).getBoundingClientRect();
  const point = floorPointAt(
    answer.value,
    { width: box.width, height: box.height },
    event.clientX - box.left,
    event.clientY - box.top,
  );
  if (point >= 0) goTo(point);
}
</script>

<template>
  <div v-if="answer" class="view">
    <div class="view-head">
      <h2>Is it growing?</h2>
      <FindField v-if="answer.observed" />
    </div>
    <ChartFigure
      name="floor-chart"
      title="Floor"
      term="floor"
      :height="200"
      :fill="!answer.observed || isTall"
      :class="{ shared: answer.observed }"
      :draw="draw"
      :text="`Memory used after collections. ${trendLabel(answer) || answer.verdict.missing}`"
      :columns="['time', 'floor', 'exactly']"
      :rows="floorRows"
      go-title="Go to this floor point"
      @pick="clicked"
      @go="goTo"
    >
      <template #beside>
        <span class="quiet condensed key"
          >▪ floor point, click one to see what lived · ○ used after any collection{{
            severalHeaps ? ', of its heap alone' : ''
          }}
          · limit
          <SettledValue
            :shown="limitText"
            label="Limit"
            hint="size, as 256 MiB; empty: the runtime's"
            :typed="workspace.notebook.limitBytes !== null"
            :parse="parseBytes"
            @choose="(limitBytes) => workspace.writeNotebook({ limitBytes })"
          /><template v-if="workspace.notebook.limitBytes !== null"> as typed</template>
        </span>
      </template>
    </ChartFigure>
    <p v-if="answer.endOfWorkMs !== null" class="quiet small" data-test="end-of-work">
      From {{ formatClock(answer.endOfWorkMs, true) }} on the program let go of what it held, to end: that time is not
      judged.
    </p>
    <p v-if="answer.verdict.changed.length > 0" class="quiet small" data-test="changed">
      Since {{ formatClock(answer.verdict.sinceMs) }} it grows; what else changed about then:
      {{ answer.verdict.changed.join('; ') }}.
    </p>
    <RunSummary
      v-if="answer.run && answer.verdict.kind === 'unclear'"
      :class="{ waits: growth.waits }"
      :run="answer.run"
    />
    <StepsTable v-if="answer.verdict.steps.length > 0" :verdict="answer.verdict" :span="answer.span" />
    <template v-if="answer.observed">
      <div class="view-head below">
        <h3>What adds to the floor</h3>
        <span class="condensed quiet beside">
          <ChargeControl /> · <TermText word="settle time">older than</TermText>{{ ' ' }}
          <SettledValue
            :shown="formatDuration(answer.settleMs)"
            label="Settle time"
            hint="duration, as 8 s; empty: from the lifetimes"
            :typed="workspace.notebook.settleMs !== null"
            :parse="parseDuration"
            @choose="(settleMs) => workspace.writeNotebook({ settleMs })"
          />
          · {{ answer.recentLeftOut.toLocaleString('en') }} recent left out<template
            v-if="answer.explainedRatio !== null"
          >
            · <span class="whole">explains {{ formatPercent(answer.explainedRatio) }}</span></template
          >
        </span>
      </div>
      <GrowthTable
        data-test="growth-sites"
        :rows="answer.rows"
        :charge="answer.charge"
        :fill="isAlone"
        :first="8"
        caption="Sites by what they add to the floor"
        :empty="emptyText"
      />
      <div v-if="answer.types && answer.types.length > 0" :class="{ waits: growth.waits }">
        <h3 class="below">The same by type</h3>
        <GrowthTable
          data-test="growth-types"
          :rows="answer.types"
          charge="type"
          :first="6"
          caption="Types by what they add to the floor"
          empty="No type."
        />
      </div>
      <section
        v-if="answer.together.length > 0"
        class="below"
        :class="{ waits: growth.waits }"
        aria-label="Types that move together"
        data-test="together"
      >
        <h3>These move together</h3>
        <ul class="together condensed">
          <li v-for="group in answer.together" :key="group.types[0]">
            <span v-for="(type, place) in group.types.slice(0, 6)" :key="type" :title="type"
              >{{ place > 0 ? ' : ' : '' }}<code>{{ shortType(type) }}</code></span
            ><template v-if="group.types.length > 6"> and {{ group.types.length - 6 }} more</template>{{ ' ' }}
            <span class="quiet">as {{ ratioText(group.ratios.slice(0, 6)) }}, ρ ≥ {{ group.rho.toFixed(2) }}</span>
          </li>
        </ul>
        <p class="quiet small">
          Counts of live objects that rise and fall alike. One may hold the others; two things that both rise all the
          time do so as well.
        </p>
      </section>
      <RoundsTable v-if="answer.rounds" :answer="answer.rounds" />
      <RunSummary
        v-if="answer.run && answer.verdict.kind !== 'unclear'"
        :class="{ waits: growth.waits }"
        :run="answer.run"
      />
      <PeakTable v-if="answer.peak" :class="{ waits: growth.waits }" :peak="answer.peak" :used="answer.usedPeak" />
      <p v-if="answer.followed" class="quiet small">
        Objects were followed from {{ formatClock(answer.followed.fromMs) }} to {{ formatClock(answer.followed.toMs) }}.
      </p>
      <p v-if="outside" class="quiet small" data-test="outside">{{ outside }}</p>
    </template>
    <p v-else class="quiet">
      A GC log knows no allocation sites. Record the program to see which sites add to the floor:
      <code>./heron record -- {{ workspace.overview?.exampleCommand }}</code>
    </p>
  </div>
</template>

<style scoped>
.whole {
  white-space: nowrap;
}
.below {
  margin: 14px 0 2px;
}
.waits {
  opacity: 0.5;
}
.beside {
  margin-left: auto;
  text-align: right;
}
h3 {
  white-space: nowrap;
}
.key {
  font-size: 12.5px;
}
.together {
  margin: 2px 0;
  padding-left: 4px;
  list-style: none;
}
.together li {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
.shared {
  flex: 0 1 34%;
}
</style>
