<script setup lang="ts">
import { ref, watch } from 'vue';
import type { RecordingRow } from '../db/heron-db.ts';
import { useLibrary } from '../stores/library.ts';

/** Asks for a recording's new name, or whether it is to be deleted. */
const props = defineProps<{ renaming: RecordingRow | null; deleting: readonly RecordingRow[] }>();
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
  for (const { id } of props.deleting) await library.remove(id);
  emit('done');
}
</script>

<template>
  <v-dialog
    :model-value="renaming !== null"
    aria-label="Rename the recording"
    max-width="420"
    @update:model-value="emit('done')"
  >
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
  <v-dialog
    :model-value="deleting.length > 0"
    aria-label="Delete recordings"
    max-width="420"
    @update:model-value="emit('done')"
  >
    <v-card>
      <div class="dialog">
        <h2>{{ deleting.length > 1 ? `Delete ${deleting.length} recordings?` : `Delete “${deleting[0]?.name}”?` }}</h2>
        <p>
          {{ deleting.length > 1 ? 'They are' : 'It is' }} removed from this browser and cannot be brought back. Export
          first what you want to keep.
        </p>
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
