<script setup lang="ts">
import { ref } from 'vue';
import { saveBlob } from '../save-blob.ts';

/** Takes a table away: to the clipboard, or as a CSV file. */
const props = defineProps<{
  csv: () => string;
  /** Name of the file, without its ending. */
  name: string;
}>();
const TOLD_MS = 3000;
const told = ref('');

async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(props.csv());
    told.value = 'copied';
  } catch {
    told.value = 'the browser keeps the clipboard closed: save as CSV';
  }
  setTimeout(() => {
    told.value = '';
  }, TOLD_MS);
}

const save = (): void => saveBlob(new Blob([props.csv()], { type: 'text/csv' }), `${props.name}.csv`);
</script>

<template>
  <div class="quiet condensed take">
    <slot />
    <span role="status" class="told">{{ told }}</span>
    <slot name="columns" />
    <v-btn variant="plain" @click="copy">copy the table</v-btn>
    <v-btn variant="plain" data-test="csv" @click="save">save as CSV</v-btn>
  </div>
</template>

<style scoped>
.take {
  margin: 5px 0 0;
  font-size: 12px;
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.told {
  margin-left: auto;
}
</style>
