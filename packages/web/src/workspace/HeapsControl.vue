<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { useWorkspace } from '../stores/workspace.ts';

/** Which of several heaps are looked at: each apart, some, or all added up. Holds for every view. */
const workspace = useWorkspace();
const names = computed(() => workspace.overview?.heaps ?? []);
const chosen = computed(() => workspace.overview?.chosenHeaps ?? names.value.map((_, heapId) => heapId));
const isOpen = ref(false);
const frame = ref<HTMLElement | null>(null);

function pressed(event: Event): void {
  if (!(event.target instanceof Node) || frame.value?.contains(event.target) !== true) isOpen.value = false;
}
onMounted(() => document.addEventListener('pointerdown', pressed));
onBeforeUnmount(() => document.removeEventListener('pointerdown', pressed));

function toggle(heapId: number): void {
  const next = chosen.value.includes(heapId)
    ? chosen.value.filter((each) => each !== heapId)
    : [...chosen.value, heapId].sort((a, b) => a - b);
  // None at all would be no question.
  if (next.length > 0) void workspace.chooseHeaps(next.length === names.value.length ? null : next);
}
</script>

<template>
  <span v-if="names.length > 1" ref="frame" class="heaps" @keydown.esc="isOpen = false">
    <button type="button" class="linklike" :aria-expanded="isOpen" data-test="heaps" @click="isOpen = !isOpen">
      {{ chosen.length === names.length ? `${names.length} heaps` : `${chosen.length} of ${names.length} heaps` }}
    </button>
    <span v-if="isOpen" class="list" role="group" aria-label="Heaps looked at">
      <label v-for="(name, heapId) in names" :key="heapId"
        ><input
          type="checkbox"
          :checked="chosen.includes(heapId)"
          :disabled="chosen.length === 1 && chosen.includes(heapId)"
          @change="toggle(heapId)"
        />
        {{ name }}
        <button
          type="button"
          class="linklike quiet"
          :aria-label="`Only ${name}`"
          @click="workspace.chooseHeaps([heapId])"
        >
          only
        </button></label
      >
      <button type="button" class="linklike" @click="workspace.chooseHeaps(null)">all of them</button>
    </span>
  </span>
</template>

<style scoped>
.heaps {
  position: relative;
}
.list {
  position: absolute;
  z-index: 30;
  left: 0;
  top: 22px;
  display: flex;
  flex-direction: column;
  gap: 3px;
  background: var(--paper);
  border: 1px solid var(--ink-2);
  padding: 7px 11px;
  white-space: nowrap;
  max-height: 60vh;
  overflow: auto;
  color: var(--ink);
}
label {
  display: flex;
  gap: 7px;
  align-items: baseline;
}
label button {
  margin-left: auto;
  padding-left: 12px;
}
input {
  accent-color: var(--kept);
}
.list > button {
  align-self: flex-start;
}
</style>
