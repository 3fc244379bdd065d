<script setup lang="ts">
import { readFind } from '@brisk-heron/core';
import { computed } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';

/** One field for every view and the ribbon: what it does not let through is counted nowhere. */
const workspace = useWorkspace();
const problem = computed(() => readFind(workspace.find ?? '').problem);
</script>

<template>
  <v-text-field
    v-model="workspace.find" class="find" placeholder="Find a function, file or type …" aria-label="Find a function, file or type" clearable data-test="find" hide-details="auto" :error-messages="problem"
    title="Words are found anywhere; type=byte[], file=, function=, package= or thread= in one place; !word is what must not be there"
  />
</template>

<style scoped>
.find { flex: 0 1 250px; margin-left: auto; }
.find :deep(input) { font-size: 13px; min-height: 26px; padding-top: 0; }
.find :deep(.v-field__clearable) { padding-top: 0; }
</style>
