<script setup lang="ts">
import { formatBytes, formatDuration, formatPercent, restartsOf, type RunPoint } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import HeronMark from '../components/HeronMark.vue';
import { useLibrary } from '../stores/library.ts';
import { historyLayout } from './history-layout.ts';
import { when } from './when.ts';

/** Runs of one program on one time line: what each reached, and how it ended. */
const route = useRoute();
const library = useLibrary();
const HEIGHT = 150;
const frame = ref<HTMLElement | null>(null);
const width = ref(1000);
let observer: ResizeObserver | null = null;
const program = computed(() => String(route.params['program'] ?? ''));

onMounted(() => {
  library.listen();
  document.title = `${program.value} over time · Brisk Heron`;
  observer = new ResizeObserver(() => {
    width.value = frame.value?.clientWidth ?? 1000;
  });
  if (frame.value !== null) observer.observe(frame.value);
});
onBeforeUnmount(() => observer?.disconnect());

interface Run extends RunPoint {
  readonly id: string;
  readonly name: string;
  readonly number: number;
}
const rows = computed(() => (library.recordings ?? []).filter((row) => (row.program || row.name) === program.value));
const runs = computed<Run[]>(() =>
  rows.value
    .flatMap(({ id, name, runs: points, startedEpochMs }) =>
      (points ?? []).map((point, at) => ({
        ...point,
        startEpochMs: point.startEpochMs ?? (at === 0 ? startedEpochMs : null),
        id,
        name,
        number: at + 1,
      })),
    )
    .sort((a, b) => (a.startEpochMs ?? 0) - (b.startEpochMs ?? 0)),
);
const restarts = computed(() => restartsOf(runs.value));
const layout = computed(() => historyLayout(runs.value, { width: width.value, height: HEIGHT }));
const older = computed(() => rows.value.filter((row) => row.runs === undefined).length);

const amount = (bytes: number | null): string => (bytes === null ? '–' : formatBytes(bytes));
const isRising = ({ verdict }: Run): boolean => verdict === 'growing' || verdict === 'stepping';
const added = (run: Run): string =>
  run.growthBytesPerSec === null || !isRising(run) ? '–' : `${formatBytes(run.growthBytesPerSec * 60)}/min`;
const ended = ({ verdict, outOfMemory }: Run): string => (outOfMemory ? 'out of memory' : verdict);
const isUrgent = (run: Run): boolean => run.outOfMemory || isRising(run);
const placeOf = ({ id, number }: Run) => ({
  name: 'recording',
  params: { id, view: 'growth' },
  query: number > 1 ? { run: String(number) } : {},
});
const titleOf = (run: Run): string =>
  `${run.name}: ${ended(run)}, peak ${amount(run.peakBytes)}, ${formatDuration(run.durationMs)}`;
</script>

<template>
  <v-main tag="div" class="history">
    <header>
      <router-link to="/" aria-label="All recordings"><HeronMark /></router-link>
      <h1>{{ program }} over time</h1>
    </header>
    <main>
      <p v-if="restarts" class="said urgent" data-test="restarts">{{ restarts.sentence }}</p>
      <p v-else-if="runs.length > 1" class="said">
        {{ runs.length }} runs; it is not one that climbs and is started again and again.
      </p>
      <p v-else class="said quiet">{{ runs.length === 1 ? 'One run so far.' : 'No run of it is in this browser.' }}</p>
      <div ref="frame" class="line">
        <svg
          v-if="runs.length > 0"
          :width="width"
          :height="HEIGHT + 2"
          role="img"
          :aria-label="`Peaks of ${runs.length} runs over time; the table has them.`"
        >
          <line
            v-if="layout.limitY !== null"
            x1="0"
            :x2="width"
            :y1="layout.limitY"
            :y2="layout.limitY"
            class="limit"
          />
          <rect
            v-for="(place, at) in layout.runs"
            :key="at"
            :x="place.left"
            :y="HEIGHT - place.height"
            :width="place.width"
            :height="place.height"
            :class="{ climbs: isUrgent(runs[at]!) }"
          >
            <title>{{ titleOf(runs[at]!) }}</title>
          </rect>
          <line x1="0" :x2="width" :y1="HEIGHT" :y2="HEIGHT" class="axis" />
        </svg>
      </div>
      <v-table v-if="runs.length > 0" class="dense" data-test="history">
        <thead>
          <tr>
            <th scope="col" class="text">run</th>
            <th scope="col">began</th>
            <th scope="col">length</th>
            <th scope="col" class="text">verdict</th>
            <th scope="col">adds</th>
            <th scope="col">peak</th>
            <th scope="col">limit</th>
            <th scope="col">collecting</th>
            <th scope="col">longest pause</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="run in runs" :key="`${run.id} ${run.number}`">
            <td class="text">
              <router-link :to="placeOf(run)"
                >{{ run.name }}{{ run.number > 1 ? `, run ${run.number}` : '' }}</router-link
              >
            </td>
            <td>{{ run.startEpochMs === null ? 'unknown' : when(run.startEpochMs) }}</td>
            <td>{{ formatDuration(run.durationMs) }}</td>
            <td class="text" :class="{ urgent: isUrgent(run) }">{{ ended(run) }}</td>
            <td>{{ added(run) }}</td>
            <td>{{ amount(run.peakBytes) }}</td>
            <td>{{ amount(run.limitBytes) }}</td>
            <td>{{ run.lostRatio === null ? '–' : formatPercent(run.lostRatio) }}</td>
            <td>{{ run.longestMs === null ? '–' : formatDuration(run.longestMs) }}</td>
          </tr>
        </tbody>
      </v-table>
      <p v-if="older > 0" class="quiet small">
        {{ older }} recordings were stored by an older page and stand here once they are opened and closed again.
      </p>
    </main>
  </v-main>
</template>

<style scoped>
.history {
  height: 100vh;
  overflow: auto;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 16px 28px 14px;
  border-bottom: 1px solid var(--rule);
}
main {
  padding: 14px 28px 40px;
  max-width: 1500px;
}
.said {
  font-size: 16px;
  margin: 0 0 10px;
}
.line {
  margin-bottom: 14px;
}
rect {
  fill: var(--kept);
  stroke: var(--paper);
}
rect.climbs {
  fill: var(--attention);
}
.limit {
  stroke: var(--attention);
  stroke-dasharray: 5 3;
}
.axis {
  stroke: var(--ink);
}
</style>
