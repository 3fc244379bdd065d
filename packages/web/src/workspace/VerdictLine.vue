<script setup lang="ts">
import { type Clause, formatBytes, formatClock } from '@brisk-heron/core';
import { computed } from 'vue';
import HeronMark from '../components/HeronMark.vue';
import ThemeSwitch from '../components/ThemeSwitch.vue';
import { settingBytes, shortRuntime } from '../components/figures.ts';
import { useWorkspace } from '../stores/workspace.ts';
import HeapsControl from './HeapsControl.vue';
import KeysDialog from './KeysDialog.vue';

defineProps<{ /** True where the rail is opened from here. */ withRail: boolean }>();
const emit = defineEmits<{ rail: [] }>();
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
// What follows a clause stands within it, so that no line begins with it.
const endOf = (place: number): string => (place + 1 < (workspace.overview?.clauses.length ?? 0) ? ';' : '.');
/** Letters of the sentence from which on it is set smaller, so that its lines find room. */
const [LONG, LONGER] = [120, 190];
const letters = computed(() =>
  (workspace.overview?.clauses ?? []).reduce((sum, clause) => sum + clause.text.length + 2, 0),
);
</script>

<template>
  <header class="verdict">
    <router-link to="/" class="home" aria-label="All recordings" title="All recordings"><HeronMark /></router-link>
    <v-btn v-if="withRail" data-test="open-rail" @click="emit('rail')">Questions</v-btn>
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
        ><v-btn
          v-if="clause.evidence !== 'none'"
          variant="plain"
          :class="{ pressing: clause.urgent }"
          @click="goTo(clause)"
          >{{ clause.text }}{{ endOf(place) }}</v-btn
        ><span v-else>{{ clause.text }}{{ endOf(place) }}</span
        >{{ ' ' }}</span
      >
    </h1>
    <div class="state">
      <span :class="{ live: state.live }" class="condensed" data-test="link">{{ state.text }}</span>
      <span class="switches"><KeysDialog />{{ ' ' }} <ThemeSwitch /></span>
    </div>
  </header>
</template>

<style scoped>
.verdict {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 58px;
  padding: 2px 18px 2px 14px;
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
.sentence .v-btn.plain-button {
  text-decoration: underline 1.5px var(--rule);
  text-underline-offset: 5px;
  overflow: visible;
}
.sentence .v-btn.plain-button.pressing {
  text-decoration-color: var(--attention);
}
.sentence .v-btn.plain-button:hover {
  background: var(--paper-2);
}
.state {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  line-height: 1.3;
}
.switches {
  display: flex;
  gap: 12px;
  font-size: 12.5px;
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
.sentence.long .v-btn.plain-button {
  display: inline;
}
.sentence.long {
  text-wrap: wrap;
}
@media (max-width: 760px) {
  .verdict {
    flex-wrap: wrap;
    min-height: 0;
    gap: 0 10px;
  }
  .name {
    flex: 1 1 0;
    min-width: 0;
  }
  .about {
    display: none;
  }
  .state {
    flex-direction: row;
    gap: 10px;
  }
  .verdict .sentence {
    order: 5;
    flex: 1 0 100%;
    text-align: left;
    font-size: 14px;
  }
}
</style>
