<script setup lang="ts">
import { formatDuration, formatPercent, type Overview } from '@brisk-heron/core';
import { computed } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';
import { placeOf } from './use-address.ts';

/** The questions, each answered in a line from the span. */
const workspace = useWorkspace();

function runText(run: Overview['runs'][number], place: number): string {
  const began = Number.isFinite(run.startEpochMs) ? new Date(run.startEpochMs).toLocaleString() : '';
  return [`${place + 1}`, run.collector, began, formatDuration(run.durationMs), `${run.collections} collections`]
    .filter((part) => part !== '')
    .join(' · ');
}

const lines = computed(() => {
  const { overview } = workspace;
  if (overview === null) return [];
  return workspace.questions.map(({ id, title, line }) => ({ id, title, ...line(overview) }));
});
const runs = computed(() =>
  (workspace.overview?.runs ?? []).map((run, place) => ({
    value: place,
    title: runText(run, place),
    props: { 'data-value': String(place) },
  })),
);
</script>

<template>
  <nav class="rail" aria-label="Questions">
    <v-list nav tag="div" role="presentation">
      <v-list-item
        v-for="question in lines"
        :key="question.id"
        class="question"
        :active="question.id === workspace.view"
        :aria-current="question.id === workspace.view ? 'page' : undefined"
        :to="placeOf(workspace.recordingId, question.id, workspace.addressOf(question.id))"
      >
        <span class="ask">{{ question.title }}</span>
        <span class="answer condensed" :class="question.urgent ? 'urgent' : 'quiet'">{{ question.answer }}</span>
      </v-list-item>
    </v-list>
    <div v-if="workspace.overview" class="foot quiet condensed">
      <div v-if="workspace.overview.runs.length > 1" class="runs">
        {{ workspace.overview.runs.length }} runs in this file; shown:
        <v-select
          :items="runs"
          item-props="props"
          :model-value="workspace.overview.run"
          aria-label="Run that is shown"
          data-test="run"
          @update:model-value="workspace.chooseRun"
        />
      </div>
      <v-expansion-panels>
        <v-expansion-panel v-if="workspace.overview.issues.count > 0">
          <v-expansion-panel-title class="urgent">
            {{ workspace.overview.issues.count }} {{ workspace.overview.issues.count === 1 ? 'line' : 'lines' }} left
            out
          </v-expansion-panel-title>
          <v-expansion-panel-text>
            <ul>
              <li v-for="issue in workspace.overview.issues.first.slice(0, 20)" :key="issue.line">
                {{ issue.message }}
              </li>
            </ul>
          </v-expansion-panel-text>
        </v-expansion-panel>
        <v-expansion-panel v-if="workspace.overview.silences.length > 0" data-test="silences">
          <v-expansion-panel-title class="urgent">Not heard for a while</v-expansion-panel-title>
          <v-expansion-panel-text>
            <p>
              Its event loop stood still, and collections are told through it: there may have been any number of them.
            </p>
            <ul>
              <li v-for="silence in workspace.overview.silences.slice(0, 20)" :key="silence">{{ silence }}</li>
            </ul>
          </v-expansion-panel-text>
        </v-expansion-panel>
        <v-expansion-panel v-if="workspace.overview.notes.length > 0">
          <v-expansion-panel-title>What the recorder cannot see, and costs</v-expansion-panel-title>
          <v-expansion-panel-text>
            <p v-if="workspace.overview.pollTimeRatio !== null">
              Its {{ workspace.overview.polls }} polls took {{ formatPercent(workspace.overview.pollTimeRatio) }} of the
              program's time; sampling is not in that.
            </p>
            <p v-if="workspace.overview.seenRatio !== null" data-test="seen">
              {{ formatPercent(workspace.overview.seenRatio) }} of the samples were looked at one by one; the rest is
              inferred. Looking took {{ formatPercent(workspace.overview.readTimeRatio ?? 0) }} of the time.
            </p>
            <ul>
              <li v-for="note in workspace.overview.notes" :key="note.code + note.tMs">{{ note.message }}</li>
            </ul>
          </v-expansion-panel-text>
        </v-expansion-panel>
      </v-expansion-panels>
    </div>
  </nav>
</template>

<style scoped>
.rail {
  display: flex;
  flex-direction: column;
  flex: 1 0 auto;
}
.rail .question.v-list-item {
  padding: 5px 12px 6px 22px;
  margin: 0;
  border-left: 4px solid transparent;
  color: var(--ink);
}
.rail .question.v-list-item--active {
  background: var(--paper-2);
  border-left-color: var(--ink);
}
.rail .question:hover {
  background: var(--paper-2);
}
.ask {
  display: block;
  font-weight: 500;
  font-size: 13.5px;
}
.answer {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.foot {
  margin-top: auto;
  padding: 10px 14px 12px 22px;
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.foot ul {
  padding-left: 14px;
  margin: 4px 0 8px;
}
.foot li {
  margin-bottom: 4px;
}
</style>
