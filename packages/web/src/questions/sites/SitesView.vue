<script setup lang="ts">
import {
  type AllocationRow,
  type Fate,
  formatBytes,
  formatDuration,
  formatPercent,
  NOT_SEEN,
  spanLengthMs,
} from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import InlineSelect from '../../components/InlineSelect.vue';
import KeyName from '../../components/KeyName.vue';
import SmallSeries from '../../components/SmallSeries.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { amountError, CHARGE_WORDS, countText, exactBytes, plusMinus, shortType } from '../../components/figures.ts';
import ChargeControl from '../../look-controls/ChargeControl.vue';
import FindField from '../../look-controls/FindField.vue';
import { useWorkspace } from '../../stores/workspace.ts';
import ChurnTable from './ChurnTable.vue';
import PathOutline from './PathOutline.vue';
import PathPicture from './PathPicture.vue';
import SizesTable from './SizesTable.vue';
import { type SitesMode, useSites } from './sites-state.ts';

const workspace = useWorkspace();
const who = useSites();
const answer = computed(() => who.sites);
const seconds = computed(() => (answer.value === null ? 1 : Math.max(1e-3, answer.value.seenMs / 1000)));
const blindMs = computed(() => (answer.value === null ? 0 : spanLengthMs(answer.value.span) - answer.value.seenMs));
const chosen = computed(() =>
  workspace.selection?.kind === 'key' && workspace.selection.charge === answer.value?.charge
    ? workspace.selection.key
    : null,
);
const counted = computed(() => (answer.value?.rows ?? []).some((row) => row.allocCount > 0));
const unit = computed(() => (who.counted === 'objects' && counted.value ? 'objects' : 'bytes'));

const MODES: readonly (readonly [SitesMode, string])[] = [
  ['keys', 'as a table'],
  ['paths', 'as call paths'],
  ['picture', 'as a picture'],
  ['sizes', 'by size'],
  ['churn', 'as churn'],
];
const FATE_WORDS: Readonly<Record<Fate, string>> = { all: 'allocated', kept: 'kept', died: 'died' };

const bytesOf = (row: AllocationRow): number =>
  ({ all: row.allocBytes, kept: row.keptOfSpanBytes, died: row.diedBytes })[who.fate];
const countOf = (row: AllocationRow): number =>
  ({ all: row.allocCount, kept: row.keptOfSpanCount, died: row.diedCount })[who.fate];
const valueOf = (row: AllocationRow): number => (unit.value === 'bytes' ? bytesOf(row) : countOf(row)) || 0;
const rows = computed(() =>
  [...(answer.value?.rows ?? [])].sort((a, b) => valueOf(b) - valueOf(a)).filter((row) => valueOf(row) > 0),
);
const shareOf = (row: AllocationRow): number =>
  answer.value !== null && answer.value.all > 0 ? valueOf(row) / answer.value.all : 0;
const keptShare = (row: AllocationRow): number =>
  row.allocBytes > 0 ? Math.min(1, row.keptOfSpanBytes / row.allocBytes) : 0;
const bytesSe = (row: AllocationRow): number =>
  ({ all: row.allocBytesSe, kept: row.keptOfSpanBytesSe, died: row.diedBytesSe })[who.fate];
const countSe = (row: AllocationRow): number =>
  ({ all: row.allocCountSe, kept: row.keptOfSpanCountSe, died: row.diedCountSe })[who.fate];
const otherError = (row: AllocationRow): string =>
  unit.value === 'bytes' ? amountError('objects', countSe(row)) : amountError('bytes', bytesSe(row));
