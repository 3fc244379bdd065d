<script setup lang="ts">
import { INSTANT_MS } from '@brisk-heron/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { useDisplay } from 'vuetify';
import ProgressLine from '../components/ProgressLine.vue';
import { useWorkspace } from '../stores/workspace.ts';
import EvidenceDrawer from './EvidenceDrawer.vue';
import MarkControl from './MarkControl.vue';
import QuestionRail from './QuestionRail.vue';
import RibbonChart from './RibbonChart.vue';
import VerdictLine from './VerdictLine.vue';
import { isSmall } from './room.ts';
import { useAddress } from './use-address.ts';

const workspace = useWorkspace();

const display = useDisplay();
/** Narrower than this, the rail and the drawer are narrower too. */
const WIDE = 1100;
const small = computed(() => isSmall(display.width.value));
/** What was read is over and holds nothing that happened. */
const isEmpty = computed(
  () => workspace.isRead && workspace.link === 'none' && workspace.durationMs === 0 && workspace.failure === '',
);
/** An inventory and nothing else: there is no time to draw, and one question to ask. */
const isInstant = computed(
  () => (workspace.overview?.inventory ?? null) !== null && workspace.durationMs <= INSTANT_MS,
);
watch(isInstant, (isSo) => {
  if (isSo && workspace.view === workspace.questions[0]!.id) workspace.show('holding');
});
const railIsOpen = ref(!small.value);
watch(small, (isSmallNow) => {
  railIsOpen.value = !isSmallNow;
});
watch(
  () => workspace.view,
  () => {
    if (small.value) railIsOpen.value = false;
  },
);

useAddress();
watch(
  () => workspace.name,
  (name) => {
    document.title = name === '' ? 'Brisk Heron' : `${name} · Brisk Heron`;
  },
);
const shown = computed(() => workspace.questions.find(({ id }) => id === workspace.view)?.view);
onBeforeUnmount(() => workspace.close());
</script>

<template>
  <div class="workspace">
    <VerdictLine :with-rail="small" @rail="railIsOpen = !railIsOpen" />
    <RibbonChart v-show="workspace.ribbon && !isInstant" />
    <v-alert
      v-if="workspace.overview?.missing"
      type="warning"
      class="told"
      data-test="missing"
      :text="workspace.overview.missing"
    />
    <v-alert v-if="workspace.warning" type="warning" class="told" :text="workspace.warning" />
    <v-alert v-if="workspace.failure && workspace.overview" type="error" class="told" data-test="failure"
      >{{ workspace.failure }}
      <v-btn variant="plain" @click="workspace.reopen()">open the recording again</v-btn></v-alert
    >
    <div v-else-if="workspace.failure" class="state" role="alert" data-test="failure">
      <h2>This recording cannot be shown</h2>
      <p>{{ workspace.failure }}</p>
      <v-btn to="/">All recordings</v-btn>
    </div>
    <div v-if="isEmpty" class="state" data-test="greeting">
      <h2>Only a greeting came</h2>
      <p>
        The program was recorded, and ended or was cut off before anything was told: no collection, no sample, no size.
        Record it for longer, or look whether it ended at once: <code>./heron record -- node app.js</code>
      </p>
      <v-btn to="/">All recordings</v-btn>
    </div>
    <div v-else-if="!workspace.failure && (workspace.loading || !workspace.overview)" class="state" data-test="loading">
      <ProgressLine
        v-if="workspace.loading && !(workspace.link === 'ended' && workspace.durationMs === 0)"
        :progress="workspace.loading"
      />
      <p v-if="workspace.link === 'live' || workspace.link === 'waiting' || workspace.link === 'behind'" class="quiet">
        Waiting for the program's first lines …
      </p>
      <div v-else-if="workspace.link === 'ended' && workspace.durationMs === 0" data-test="silent">
        <h2>Nothing was recorded</h2>
        <p>
          The command {{ workspace.endedHow }}, and no Node or Java program in it was recorded. Did it start one in a
          container, under another user, with an environment of its own, or as a service? Record that program itself, or
          one that runs already with <code>./heron attach PID</code>.
        </p>
      </div>
      <p v-else-if="workspace.link === 'disconnected'" class="quiet">
        The server is not reached. Nothing of this recording is in this browser yet; trying again.
      </p>
    </div>
    <v-layout v-if="workspace.overview && !workspace.loading" class="regions">
      <v-navigation-drawer
        v-model="railIsOpen"
        :permanent="!small"
        :temporary="small"
        :width="display.width.value > WIDE ? 232 : 190"
        disable-resize-watcher
        class="left"
      >
        <div class="left-inner"><QuestionRail /><MarkControl v-if="workspace.isLive" /></div>
      </v-navigation-drawer>
      <v-main scrollable tag="main" class="view-region" :aria-busy="workspace.isBusy">
        <v-progress-linear
          v-if="workspace.isBusy && !workspace.isLive"
          class="busy"
          indeterminate
          height="2"
          aria-label="Counting"
          data-test="busy"
        />
        <component :is="shown" />
      </v-main>
      <EvidenceDrawer v-if="workspace.selection" />
    </v-layout>
  </div>
</template>

<style scoped>
.workspace {
  height: 100vh;
  height: 100dvh;
  display: flex;
  flex-direction: column;
}
.workspace > :deep(*) {
  flex: none;
}
.workspace > .regions {
  flex: 1 1 0;
  min-height: 0;
  overflow: hidden;
}
.left-inner {
  min-height: 100%;
  display: flex;
  flex-direction: column;
}
.view-region :deep(> .v-main__scroller) {
  display: block;
  container-type: inline-size;
}
/* Over the view, so that nothing moves. */
.busy {
  position: sticky;
  top: 0;
  z-index: 40;
  margin-bottom: -2px;
}
.state {
  padding: 60px 24px;
  max-width: 640px;
  margin: 0 auto;
  width: 100%;
}
.told {
  margin: 6px 20px;
}
</style>
