<script setup lang="ts" generic="T extends string">
/** A setting inside a line of text: a small list to choose from. */
defineProps<{ value: T; options: readonly (readonly [T, string])[]; label: string }>();
const emit = defineEmits<{ choose: [value: T] }>();
</script>

<template>
  <select
    class="field"
    :aria-label="label"
    :value="value"
    @change="emit('choose', ($event.target as HTMLSelectElement).value as T)"
  >
    <option v-for="[each, text] in options" :key="each" :value="each">{{ text }}</option>
  </select>
</template>
