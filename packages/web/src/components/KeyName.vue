<script setup lang="ts">
import type { KeyWords } from '@brisk-heron/core';

/** A charge key in a table: its name, then its place; quiet when it is not the engineer's own. */
defineProps<{ words: KeyWords }>();
</script>

<template>
  <span :title="`${words.name} ${words.place}`"
    ><code :class="{ quiet: !words.isOwn }">{{ words.name }}</code
    >{{ ' ' }} <span class="quiet">{{ words.shortPlace }}</span></span
  >
</template>
