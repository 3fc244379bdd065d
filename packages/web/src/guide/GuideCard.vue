<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { GUIDE_SAMPLES, useGuide } from '../stores/guide.ts';
import { useLibrary } from '../stores/library.ts';
import { useWorkspace } from '../stores/workspace.ts';
import { GUIDE_STEPS } from './guide-steps.ts';

/** Leads through a first investigation beside the real screens; it can be left at any time. */
const guide = useGuide();
const library = useLibrary();
const workspace = useWorkspace();
const router = useRouter();
const isComing = ref(false);
const step = computed(() => (guide.place === null ? null : (GUIDE_STEPS[guide.place] ?? null)));

async function go(place: number): Promise<void> {
  const next = GUIDE_STEPS[place];
  if (next === undefined) return;
  const before = guide.place === null ? null : GUIDE_STEPS[guide.place];
  guide.go(place);
  if (before?.sample === next.sample && workspace.overview !== null) {
    next.show();
    return;
  }
  isComing.value = true;
  const id = await library.openSample(GUIDE_SAMPLES[next.sample]);
  isComing.value = false;
  if (id === null) guide.go(null);
  else await router.push({ name: 'recording', params: { id, view: 'growth' } });
}

// The look of a step is of a recording that has answered.
watch(
  () => workspace.overview !== null && workspace.ribbon !== null,
  (answered) => {
    if (answered && step.value !== null && guide.place !== 0) step.value.show();
  },
);
</script>

<template>
  <v-card v-if="step" class="guide" role="complementary" aria-label="Start here" data-test="guide">
    <p class="quiet condensed">Start here, {{ guide.place! + 1 }} of {{ GUIDE_STEPS.length }}</p>
    <h2>{{ step.title }}</h2>
    <p aria-live="polite">{{ step.text }}</p>
    <div class="buttons">
      <v-btn v-if="guide.place! > 0" :disabled="isComing" @click="go(guide.place! - 1)">Back</v-btn>
      <v-btn v-if="!guide.isLast" :disabled="isComing" data-test="guide-next" @click="go(guide.place! + 1)">Next</v-btn>
      <v-btn variant="plain" @click="step.show()">show it again</v-btn>
      <v-btn variant="plain" class="leave" data-test="guide-leave" @click="guide.go(null)">{{
        guide.isLast ? 'done' : 'leave'
      }}</v-btn>
    </div>
  </v-card>
</template>

<style scoped>
.guide {
  position: fixed;
  z-index: 1500;
  left: 4px;
  bottom: 8px;
  width: 224px;
  padding: 10px 14px;
  background: var(--paper);
  border: 1.5px solid var(--ink);
  border-radius: 0;
  box-shadow: none;
  font-size: 12.5px;
}
@media (max-width: 1100px) {
  .guide {
    width: min(300px, calc(100vw - 16px));
  }
}
h2 {
  font-size: 15px;
}
p {
  margin: 2px 0 8px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.leave {
  margin-left: auto !important;
}
</style>
