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
</script>

<template>
  <nav class="rail" aria-label="Questions">
    <router-link
      v-for="question in lines"
      :key="question.id"
      class="question"
      active-class=""
      :aria-current="question.id === workspace.view ? 'page' : undefined"
      :to="placeOf(workspace.recordingId, question.id, workspace.addressOf(question.id))"
    >
      <span class="ask">{{ question.title }}</span>
      <span class="answer condensed" :class="question.urgent ? 'urgent' : 'quiet'">{{ question.answer }}</span>
    </router-link>
    <div v-if="workspace.overview" class="foot quiet condensed">
      <label v-if="workspace.overview.runs.length > 1" class="runs">
        {{ workspace.overview.runs.length }} runs in this file; shown:
        <select
          :value="workspace.overview.run"
          data-test="run"
          @change="workspace.chooseRun(Number(($event.target as HTMLSelectElement).value))"
        >
          <option v-for="(run, place) in workspace.overview.runs" :key="place" :value="place">
            {{ runText(run, place) }}
          </option>
        </select>
      </label>
      <details v-if="workspace.overview.issues.count > 0">
        <summary class="urgent">
          {{ workspace.overview.issues.count }} {{ workspace.overview.issues.count === 1 ? 'line' : 'lines' }} left out
        </summary>
        <ul>
          <li v-for="issue in workspace.overview.issues.first.slice(0, 20)" :key="issue.line">{{ issue.message }}</li>
        </ul>
      </details>
      <details v-if="workspace.overview.silences.length > 0" data-test="silences">
        <summary class="urgent">Not heard for a while</summary>
        <p>Its event loop stood still, and collections are told through it: there may have been any number of them.</p>
        <ul>
          <li v-for="silence in workspace.overview.silences.slice(0, 20)" :key="silence">{{ silence }}</li>
        </ul>
      </details>
      <details v-if="workspace.overview.notes.length > 0">
        <summary>What the recorder cannot see, and costs</summary>
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
      </details>
    </div>
  </nav>
</template>

<style scoped>
.rail {
  display: flex;
  flex-direction: column;
  border-right: 1px solid var(--rule);
  overflow: auto;
  padding-top: 8px;
}
.question {
  display: block;
  padding: 5px 12px 6px 22px;
  border-left: 4px solid transparent;
  color: var(--ink);
  text-decoration: none;
}
.question:hover {
  background: var(--paper-2);
}
.question[aria-current] {
  background: var(--paper-2);
  border-left-color: var(--ink);
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
  padding: 10px 14px 12px 26px;
  font-size: 12.5px;
}
.foot ul {
  padding-left: 14px;
  margin: 4px 0 8px;
}
.foot li {
  margin-bottom: 4px;
  overflow-wrap: anywhere;
}
summary {
  cursor: pointer;
}
.runs select {
  display: block;
  width: 100%;
  margin-top: 3px;
  font: inherit;
  color: inherit;
  background: var(--paper);
  border: 1px solid var(--rule);
  padding: 2px 3px;
}
</style>
