<script setup lang="ts">
import { formatBytes } from '@brisk-heron/core';
import { shortRuntime } from '../components/figures.ts';
import { liveId, type ServerStream } from '../stores/library.ts';
import { when } from './when.ts';

/**
 * Streams of the server, each a way into its recording. `since` and `recorded` are what two of its columns are called.
 */
defineProps<{ streams: readonly ServerStream[]; since: string; recorded: string; live?: boolean }>();
</script>

<template>
  <v-table class="dense">
    <thead>
      <tr>
        <th scope="col">program</th>
        <th scope="col" class="text">runtime</th>
        <th scope="col">{{ since }}</th>
        <th scope="col">{{ recorded }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="stream in streams" :key="stream.id">
        <td class="wide">
          <router-link
            :class="{ live }"
            :to="{ name: 'recording', params: { id: liveId(stream.id), view: 'growth' } }"
            >{{ stream.name }}</router-link
          >
        </td>
        <td class="text">{{ shortRuntime(stream.runtime) }}</td>
        <td>{{ when(stream.startedEpochMs) }}</td>
        <td>{{ formatBytes(stream.bytes) }}</td>
      </tr>
    </tbody>
  </v-table>
</template>

<style scoped>
.live::before {
  content: '';
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 7px;
  border-radius: 50%;
  background: var(--attention);
}
</style>
