<script setup lang="ts">
import { formatClock, HELD_BY, type HoldingAnswer, isByBirth } from '@brisk-heron/core';
import { computed, onMounted } from 'vue';
import InlineSelect from '../../components/InlineSelect.vue';
import { useLibrary } from '../../stores/library.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { heldByWords } from './held-by-words.ts';
import { type HoldingBefore, useHolding } from './holding-state.ts';

/** Which inventory is looked at, by what its objects are told together, and what it is compared with. */
const props = defineProps<{ answer: HoldingAnswer }>();
const holding = useHolding();
const workspace = useWorkspace();
const library = useLibrary();
onMounted(() => library.listen());

/** Where nothing was sampled, by what objects are alone. */
const byOptions = computed(() =>
  HELD_BY.filter((by) => by === holding.by || !isByBirth(by) || isJoined.value).map(
    (by) => [by, heldByWords(by)] as const,
  ),
);
const isJoined = computed(() => (props.answer.inventories[props.answer.at]?.sampled ?? 0) > 0);

const taken = computed(() => {
  const heaps = new Set(props.answer.inventories.map(({ heap }) => heap));
  return props.answer.inventories.map(
    ({ tMs, heap }, at) => [at, `${at + 1}, of ${formatClock(tMs)}${heaps.size > 1 ? `, ${heap}` : ''}`] as const,
  );
});
const id = (before: HoldingBefore | null): string => (before === null ? '' : `${before.recording} ${before.at ?? ''}`);
const befores = computed<readonly (HoldingBefore & { readonly words: string })[]>(() => [
  ...taken.value
    .filter(([at]) => at !== props.answer.at)
    .map(([at, words]) => ({ recording: workspace.recordingId, at, words: `inventory ${words}` })),
  ...(library.recordings ?? [])
    .filter((row) => row.id !== workspace.recordingId && !row.importing)
    .map((row) => ({ recording: row.id, at: null, words: row.name })),
]);
const beforeOptions = computed(() => [
  ['', 'nothing'] as const,
  ...befores.value.map((each) => [id(each), each.words] as const),
]);
function compareWith(wanted: string): void {
  const found = befores.value.find((each) => id(each) === wanted);
  holding.set({ before: found === undefined ? null : { recording: found.recording, at: found.at } });
}
</script>

<template>
  <span>
    <template v-if="taken.length > 1"
      >Inventory{{ ' '
      }}<InlineSelect
        label="Which inventory"
        :value="answer.at"
        :options="taken"
        data-test="held-at"
        @choose="(at) => holding.set({ at })"
      />{{ ' ' }}</template
    >
    by{{ ' '
    }}<InlineSelect
      label="By"
      :value="holding.by"
      :options="byOptions"
      data-test="held-by"
      @choose="(by) => holding.set({ by })"
    />{{ ' ' }} compared with{{ ' '
    }}<InlineSelect
      label="Compared with"
      :value="id(holding.before)"
      :options="beforeOptions"
      data-test="held-before"
      @choose="compareWith"
    />
  </span>
</template>
