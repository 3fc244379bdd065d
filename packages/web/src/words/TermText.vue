<script setup lang="ts">
import { computed } from 'vue';
import TermTip from './TermTip.vue';
import { slugOf } from './read-words.ts';
import { wordOf } from './words.ts';

/** A term in a line of text that explains itself when the pointer or the focus rests on it. */
const props = defineProps<{ word: string }>();
const told = computed(() => wordOf(props.word));
</script>

<template>
  <router-link
    v-if="told"
    class="term"
    :to="{ path: '/words', hash: `#${slugOf(told.measure || told.word)}` }"
    target="_blank"
    ><slot>{{ word }}</slot
    ><TermTip :word="word" /></router-link
  ><slot v-else>{{ word }}</slot>
</template>

<style scoped>
.term {
  color: inherit;
  text-decoration: underline dotted var(--ink-2);
  text-underline-offset: 3px;
  cursor: help;
}
</style>
