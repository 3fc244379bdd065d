<script setup lang="ts">
import { type Clause, formatBytes, formatClock } from '@brisk-heron/core';
import { computed } from 'vue';
import HeronMark from '../components/HeronMark.vue';
import ThemeSwitch from '../components/ThemeSwitch.vue';
import { settingBytes, shortRuntime } from '../components/figures.ts';
import { useWorkspace } from '../stores/workspace.ts';
import HeapsControl from './HeapsControl.vue';

const workspace = useWorkspace();

const about = computed(() => {
  const { overview } = workspace;
  if (overview === null) return '';
  const parts = [
    shortRuntime(overview.runtime),
    overview.collector === 'V8' || overview.collector === overview.runtime ? '' : overview.collector,
  ];
  if (overview.samplingIntervalBytes !== null) parts.push(`every ${settingBytes(overview.samplingIntervalBytes)}`);
  return parts.filter((part) => part !== '').join(' · ');
});

const state = computed(() => {
  switch (workspace.link) {
    case 'live':
      return { text: `recording ${formatClock(workspace.durationMs)}`, live: true };
    case 'waiting':
      return { text: 'connected, nothing is coming', live: false };
    case 'disconnected':
      return { text: 'server not reached; trying again', live: false };
    case 'behind':
      return { text: `${formatBytes(workspace.behindBytes)} still on the way`, live: true };
    case 'connecting':
      return { text: 'connecting …', live: false };
    case 'ended':
      return { text: `ended after ${formatClock(workspace.durationMs)}`, live: false };
    default:
      return { text: formatClock(workspace.durationMs), live: false };
  }
});

function goTo(clause: Clause): void {
  if (clause.evidence === 'none') return;
  workspace.show('growth');
  if (clause.evidence === 'sites') {
    const key = workspace.overview?.growingKey ?? null;
    if (key !== null) workspace.select({ kind: 'key', charge: 'ownFrame', key });
  }
}
/** Letters of the sentence from which on it is set smaller, so that its lines find room. */
const [LONG, LONGER] = [120, 190];
const letters = computed(() =>
  (workspace.overview?.clauses ?? []).reduce((sum, clause) => sum + clause.text.length + 2, 0),
);
</script>

<template>
  <header class="verdict">
    <router-link to="/" class="home" aria-label="All recordings" title="All recordings"><HeronMark /></router-link>
    <div class="name">
      <strong>{{ workspace.name }}</strong>
      <span class="quiet condensed about"
        ><span :title="workspace.overview?.runtime">{{ about }}</span
        ><HeapsControl
      /></span>
    </div>
    <h1
      class="sentence"
      :class="{ long: letters > LONG, longer: letters > LONGER }"
      aria-live="polite"
      data-test="verdict"
      :data-kind="workspace.overview?.verdict"
    >
      <span v-for="(clause, place) in workspace.overview?.clauses ?? []" :key="place" class="clause"
        ><button
          type="button"
          :class="{ pressing: clause.urgent }"
          :disabled="clause.evidence === 'none'"
          @click="goTo(clause)"
        >
          {{ clause.text }}</button
        >{{ place + 1 < (workspace.overview?.clauses.length ?? 0) ? '; ' : '.' }}</span
      >
    </h1>
    <div class="state">
      <span :class="{ live: state.live }" class="condensed" data-test="link">{{ state.text }}</span>
      <ThemeSwitch />
    </div>
  </header>
</template>

<style scoped>
.verdict {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 58px;
  padding: 0 18px 0 14px;
  border-bottom: 1px solid var(--rule);
}
.home {
  color: var(--ink);
  line-height: 0;
}
.name {
  display: flex;
  flex-direction: column;
  flex: 0 0 auto;
  max-width: 260px;
  line-height: 1.3;
}
.name strong {
  font-size: 14px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.about {
  display: flex;
  gap: 8px;
  font-size: 12.5px;
  white-space: nowrap;
}
.about > span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
}
.sentence {
  flex: 1;
  text-align: center;
  font-weight: 400;
  line-height: 1.35;
  text-wrap: balance;
}
.clause {
  display: inline-block;
  white-space: pre-wrap;
}
.sentence button {
  font: inherit;
  color: inherit;
}
.sentence button:not(:disabled) {
  border-bottom: 1.5px solid var(--rule);
}
.sentence button.pressing {
  border-bottom-color: var(--attention);
}
.sentence button:not(:disabled):hover {
  background: var(--paper-2);
}
.state {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  line-height: 1.3;
}
.live::before {
  content: '';
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 6px;
  border-radius: 50%;
  background: var(--attention);
}
@media (max-width: 1100px) {
  .sentence {
    font-size: 15px;
  }
}
.sentence.long {
  font-size: 14.5px;
  line-height: 1.3;
}
.sentence.longer {
  font-size: 12.5px;
  line-height: 1.25;
}
.sentence.long .clause,
.sentence.long button {
  display: inline;
}
.sentence.long {
  text-wrap: wrap;
}
</style>
