<script setup lang="ts" generic="T extends string | number">
import { computed } from 'vue';

/** A setting inside a line of text: a small list to choose from. */
const props = defineProps<{ value: T; options: readonly (readonly [T, string])[]; label: string }>();
const emit = defineEmits<{ choose: [value: T] }>();
const items = computed(() =>
  props.options.map(([value, title]) => ({ value, title, props: { 'data-value': String(value) } })),
);
</script>

<template>
  <v-select
    class="inline-select"
    :aria-label="label"
    :items="items"
    item-props="props"
    :model-value="value"
    @update:model-value="(chosen: T) => emit('choose', chosen)"
  />
</template>
