<script setup lang="ts">
import { computed } from 'vue';
import { wordOf } from './words.ts';

/** What a term means, in a sentence, beside what it stands in when pointer or focus rest there. */
const props = defineProps<{ word: string }>();
const told = computed(() => wordOf(props.word));
</script>

<template>
  <v-tooltip v-if="told" :aria-label="told.meaning" activator="parent" location="bottom" open-on-focus
    ><b>{{ word }}</b
    >: {{ told.meaning }}.</v-tooltip
  >
</template>
