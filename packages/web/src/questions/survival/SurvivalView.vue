<script setup lang="ts">
import type { AgeKind, LifeWeight } from '@brisk-heron/core';
import { computed } from 'vue';
import InlineSelect from '../../components/InlineSelect.vue';
import ChargeControl from '../../look-controls/ChargeControl.vue';
import FindField from '../../look-controls/FindField.vue';
import { useWorkspace } from '../../stores/workspace.ts';
import BirthAgeChart from './BirthAgeChart.vue';
import LifetimesTable from './LifetimesTable.vue';
import PromotionTable from './PromotionTable.vue';
import SurvivalCurves from './SurvivalCurves.vue';
import { type SurvivalMode, useSurvival } from './survival-state.ts';

const workspace = useWorkspace();
const survival = useSurvival();
const hasObjects = computed(() => workspace.overview?.medianLifetime !== null);
const isGcLog = computed(() => workspace.overview?.format !== 'recording');
const missingText = computed(() =>
  isGcLog.value
    ? 'A GC log follows no objects: what survives of which site is not in it. Record the program:'
    : 'No object was seen in this recording yet. Record for longer, or sample more closely:',
);
const MODES: readonly (readonly [SurvivalMode, string])[] = [
  ['curves', 'as curves'],
  ['map', 'by birth and age'],
  ['classes', 'by how they go'],
  ['promotion', 'what is promoted'],
];
const WEIGHTS: readonly (readonly [LifeWeight, string])[] = [
  ['bytes', 'bytes'],
  ['objects', 'objects'],
];
const AGES: readonly (readonly [AgeKind, string])[] = [
  ['seconds', 'by time'],
  ['collections', 'by collections lived through'],
  ['allocated', 'by bytes allocated since'],
];
const SCALES = [
  ['log', 'ages by their logarithm'],
  ['linear', 'ages in equal steps'],
] as const;
</script>

<template>
  <div class="view">
    <div class="view-head">
      <h2>What survives?</h2>
      <FindField v-if="hasObjects" />
    </div>
    <p v-if="!hasObjects" class="quiet" data-test="survival-missing">
      {{ missingText }}
      <code>./heron record -- {{ workspace.overview?.exampleCommand }}</code>
    </p>
    <template v-if="hasObjects || isGcLog">
      <v-btn-toggle
        v-if="hasObjects"
        class="condensed"
        aria-label="How it is shown"
        :model-value="survival.mode"
        @update:model-value="(mode: SurvivalMode) => survival.set({ mode })"
      >
        <v-btn v-for="[mode, text] in MODES" :key="mode" :value="mode" :aria-pressed="survival.mode === mode">{{
          text
        }}</v-btn>
      </v-btn-toggle>
      <p v-if="hasObjects" class="condensed quiet line">
        <template v-if="survival.mode !== 'map'"
          ><ChargeControl /><template v-if="survival.mode === 'curves'"> · </template></template
        >{{ ' ' }}
        <InlineSelect
          v-if="survival.mode === 'curves'"
          label="Measure"
          :value="survival.by"
          :options="WEIGHTS"
          @choose="(by) => survival.set({ by })"
        />{{ ' ' }}
        <InlineSelect
          v-if="survival.mode === 'curves'"
          label="What age is counted in"
          :value="survival.age"
          :options="AGES"
          data-test="age-kind"
          @choose="(age) => survival.set({ age })"
        />{{ ' ' }}
        <InlineSelect
          v-if="survival.mode === 'curves' || survival.mode === 'map'"
          label="Scale of ages"
          :value="survival.isLog ? 'log' : 'linear'"
          :options="SCALES"
          @choose="(scale) => survival.set({ isLog: scale === 'log' })"
        />
      </p>
      <SurvivalCurves v-if="survival.mode === 'curves' && survival.curves && hasObjects" :answer="survival.curves" />
      <BirthAgeChart v-else-if="survival.mode === 'map' && survival.map && hasObjects" :map="survival.map" />
      <LifetimesTable
        v-else-if="survival.mode === 'classes' && survival.classes && hasObjects"
        :answer="survival.classes"
      />
      <PromotionTable v-else-if="survival.promotion" :answer="survival.promotion" :by-key="hasObjects" />
    </template>
  </div>
</template>

<style scoped>
.line {
  margin: 6px 0 4px;
}
</style>
