<script setup lang="ts">
import { formatDuration } from '@brisk-heron/core';
import { shortRuntime } from '../components/figures.ts';
import type { Sample } from '../stores/server-lists.ts';
import RecordingStrip from '../components/RecordingStrip.vue';

/** Recordings that the server offers, each with what there is to find in it. */
defineProps<{ samples: readonly Sample[] }>();
const emit = defineEmits<{ take: [sample: Sample] }>();
</script>

<template>
  <ul>
    <li v-for="sample in samples" :key="sample.file">
      <div class="head">
        <v-btn variant="plain" :data-sample="sample.file" @click="emit('take', sample)">{{ sample.title }}</v-btn>
        <RecordingStrip v-if="sample.strip.length > 0" :values="sample.strip" :width="64" :height="18" />
      </div>
      <p v-if="sample.about" class="quiet">{{ sample.about }}</p>
      <p v-if="sample.runtime" class="quiet condensed">
        {{ shortRuntime(sample.runtime) }}, {{ formatDuration(sample.durationMs) }}
      </p>
    </li>
  </ul>
</template>

<style scoped>
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 0 28px;
  list-style: none;
  padding: 0;
  margin: 4px 0;
}
li {
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
}
.head {
  display: flex;
  align-items: end;
  justify-content: space-between;
  gap: 10px;
  font-weight: 500;
}
p {
  margin: 2px 0 0;
  font-size: 12.5px;
  line-height: 1.35;
}
</style>
