<script setup lang="ts">
import { COMPARED, type Per, PERS } from '@brisk-heron/core';
import { computed } from 'vue';
import InlineSelect from '../../components/InlineSelect.vue';
import ChargeControl from '../../look-controls/ChargeControl.vue';
import FindField from '../../look-controls/FindField.vue';
import FigureChanges from './FigureChanges.vue';
import KeyChanges from './KeyChanges.vue';
import NameRuleList from './NameRuleList.vue';
import PathChangeOutline from './PathChangeOutline.vue';
import PathChangePicture from './PathChangePicture.vue';
import PausesOfBoth from './PausesOfBoth.vue';
import SidePicker from './SidePicker.vue';
import TwoRibbons from './TwoRibbons.vue';
import { type Alignment, type ChangesMode, useChanges } from './changes-state.ts';
import { PER_WORDS } from './changes-words.ts';

const changes = useChanges();
const answer = computed(() => changes.answer);
const MODES: readonly (readonly [ChangesMode, string])[] = [
  ['figures', 'figures'],
  ['keys', 'by key'],
  ['paths', 'as call paths'],
  ['picture', 'as a picture'],
  ['pauses', 'pauses of both'],
  ['ribbons', 'ribbons of both'],
];
const OF_WORDS = { growth: 'what they add', allocated: 'what they allocate', kept: 'what they keep' } as const;
const ofOptions = COMPARED.map((of) => [of, OF_WORDS[of]] as const);
const perOptions = computed(() => {
  const known = new Set((answer.value?.figures ?? []).map(({ per }) => per));
  return PERS.filter((per: Per) => known.has(per)).map((per) => [per, PER_WORDS[per]] as const);
});
const alignments = computed<(readonly [Alignment, string])[]>(() => [
  ['start', 'beside each other from their starts'],
  ...((answer.value?.roundLabels.length ?? 0) > 0
    ? [['mark', `beside each other at the first “${answer.value!.roundLabels[0]}”`] as const]
    : []),
  ['hand', 'beside each other by hand'],
]);
// Seconds by which the start of B stands later than that of A.
function shift(text: string): void {
  const seconds = Number(text.trim().replace('−', '-'));
  if (text.trim() !== '' && Number.isFinite(seconds)) changes.set({ shiftMs: seconds * 1000 });
}
const isTree = computed(() => changes.mode === 'paths' || changes.mode === 'picture');
const FATES = [
  ['all', 'all'],
  ['kept', 'kept'],
  ['died', 'died'],
] as const;
const DIRECTIONS = [
  ['entry', 'from the entry'],
  ['allocation', 'from the allocation'],
] as const;
const hasKeys = computed(() => (answer.value?.keyCount ?? 0) > 0);
</script>

<template>
  <div class="view">
    <div class="view-head">
      <h2>What changed?</h2>
      <FindField v-if="answer && (changes.mode === 'keys' || isTree) && hasKeys" />
    </div>
    <SidePicker />
    <p v-if="changes.problem" class="urgent" role="status" data-test="changes-problem">{{ changes.problem }}.</p>
    <template v-if="answer">
      <p class="said" data-test="changes-sentence">{{ answer.sentence }}</p>
      <p v-for="note in answer.notes" :key="note" class="quiet small">{{ note }}</p>
      <v-btn-toggle
        class="condensed"
        aria-label="How it is shown"
        :model-value="changes.mode"
        @update:model-value="(mode: ChangesMode) => changes.set({ mode })"
      >
        <v-btn v-for="[mode, text] in MODES" :key="mode" :value="mode" :aria-pressed="changes.mode === mode">{{
          text
        }}</v-btn>
      </v-btn-toggle>
      <p class="condensed quiet line">
        <template v-if="changes.mode === 'figures'">
          amounts{{ ' ' }}
          <InlineSelect
            label="What amounts are per"
            :value="changes.per"
            :options="perOptions"
            data-test="changes-per"
            @choose="(per) => changes.set({ per })"
          />
        </template>
        <template v-else-if="changes.mode === 'keys' && hasKeys">
          <ChargeControl /> · by{{ ' ' }}
          <InlineSelect
            label="What of keys is compared"
            :value="changes.of"
            :options="ofOptions"
            data-test="changes-of"
            @choose="(of) => changes.set({ of })"
          />
          · <NameRuleList />
        </template>
        <template v-else-if="isTree && hasKeys">
          <InlineSelect
            label="Fate"
            :value="changes.tree.fate"
            :options="FATES"
            @choose="(fate) => changes.tree.grow(changes.tree.direction, fate)"
          />{{ ' ' }}
          <InlineSelect
            label="Direction"
            :value="changes.tree.direction"
            :options="DIRECTIONS"
            data-test="changes-direction"
            @choose="(way) => changes.tree.grow(way, changes.tree.fate)"
          />
          <template v-if="changes.tree.paths?.perSecond"> · a second</template>
        </template>
        <template v-else-if="changes.mode === 'ribbons'">
          <InlineSelect
            label="Where the two stand beside each other"
            :value="changes.align"
            :options="alignments"
            data-test="changes-align"
            @choose="(align) => changes.set({ align })"
          />
          <template v-if="changes.align === 'hand'">
            : B starts{{ ' ' }}
            <v-text-field
              class="shift"
              type="number"
              step="1"
              aria-label="Seconds by which B starts after A"
              data-test="changes-shift"
              :model-value="changes.shiftMs / 1000"
              @update:model-value="(text: string | number | null) => shift(String(text ?? ''))"
            />
            s after A
          </template>
          · dragging chooses a side's span, Escape all of it
        </template>
      </p>
      <FigureChanges v-if="changes.mode === 'figures'" :answer="answer" :per="changes.per" />
      <KeyChanges v-else-if="changes.mode === 'keys' && hasKeys" :answer="answer" />
      <p v-else-if="(changes.mode === 'keys' || isTree) && !hasKeys" class="quiet">
        A GC log tells no allocation sites: where one side is a log, figures alone can be compared.
      </p>
      <PathChangeOutline v-else-if="changes.mode === 'paths' && changes.tree.paths" :answer="changes.tree.paths" />
      <PathChangePicture v-else-if="changes.mode === 'picture' && changes.tree.paths" :answer="changes.tree.paths" />
      <PausesOfBoth v-else-if="changes.mode === 'pauses'" :answer="answer" />
      <TwoRibbons v-else-if="changes.ribbons" :ribbons="changes.ribbons" :answer="answer" />
    </template>
    <p v-else-if="!changes.problem && changes.otherId === ''" class="quiet small" data-test="changes-empty">
      Two sides are compared: this recording and another one of this browser, or two spans of this one. What is chosen
      above says which came before. On the command line: <code>./heron compare before.heron after.heron</code>
    </p>
  </div>
</template>

<style scoped>
.said {
  font-size: 16px;
  line-height: 1.35;
  margin: 8px 0 4px;
  max-width: 1100px;
}
.shift {
  display: inline-block;
  width: 84px;
}
.line {
  margin: 6px 0 4px;
  min-height: 22px;
}
</style>
