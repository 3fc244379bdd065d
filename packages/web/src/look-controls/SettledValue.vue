<script setup lang="ts">
import { nextTick, ref } from 'vue';

/**
 * A setting inside a line of text: a link that becomes a field; an empty field goes back to what is taken by itself.
 */
const props = defineProps<{
  /** What is in force, as text. */
  shown: string;
  label: string;
  hint: string;
  /** True when it was typed. */
  typed: boolean;
  /** The value of what was typed, NaN when it is none. */
  parse: (text: string) => number;
}>();
const emit = defineEmits<{ choose: [value: number | null] }>();

const editing = ref(false);
const text = ref('');
const invalid = ref(false);
const field = ref<{ focus(): void } | null>(null);

async function edit(): Promise<void> {
  text.value = props.typed ? props.shown : '';
  invalid.value = false;
  editing.value = true;
  await nextTick();
  field.value?.focus();
}

function settle(): void {
  const value = text.value.trim() === '' ? null : props.parse(text.value);
  invalid.value = value !== null && !(value >= 0);
  if (invalid.value) return;
  editing.value = false;
  if (value !== null || props.typed) emit('choose', value);
}
</script>

<template>
  <v-btn v-if="!editing" variant="plain" :title="hint" @click="edit">{{ shown }}</v-btn>
  <v-text-field
    v-else
    ref="field"
    v-model="text"
    class="inline-field setting"
    :aria-label="label"
    :error="invalid"
    :aria-invalid="invalid"
    :placeholder="hint"
    :title="hint"
    @keydown.enter="settle"
    @keydown.esc.stop="editing = false"
    @blur="settle"
  />
</template>

<style scoped>
.setting {
  width: 150px;
}
</style>
