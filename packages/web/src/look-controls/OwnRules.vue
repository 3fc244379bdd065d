<script setup lang="ts">
import { computed, nextTick, ref } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';

/** What counts as the engineer's own code: a link that becomes a field. Stored with the recording. */
const workspace = useWorkspace();
const editing = ref(false);
const text = ref('');
const field = ref<{ focus(): void } | null>(null);
const HINT =
  'folders, packages or patterns with *, separated by commas; !folder for what is not; empty: by the usual rules';

const told = computed(() => {
  const rules = workspace.notebook.ownRules ?? workspace.overview?.ownRules ?? [];
  return `What is your own code: ${rules.join(', ') || 'all but the runtime and dependencies'}`;
});

async function edit(): Promise<void> {
  text.value = (workspace.notebook.ownRules ?? workspace.overview?.ownRules ?? []).join(', ');
  editing.value = true;
  await nextTick();
  field.value?.focus();
}

function settle(): void {
  if (!editing.value) return;
  editing.value = false;
  const rules = text.value
    .split(',')
    .map((rule) => rule.trim())
    .filter((rule) => rule !== '');
  workspace.writeNotebook({ ownRules: rules.length === 0 ? null : rules });
}
</script>

<template>
  <v-btn v-if="!editing" variant="plain" :title="told" data-test="own" @click="edit">
    {{ workspace.notebook.ownRules ? 'by your rules' : 'by usual rules' }}
  </v-btn>
  <v-text-field
    v-else
    ref="field"
    v-model="text"
    class="inline-field rules"
    aria-label="Rules for your own code"
    :placeholder="HINT"
    :title="HINT"
    @keydown.enter="settle"
    @keydown.esc.stop="editing = false"
    @blur="settle"
  />
</template>

<style scoped>
.rules {
  width: 260px;
}
</style>