/** What a figure is divided by, and how that is written behind the column's name. */
const scale = computed(() => {
  const { per } = who;
  if (per === 'second') return { by: seconds.value, text: ' a second' };
  const rounds = answer.value?.rounds;
  return per === 'round' && rounds ? { by: rounds.count, text: ' a round' } : { by: 1, text: '' };
});
const few = (count: number): string => (count < 10 && scale.value.by > 1 ? count.toFixed(1) : countText(count));
const shown = (value: number): string => (unit.value === 'bytes' ? formatBytes : few)(value / scale.value.by);
const valueSe = (row: AllocationRow): number => (unit.value === 'bytes' ? bytesSe(row) : countSe(row));
const error = (row: AllocationRow): string => amountError(unit.value, valueSe(row) / scale.value.by);
const perOptions = computed<(readonly ['total' | 'second' | 'round', string])[]>(() => [
  ['total', 'in all'],
  ['second', 'a second'],
  ...(answer.value?.roundLabels.length ? [['round', 'a round'] as const] : []),
]);
const CHARGED: readonly SitesMode[] = ['keys', 'sizes', 'churn'];
const FATED: readonly SitesMode[] = ['keys', 'paths', 'picture'];

/** Estimates of inferred bytes where a recorder infers, else what the objects are. */
const sixth = computed<DenseColumn<AllocationRow>>(() =>
  (answer.value?.inferredBytes ?? 0) > 0 || !answer.value?.rows.some((row) => row.type !== null)
    ? {
        key: 'inferred',
        title: 'inferred',
        unit: 'bytes',
        term: 'inferred',
        text: (row) => (row.inferredBytes > 0 ? formatPercent(row.inferredBytes / row.allocBytes) : '–'),
        order: (row) => row.inferredBytes,
      }
    : {
        key: 'type',
        title: 'mostly',
        text: (row) => shortType(row.type),
        hint: (row) => row.type ?? '',
        order: (row) => shortType(row.type),
        isText: true,
      },
);

/** What is watched from an instant on: what died since, and what stays, as it came. */
const since: readonly DenseColumn<AllocationRow>[] = [
  {
    key: 'died',
    title: 'died',
    unit: 'bytes',
    text: (row) => (row.diedBytes > 0 ? formatBytes(row.diedBytes) : '–'),
    order: (row) => row.diedBytes,
    se: (row) => row.diedBytesSe,
  },
  { key: 'series', title: 'kept since' },
];
const keptText = (row: AllocationRow): string => {
  const series = row.keptSeries ?? [];
  const most = series.reduce((top, bytes) => Math.max(top, bytes), 0);
  return `${formatBytes(series[series.length - 1] ?? 0)} of what was born since lives; at most ${formatBytes(most)}`;
};

const columns = computed<readonly DenseColumn<AllocationRow>[]>(() => [
  {
    key: 'site',
    title: CHARGE_WORDS[answer.value?.charge ?? 'site'],
    order: (row) => row.name,
    saved: (row) => `${row.name} ${row.place}`.trim(),
    isText: true,
  },
  {
    key: 'value',
    title: `${FATE_WORDS[who.fate]}${scale.value.text}`,
    term: 'fate',
    unit: unit.value,
    order: (row) => valueOf(row) / scale.value.by,
    se: (row) => valueSe(row) / scale.value.by,
    hint: (row) => (unit.value === 'bytes' ? exactBytes(bytesOf(row)) : `${countText(countOf(row))} objects`),
  },
  { key: 'share', title: 'share', order: shareOf },
  ...(counted.value
    ? [
        {
          key: 'objects',
          title: unit.value === 'bytes' ? 'objects' : 'bytes',
          ...(unit.value === 'bytes' ? {} : { unit: 'bytes' }),
          text: (row: AllocationRow) =>
            unit.value === 'bytes' ? countText(countOf(row), countSe(row)) : formatBytes(bytesOf(row)),
          order: (row: AllocationRow) => (unit.value === 'bytes' ? countOf(row) : bytesOf(row)),
          se: (row: AllocationRow) => (unit.value === 'bytes' ? countSe(row) : bytesSe(row)),
          hint: otherError,
        },
      ]
    : []),
  {
    key: 'rate',
    title: 'a second',
    unit: 'bytes',
    text: (row) => formatBytes(row.allocBytes / seconds.value),
    order: (row) => row.allocBytes / seconds.value,
    se: (row) => row.allocBytesSe / seconds.value,
    hint: (row) =>
      `bytes allocated a second, whatever became of them ${plusMinus(row.allocBytesSe / seconds.value)}`.trim(),
  },
  {
    key: 'kept',
    title: 'kept',
    term: 'kept',
    unit: 'bytes',
    order: (row) => row.keptBytes,
    se: (row) => row.keptBytesSe,
    hint: (row) => `${exactBytes(row.keptBytes)} ${plusMinus(row.keptBytesSe)}`.trim(),
  },
  ...(workspace.isOpen ? since : []),
  sixth.value,
  {
    key: 'samples',
    title: 'samples',
    term: 'sample',
    text: (row) => countText(row.samples),
    order: (row) => row.samples,
  },
]);
</script>

