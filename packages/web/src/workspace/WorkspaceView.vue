<script setup lang="ts">
import { computed, onBeforeUnmount, watch } from 'vue';
import ProgressLine from '../components/ProgressLine.vue';
import { useWorkspace } from '../stores/workspace.ts';
import EvidenceDrawer from './EvidenceDrawer.vue';
import MarkControl from './MarkControl.vue';
import QuestionRail from './QuestionRail.vue';
import RibbonChart from './RibbonChart.vue';
import VerdictLine from './VerdictLine.vue';
import { useAddress } from './use-address.ts';

const workspace = useWorkspace();

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
  <v-main tag="div" class="workspace">
    <VerdictLine />
    <RibbonChart v-show="workspace.ribbon" />
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
      <button type="button" class="linklike" @click="workspace.reopen()">open the recording again</button></v-alert
    >
    <div v-else-if="workspace.failure" class="state" role="alert" data-test="failure">
      <h2>This recording cannot be shown</h2>
      <p>{{ workspace.failure }}</p>
      <v-btn to="/">All recordings</v-btn>
    </div>
    <div v-if="!workspace.failure && (workspace.loading || !workspace.overview)" class="state" data-test="loading">
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
    <div v-if="workspace.overview && !workspace.loading" class="regions">
      <div class="left"><QuestionRail /><MarkControl v-if="workspace.isLive" /></div>
      <main class="view-region" :aria-busy="workspace.isBusy">
        <v-progress-linear
          v-if="workspace.isBusy && !workspace.isLive"
          class="busy"
          indeterminate
          height="2"
          aria-label="Counting"
          data-test="busy"
        />
        <component :is="shown" />
      </main>
      <EvidenceDrawer v-if="workspace.selection" />
    </div>
  </v-main>
</template>

<style scoped>
.workspace {
  height: 100vh;
}
.workspace :deep(> *) {
  flex: none;
}
.workspace {
  display: flex;
  flex-direction: column;
}
.regions {
  flex: 1 1 0 !important;
  min-height: 0;
  display: flex;
}
.left {
  width: 232px;
  flex: none;
  display: flex;
  flex-direction: column;
  border-right: 1px solid var(--rule);
  min-height: 0;
}
.left > :first-child {
  flex: 1;
  border-right: 0;
  min-height: 0;
}
.view-region {
  flex: 1;
  min-width: 0;
  overflow: auto;
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
@media (max-width: 1100px) {
  .left {
    width: 190px;
  }
}
</style>
