<script setup lang="ts">
import { ref, watch } from 'vue';
import type { RecordingRow } from '../db/heron-db.ts';
import { useLibrary } from '../stores/library.ts';

/** Asks for a recording's new name, or whether it is to be deleted. */
const props = defineProps<{ renaming: RecordingRow | null; deleting: RecordingRow | null }>();
const emit = defineEmits<{ done: [] }>();
const library = useLibrary();
const newName = ref('');
watch(
  () => props.renaming,
  (row) => {
    newName.value = row?.name ?? '';
  },
);

async function finishRename(): Promise<void> {
  if (props.renaming !== null && newName.value.trim() !== '')
    await library.rename(props.renaming.id, newName.value.trim());
  emit('done');
}

async function finishDelete(): Promise<void> {
  if (props.deleting !== null) await library.remove(props.deleting.id);
  emit('done');
}
</script>

<template>
  <v-dialog :model-value="renaming !== null" max-width="420" @update:model-value="emit('done')">
    <v-card>
      <form class="dialog" @submit.prevent="finishRename">
        <h2>Rename the recording</h2>
        <v-text-field v-model="newName" aria-label="New name" maxlength="200" autofocus data-test="new-name" />
        <div class="buttons">
          <v-btn type="submit">Rename</v-btn><v-btn variant="text" @click="emit('done')">Leave it</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
  <v-dialog :model-value="deleting !== null" max-width="420" @update:model-value="emit('done')">
    <v-card>
      <div class="dialog">
        <h2>Delete “{{ deleting?.name }}”?</h2>
        <p>It is removed from this browser and cannot be brought back. Export it first to keep it as a file.</p>
        <div class="buttons">
          <v-btn data-test="delete" @click="finishDelete">Delete</v-btn
          ><v-btn variant="text" @click="emit('done')">Keep it</v-btn>
        </div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.dialog {
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 10px;
  margin-top: 14px;
}
</style>