<template>
  <div v-if="answer" class="view">
    <div class="view-head">
      <h2>Who allocates?</h2>
      <FindField v-if="answer.observed" />
    </div>
    <template v-if="answer.observed">
      <v-btn-toggle
        class="condensed"
        aria-label="How it is shown"
        :model-value="who.mode"
        @update:model-value="(mode: SitesMode) => who.set({ mode })"
      >
        <v-btn v-for="[mode, text] in MODES" :key="mode" :value="mode" :aria-pressed="who.mode === mode">{{
          text
        }}</v-btn>
      </v-btn-toggle>
      <p class="condensed quiet line">
        <template v-if="CHARGED.includes(who.mode)"><ChargeControl /> · </template>
        <template v-if="FATED.includes(who.mode)">
          <InlineSelect
            label="Fate"
            :value="who.fate"
            :options="[
              ['all', 'all'],
              ['kept', 'kept'],
              ['died', 'died'],
            ]"
            data-test="fate"
            @choose="(fate) => who.set({ fate })"
          />
          <InlineSelect
            label="Measure"
            :value="who.counted"
            :options="
              counted
                ? [
                    ['bytes', 'bytes'],
                    ['objects', 'objects'],
                  ]
                : [['bytes', 'bytes']]
            "
            @choose="(counted) => who.set({ counted: counted === 'objects' ? 'objects' : 'bytes' })"
          />
          <InlineSelect
            v-if="who.mode === 'keys'"
            label="Total or rate"
            :value="who.per"
            :options="perOptions"
            data-test="per"
            @choose="(per) => who.set({ per })"
          />
          <InlineSelect
            v-if="who.mode === 'keys' && who.per === 'round' && answer.rounds"
            label="Rounds between marks"
            :value="answer.rounds.label"
            :options="answer.roundLabels.map((label) => [label, `of “${label}”`] as const)"
            @choose="(round) => who.set({ round })"
          />
          <InlineSelect
            v-if="who.mode !== 'keys'"
            label="Direction"
            :value="who.direction"
            :options="[
              ['entry', 'from the entry'],
              ['allocation', 'from the allocation'],
            ]"
            data-test="direction"
            @choose="(direction) => who.set({ direction })"
          />
          <InlineSelect
            v-if="who.mode !== 'keys'"
            label="Recursion"
            :value="who.recursion"
            :options="[
              ['folded', 'recursion folded'],
              ['unfolded', 'recursion as it was'],
            ]"
            data-test="recursion"
            @choose="(recursion) => who.set({ recursion })"
          />
          ·
        </template>
        {{ formatBytes(answer.allocBytes) }} {{ plusMinus(answer.allocBytesSe) }} from {{ answer.keyCount }}
        {{ answer.charge === 'site' || answer.charge === 'ownFrame' ? 'sites' : `${CHARGE_WORDS[answer.charge]}s` }} ·
        {{ formatBytes(answer.keptBytes) }} {{ plusMinus(answer.keptBytesSe) }} kept at its end<template
          v-if="answer.measured?.basis === 'collections'"
        >
          · collections measured {{ formatBytes(answer.measured.totalBytes) }}</template
        ><template v-if="answer.rounds">
          · in {{ answer.rounds.count }} whole rounds, {{ formatDuration(spanLengthMs(answer.span)) }}</template
        ><template v-if="answer.sizeUntold > 0">
          · {{ answer.sizeUntold.toLocaleString('en') }} samples have no size of their own and are left out</template
        ><template v-if="blindMs > 0"> · births were not watched for {{ formatDuration(blindMs) }}</template>
      </p>
      <PathOutline v-if="who.mode === 'paths' && who.paths" :answer="who.paths" />
      <PathPicture v-else-if="who.mode === 'picture' && who.paths" :answer="who.paths" />
      <SizesTable v-else-if="who.mode === 'sizes' && who.sizes" :answer="who.sizes" />
      <ChurnTable v-else-if="who.mode === 'churn' && who.churn" :answer="who.churn" />
      <template v-else-if="who.mode === 'keys'">
        <DenseTable
          data-test="alloc-sites"
          :columns="columns"
          :rows="rows"
          :row-key="(row) => row.key"
          :chosen="chosen"
          fill
          caption="Who allocates"
          export-name="allocation"
          :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No allocation was seen in this span.'"
          @choose="(row) => workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
        >
          <template #cell-site="{ row }"
            ><KeyName :words="row" :inferred-ratio="row.inferredBytes / Math.max(1, row.allocBytes)"
          /></template>
          <template #cell-value="{ row }"
            >{{ shown(valueOf(row)) }} <span class="quiet">{{ error(row) }}</span></template
          >
          <template #cell-share="{ row }">
            <span v-if="who.fate === 'all'" class="bar" :title="`${formatPercent(keptShare(row))} of it kept`"
              ><span class="died" :style="{ width: `${Math.max(1, shareOf(row) * 44)}px` }"
                ><span class="kept" :style="{ width: `${keptShare(row) * 100}%` }" /></span
            ></span>
            <span v-else class="bar"
              ><span
                :class="who.fate === 'kept' ? 'solid' : 'died'"
                :style="{ width: `${Math.max(1, shareOf(row) * 44)}px` }" /></span
            ><span class="percent">{{ formatPercent(shareOf(row)) }}</span>
          </template>
          <template #cell-series="{ row }"
            ><SmallSeries v-if="row.keptSeries" :values="row.keptSeries" :text="keptText(row)"
          /></template>
          <template #cell-kept="{ row }">{{ row.keptBytes > 0 ? formatBytes(row.keptBytes) : '–' }}</template>
        </DenseTable>
        <p class="quiet small">
          Solid is kept, hatched has died or is too young to tell.<template v-if="answer.inferredBytes > 0">
            Inferred is short-lived allocation that was not looked at sample by sample: it is shared out by the mix of
            what was.</template
          ><template v-if="answer.rows.some(({ name }) => name === NOT_SEEN)">
            What is beyond that mix stands as {{ NOT_SEEN }}: it may be anybody's, which the errors say.</template
          >
        </p>
      </template>
    </template>
    <p v-else class="quiet">
      A GC log tells how much is allocated and when, but not where. Record the program to see its sites:
      <code>./heron record -- node app.js</code> or <code>./heron record -- java -jar app.jar</code>
    </p>
  </div>
</template>

<style scoped>
.line {
  margin: 6px 0 4px;
}
.bar {
  display: inline-block;
  width: 46px;
  text-align: left;
  vertical-align: middle;
}
.died,
.solid {
  display: inline-block;
  height: 12px;
  vertical-align: middle;
  border: 1px solid var(--kept);
  box-sizing: border-box;
}
.died {
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--kept) 3px 4px);
}
.kept {
  display: block;
  height: 100%;
  background: var(--kept);
}
.solid {
  background: var(--kept);
}
.percent {
  display: inline-block;
  min-width: 42px;
}
:deep(td.col-type) {
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
}
@container (max-width: 860px) {
  :deep(.col-objects) {
    display: none;
  }
}
@container (max-width: 720px) {
  :deep(.col-samples),
  :deep(.col-rate) {
    display: none;
  }
}
@container (max-width: 560px) {
  :deep(.col-type) {
    display: none;
  }
}
</style>
