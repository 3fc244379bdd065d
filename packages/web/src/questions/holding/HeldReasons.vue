<script setup lang="ts">
import { formatBytes, type ReasonsAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import { useHolding } from './holding-state.ts';

/** What is usual among the reasons why much stays, each with what it rests on and its objects. */
const props = defineProps<{ reasons: ReasonsAnswer }>();
const holding = useHolding();
const title = computed(() => {
  const [first, ...others] = props.reasons.reasons;
  return others.length === 0
    ? `A usual reason: ${first!.sentence}`
    : `${others.length + 1} usual reasons: ${first!.sentence}`;
});
</script>

<template>
  <v-expansion-panels v-if="reasons.reasons.length > 0" class="reasons" data-test="reasons">
    <v-expansion-panel :title="title">
      <v-expansion-panel-text>
        <ul>
          <li v-for="(reason, place) in reasons.reasons" :key="place">
            {{ reason.sentence }}{{ ' ' }}<span class="quiet">{{ reason.advice }}</span
            >{{ ' ' }}
            <v-btn
              variant="plain"
              :title="`Looked for: ${reason.rule}. ${formatBytes(reason.heldBytes)}.`"
              :data-test="`reason-${reason.code}`"
              @click="holding.open(reason.key, { by: 'type', find: reason.find })"
              >its objects</v-btn
            >
          </li>
        </ul>
        <p v-for="note in reasons.notes" :key="note" class="quiet small">{{ note }}</p>
      </v-expansion-panel-text>
    </v-expansion-panel>
  </v-expansion-panels>
</template>

<style scoped>
.reasons {
  margin: 4px 0 6px;
}
ul {
  margin: 0;
  padding-left: 18px;
  max-height: 220px;
  overflow: auto;
}
</style>
