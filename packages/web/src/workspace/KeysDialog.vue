<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import type { KeyWords } from '../stores/question.ts';
import { useWorkspace } from '../stores/workspace.ts';

/** The keys of the page and of the view that is shown; `?` opens it from anywhere but a field. */
const workspace = useWorkspace();
const isOpen = ref(false);

const EVERYWHERE: readonly KeyWords[] = [
  ['?', 'this list'],
  ['m', 'a mark, while the program runs'],
  ['Escape', 'closes the drawer, from within it'],
];
const RIBBON: readonly KeyWords[] = [
  ['← →', 'moves the window'],
  ['+ −', 'zooms in and out'],
  ['Home', 'all of the recording'],
  ['Shift ← →', 'a span, and its length'],
  ['Escape', 'no span'],
  ['Enter', 'what lived at the end of the span'],
];
const question = computed(() => workspace.questions.find(({ id }) => id === workspace.view));
const parts = computed(() => [
  { title: 'Everywhere', keys: EVERYWHERE },
  { title: 'On the ribbon', keys: RIBBON },
  ...(question.value?.keys ? [{ title: question.value.title, keys: question.value.keys }] : []),
]);

function key(event: KeyboardEvent): void {
  const inField =
    event.target instanceof HTMLElement && event.target.closest('input, select, textarea, [contenteditable]') !== null;
  if (event.key !== '?' || inField || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  isOpen.value = true;
}
onMounted(() => document.addEventListener('keydown', key));
onBeforeUnmount(() => document.removeEventListener('keydown', key));
</script>

<template>
  <v-dialog v-model="isOpen" max-width="460" aria-label="Keys">
    <template #activator="{ props: activator }">
      <v-btn v-bind="activator" variant="plain" class="quiet" title="Key ?" data-test="keys">keys</v-btn>
    </template>
    <v-card class="keys" data-test="keys-list">
      <section v-for="part in parts" :key="part.title">
        <h3>{{ part.title }}</h3>
        <dl>
          <template v-for="[pressed, meaning] in part.keys" :key="pressed">
            <dt>
              <kbd>{{ pressed }}</kbd>
            </dt>
            <dd>{{ meaning }}</dd>
          </template>
        </dl>
      </section>
      <p class="quiet">
        What a word means stands beside it, and all of them
        <router-link to="/words" target="_blank">on a page of their own</router-link>.
      </p>
      <v-btn @click="isOpen = false">Close</v-btn>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.keys {
  padding: 16px 20px;
}
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 3px 10px;
  margin: 4px 0 12px;
}
dd {
  margin: 0;
}
kbd {
  font-family: 'IBM Plex Mono', monospace;
  font-size: 12px;
  border: 1px solid var(--rule);
  padding: 0 4px;
}
.v-btn {
  align-self: flex-start;
}
</style>
