<script setup lang="ts">
import { computed } from 'vue';
import InlineSelect from '../components/InlineSelect.vue';
import { CHARGE_WORDS } from '../components/figures.ts';
import { useWorkspace } from '../stores/workspace.ts';
import TermText from '../words/TermText.vue';
import OwnRules from './OwnRules.vue';

/** What allocations are counted under, in every view alike. */
defineProps<{ text?: string }>();
const workspace = useWorkspace();
const options = computed(() =>
  (workspace.overview?.charges ?? []).map((charge) => [charge, CHARGE_WORDS[charge]] as const),
);
</script>

<template>
  <span class="quiet"
    ><TermText word="charge">{{ text ?? 'charged to' }}</TermText
    >{{ ' ' }}
    <InlineSelect
      data-test="charge"
      label="Charged to"
      :value="workspace.charge"
      :options="options"
      @choose="workspace.chargeTo"
    />
  </span>
  {{ ' ' }}
  <OwnRules v-if="workspace.charge === 'ownFrame' && !text" />
</template>
