<script setup lang="ts">
import { NAME_RULES, NameRules } from '@brisk-heron/core';
import { computed, ref, watch } from 'vue';
import { useChanges } from './changes-state.ts';

/** What a build changes in names, as it can be seen and edited: one rule a line. */
const changes = useChanges();
const text = ref('');
const lines = computed(() =>
  text.value
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== ''),
);
watch(
  () => changes.rules,
  (rules) => {
    text.value = (rules ?? NAME_RULES).join('\n');
  },
  { immediate: true },
);

const problem = computed(() => {
  try {
    return new NameRules(lines.value) && '';
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
});
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: activator }">
      <v-btn v-bind="activator" variant="plain" data-test="name-rules"
        >{{ changes.rules === null ? 'usual names' : `${changes.rules.length} rules of names` }}
      </v-btn>
    </template>
    <v-card class="card">
      <p class="quiet small">
        Names that a build changes are the same without what these stand for: <code>{hash}</code> letters and digits,
        <code>{version}</code> numbers with dots, <code>{n}</code> a number. One rule a line.
      </p>
      <v-textarea v-model="text" aria-label="Rules of names" rows="8" class="mono" data-test="rule-lines" />
      <p v-if="problem" class="urgent small" role="status" data-test="rule-problem">{{ problem }}</p>
      <v-btn data-test="match-by" :disabled="problem !== ''" @click="changes.matchBy(lines)">Match by these</v-btn
      >{{ ' ' }}
      <v-btn variant="plain" @click="changes.matchBy(null)">the usual</v-btn>
    </v-card>
  </v-menu>
</template>

<style scoped>
.card {
  padding: 10px 14px;
  max-width: 420px;
}
</style>
