<script setup lang="ts">
import type { Charge } from '@brisk-heron/core';
import { CHARGE_WORDS } from '../components/figures.ts';
import { useWorkspace } from '../stores/workspace.ts';
import OwnRules from './OwnRules.vue';

/** What allocations are counted under, in every view alike. */
defineProps<{ text?: string }>();
const workspace = useWorkspace();
</script>

<template>
  <label class="quiet"
    >{{ text ?? 'charged to' }}
    <select
      class="field"
      data-test="charge"
      :value="workspace.charge"
      @change="workspace.chargeTo(($event.target as HTMLSelectElement).value as Charge)"
    >
      <option v-for="charge in workspace.overview?.charges ?? []" :key="charge" :value="charge">
        {{ CHARGE_WORDS[charge] }}
      </option>
    </select>
  </label>
  {{ ' ' }}
  <OwnRules v-if="workspace.charge === 'ownFrame' && !text" />
</template>
