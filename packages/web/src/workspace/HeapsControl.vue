<script setup lang="ts">
import { computed } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';

/** Which of several heaps are looked at: each apart, some, or all added up. Holds for every view. */
const workspace = useWorkspace();
const names = computed(() => workspace.overview?.heaps ?? []);
const chosen = computed(() => workspace.overview?.chosenHeaps ?? names.value.map((_, heapId) => heapId));

function toggle(heapId: number): void {
  const next = chosen.value.includes(heapId)
    ? chosen.value.filter((each) => each !== heapId)
    : [...chosen.value, heapId].sort((a, b) => a - b);
  // None at all would be no question.
  if (next.length > 0) void workspace.chooseHeaps(next.length === names.value.length ? null : next);
}
</script>

<template>
  <v-menu v-if="names.length > 1" :close-on-content-click="false" max-height="60vh">
    <template #activator="{ props: activator }">
      <v-btn v-bind="activator" variant="plain" data-test="heaps">{{
        chosen.length === names.length ? `${names.length} heaps` : `${chosen.length} of ${names.length} heaps`
      }}</v-btn>
    </template>
    <v-list aria-label="Heaps looked at">
      <v-list-item v-for="(name, heapId) in names" :key="heapId">
        <v-checkbox-btn
          :label="name"
          :model-value="chosen.includes(heapId)"
          :disabled="chosen.length === 1 && chosen.includes(heapId)"
          @update:model-value="toggle(heapId)"
        />
        <template #append>
          <v-btn variant="plain" class="quiet" :aria-label="`Only ${name}`" @click="workspace.chooseHeaps([heapId])">
            only
          </v-btn>
        </template>
      </v-list-item>
      <v-list-item><v-btn variant="plain" @click="workspace.chooseHeaps(null)">all of them</v-btn></v-list-item>
    </v-list>
  </v-menu>
</template>
