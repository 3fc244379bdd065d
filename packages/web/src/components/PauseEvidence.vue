<script setup lang="ts">
import { formatBytes, formatClock, formatDuration } from '@brisk-heron/core';
import type { CollectionDetail } from '../workers/answers/collections.ts';
import { exactBytes } from './figures.ts';

defineProps<{ detail: CollectionDetail }>();
const size = (bytes: number | null): string => (bytes === null ? 'not told' : formatBytes(bytes));
</script>

<template>
  <div>
    <h2>{{ detail.label }}</h2>
    <p class="quiet place">{{ detail.scope }}{{ detail.cause && !detail.label.includes(detail.cause) ? ` · ${detail.cause}` : '' }}{{ detail.line === null ? '' : ` · log line ${detail.line}` }}</p>
    <p v-if="detail.own" class="note">Forced by the recorder to see what survives. It is left out of the program's pauses; what it leaves is a floor point.</p>
    <p v-if="detail.explicit" class="note">Asked for by the program itself.</p>
    <table class="dense facts">
      <tbody>
        <tr><td>began</td><td>{{ formatClock(detail.startMs, true) }}</td></tr>
        <tr><td>stopped the program</td><td data-test="pause-length">{{ formatDuration(detail.durationMs) }}</td></tr>
        <tr><td>used before</td><td :title="exactBytes(detail.usedBeforeBytes ?? NaN)">{{ size(detail.usedBeforeBytes) }}</td></tr>
        <tr><td>used after</td><td :title="exactBytes(detail.usedAfterBytes ?? NaN)">{{ size(detail.usedAfterBytes) }}</td></tr>
        <tr><td>committed after</td><td>{{ size(detail.capacityBytes) }}</td></tr>
        <tr><td>promoted</td><td>{{ size(detail.promotedBytes) }}</td></tr>
      </tbody>
    </table>
    <template v-if="detail.spaces.length > 0">
      <h3>Spaces</h3>
      <table class="dense facts">
        <thead><tr><th scope="col">space</th><th scope="col">before</th><th scope="col">after</th></tr></thead>
        <tbody><tr v-for="space in detail.spaces" :key="space.name"><td>{{ space.name }}</td><td>{{ formatBytes(space.beforeBytes) }}</td><td>{{ formatBytes(space.afterBytes) }}</td></tr></tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.place { margin: 1px 0 10px; }
h2 { padding-right: 44px; font-size: 15px; }
h3 { margin: 14px 0 4px; }
.facts td { padding: 2px 4px; }
.facts td:first-child { color: var(--ink-2); }
.note { border-left: 3px solid var(--rule); padding-left: 8px; }
</style>
