<script setup lang="ts">
import type { ComparisonAnswer, RibbonAnswer, Span } from '@brisk-heron/core';
import { computed } from 'vue';
import SideRibbon from './SideRibbon.vue';
import { type TwoRibbonAnswers, useChanges } from './changes-state.ts';

/** Both sides as ribbons, one above the other on one scale of time and of memory. */
const props = defineProps<{ ribbons: TwoRibbonAnswers; answer: ComparisonAnswer }>();
const changes = useChanges();
const mostBytes = computed(() => Math.max(props.ribbons.a.peakBytes, props.ribbons.b.peakBytes));
const sides = computed<
  readonly { readonly which: 'a' | 'b'; readonly ribbon: RibbonAnswer; readonly span: Span; readonly name: string }[]
>(() => [
  { which: 'a', ribbon: props.ribbons.a, span: props.answer.a.span, name: props.answer.a.name },
  { which: 'b', ribbon: props.ribbons.b, span: props.answer.b.span, name: props.answer.b.name },
]);
</script>

<template>
  <div data-test="two-ribbons">
    <SideRibbon
      v-for="{ which, ribbon, span, name } in sides"
      :key="which"
      :which="which"
      :name="name"
      :ribbon="ribbon"
      :span="span"
      :most-bytes="mostBytes"
      @choose="(chosen) => changes.chooseSpan(which, chosen)"
    />
  </div>
</template>
