<script setup lang="ts">
import { ref } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';

/** Leaves a mark in the recorded program's time. */
const workspace = useWorkspace();
const label = ref('');
const told = ref('');

async function mark(): Promise<void> {
  const text = label.value.trim() || 'mark';
  told.value = (await workspace.mark(text)) || `“${text}” is on its way`;
  setTimeout(() => { told.value = ''; }, 4000);
}
</script>

<template>
  <form class="mark" @submit.prevent="mark">
    <v-text-field v-model="label" placeholder="label" aria-label="Label of the mark" maxlength="200" />
    <v-btn type="submit" data-test="mark">Mark now</v-btn>
    <span class="told quiet condensed" role="status">{{ told }}</span>
  </form>
</template>

<style scoped>
.mark { display: flex; flex-wrap: wrap; gap: 8px; align-items: end; padding: 8px 14px 10px 26px; border-top: 1px solid var(--rule); }
.mark :deep(input) { font-size: 13px; min-height: 24px; padding: 0; }
.told { width: 100%; min-height: 16px; font-size: 12px; }
</style>
