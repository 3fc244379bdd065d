<script setup lang="ts">
import { type CollectionsAnswer, formatDuration, formatPercent } from '@brisk-heron/core';
import { computed } from 'vue';
import { countText } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import TermText from '../../words/TermText.vue';
import { overGoalText } from './pause-tables.ts';

/** What the pauses of the span come to, in a line; the goal is typed in it. */
const props = defineProps<{ answer: CollectionsAnswer }>();
const workspace = useWorkspace();

const longest = computed(() => {
  const shown = props.answer;
  if (shown.pauseMs.length === 0) return null;
  let at = 0;
  for (let place = 1; place < shown.pauseMs.length; place++)
    if (shown.pauseDurationMs[place]! > shown.pauseDurationMs[at]!) at = place;
  return shown.pauseRow[at]!;
});

const stopsText = computed(() => {
  const { stops } = props.answer;
  if (stops === null) return '';
  const slowest = formatDuration(stops.mostReachMs);
  return `${countText(stops.count)} stops of every thread, for collecting or not; the slowest took ${slowest} to reach`;
});

function setGoal(text: string): void {
  const goal = Number(text);
  if (Number.isFinite(goal) && goal > 0) workspace.setGoal(goal);
}
</script>

<template>
  <p class="condensed figures" data-test="pause-figures">
    <span
      ><b data-test="pause-count">{{ countText(answer.figures.count) }}</b> pauses</span
    >
    <span
      ><b data-test="pause-sum" :title="`${answer.figures.totalMs} ms`">{{ formatDuration(answer.figures.totalMs) }}</b>
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
      >{{ countText(answer.counts.young) }} young, {{ countText(answer.counts.mixed) }} mixed,
      {{ countText(answer.counts.whole) }} whole<template v-if="answer.counts.concurrentCycles"
        >, {{ countText(answer.counts.concurrentCycles) }} concurrent cycles</template
      ></span
    >
    <span v-if="answer.counts.own > 0" class="quiet"
      >{{ countText(answer.counts.own) }} forced by the recorder, left out</span
    >
    <span v-if="answer.concurrentMs !== null">{{ formatDuration(answer.concurrentMs) }} beside the program</span>
    <span
      v-if="answer.cpu"
      title="user and system time of the collector's threads, against the time that passed; printed in steps of 10 ms"
      >processor time {{ formatDuration(answer.cpu.userMs + answer.cpu.sysMs) }} in
      {{ formatDuration(answer.cpu.realMs) }}</span
    >
    <span v-if="answer.stops" :title="stopsText">{{ formatDuration(answer.stops.reachMs) }} until all had stopped</span>
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
.goal {
  white-space: nowrap;
}
.number {
  width: 44px !important;
}
</style>
