<script setup lang="ts">
import { formatPercent, PAST_MS, type SurvivalAnswer, type SurvivalGroup } from '@brisk-heron/core';
import { computed } from 'vue';
import ChartFigure from '../../components/ChartFigure.vue';
import DenseTable from '../../components/DenseTable.vue';
import KeyName from '../../components/KeyName.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { amountError, amountText, CHARGE_WORDS, countText } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { drawCurves, type DrawnCurve } from './curve-chart.ts';
import { FEW_CURVES, MOST_CURVES, useSurvival } from './survival-state.ts';
import { ageText, differenceText, rangeText, shareText } from './survival-words.ts';

/** How long what keys allocate lives: curves with their bands, and a table of every key. */
const props = defineProps<{ answer: SurvivalAnswer }>();
const workspace = useWorkspace();
const survival = useSurvival();

interface Row extends SurvivalGroup {
  readonly words: NonNullable<SurvivalGroup['words']>;
  readonly says: string;
  readonly sureness: number;
}
const whole = computed(() => props.answer.groups[0]!);
const rows = computed<Row[]>(() =>
  props.answer.groups.slice(1).map((group, at) => {
    const difference = props.answer.differences[at]!;
    return { ...group, words: group.words!, says: differenceText(difference), sureness: difference.z };
  }),
);
const drawnKeys = computed(
  () =>
    survival.drawn ??
    rows.value
      .filter(({ missing }) => missing === '')
      .slice(0, FEW_CURVES)
      .map(({ words }) => words.key),
);
const chosen = computed(() => (workspace.selection?.kind === 'key' ? workspace.selection.key : null));
const curves = computed<DrawnCurve[]>(() => {
  const drawn = rows.value.filter(({ words, curve }) => curve.length > 0 && drawnKeys.value.includes(words.key));
  const isFew = drawn.length <= 1;
  return [
    { name: 'everything', points: whole.value.curve, style: 0, isFull: true },
    ...drawn
      .slice(0, MOST_CURVES - 1)
      .map(({ words, curve }, at) => ({
        name: words.name,
        points: curve,
        style: at + 1,
        isFull: isFew || words.key === chosen.value,
      })),
  ].filter(({ points }) => points.length > 0);
});
const draw = computed(() => {
  const [shown, options] = [curves.value, { kind: props.answer.age, isLog: survival.isLog }];
  return (svg: SVGSVGElement, width: number, height: number): void =>
    drawCurves(svg, { width, height }, shown, options);
});
const text = computed(() => {
  const { median, oldest } = whole.value;
  return `Share that survives, by age: half of everything is dead ${rangeText(props.answer.age, median, oldest)}.`;
});
const chartRows = (): string[][] =>
  curves.value.flatMap(({ name, points }) =>
    points.map(({ age, estimate, low, high, atRisk }) => [
      name,
      ageText(props.answer.age, age),
      formatPercent(estimate),
      `${formatPercent(low)} – ${formatPercent(high)}`,
      countText(atRisk),
    ]),
  );

/** What is said of two curves that were chosen. */
const pairText = computed(() => {
  const [one, other] = drawnKeys.value.map((key) => rows.value.find(({ words }) => words.key === key)?.words.name);
  const { pair } = props.answer;
  if (pair === null || one === undefined || other === undefined || survival.drawn?.length !== 2) return '';
  return `${one} ${pair.says === 'alike' ? `and ${other}: ` : ''}${differenceText(pair, other)}`;
});

const pastColumn = (ms: number, at: number): DenseColumn<Row> => ({
  key: `past${ms}`,
  title: `past ${ms / 1000} s`,
  text: (row) => shareText(row.past[at] ?? null),
  order: (row) => row.past[at]?.estimate ?? NaN,
});
const columns = computed<readonly DenseColumn<Row>[]>(() => [
  {
    key: 'key',
    title: CHARGE_WORDS[workspace.charge],
    order: ({ words }) => words.name,
    saved: ({ words }) => `${words.name} ${words.place}`.trim(),
    isText: true,
  },
  { key: 'drawn', title: 'curve' },
  {
    key: 'weight',
    title: 'allocated',
    unit: props.answer.by,
    text: (row) => amountText(props.answer.by, row.weight),
    hint: (row) => amountError(props.answer.by, row.weightSe),
    order: (row) => row.weight,
    se: (row) => row.weightSe,
  },
  {
    key: 'samples',
    title: 'samples',
    term: 'sample',
    text: (row) => countText(row.samples),
    order: (row) => row.samples,
  },
  {
    key: 'median',
    title: 'half is dead',
    text: (row) => row.missing || rangeText(props.answer.age, row.median, row.oldest),
    hint: (row) => row.missing,
    order: (row) => row.median.high ?? Infinity,
    saved: (row) => (row.missing === '' ? rangeText(props.answer.age, row.median, row.oldest) : row.missing),
    isText: true,
  },
  {
    key: 'p90',
    title: 'nine tenths',
    text: (row) => (row.missing === '' ? rangeText(props.answer.age, row.p90, row.oldest) : '–'),
    order: (row) => row.p90.high ?? Infinity,
    saved: (row) => (row.missing === '' ? rangeText(props.answer.age, row.p90, row.oldest) : ''),
    isText: true,
  },
  ...(props.answer.age === 'seconds' ? PAST_MS.map(pastColumn) : []),
  {
    key: 'says',
    title: 'beside the rest',
    text: (row) => row.says,
    order: (row) => row.sureness,
    saved: (row) => row.says,
    isText: true,
  },
]);

function toggle(row: Row): void {
  const { key } = row.words;
  const now = drawnKeys.value;
  survival.draw(now.includes(key) ? now.filter((each) => each !== key) : [...now, key].slice(-(MOST_CURVES - 1)));
}
</script>

<template>
  <div class="filling">
    <p v-if="answer.missing" class="quiet" data-test="curves-missing">No curve: {{ answer.missing }}.</p>
    <ChartFigure
      v-else
      class="shared"
      name="curve-chart"
      title="Share that survives"
      term="survival"
      fill
      :height="230"
      :draw="draw"
      :text="text"
      :columns="['of', 'older than', 'share', '95 %', 'at risk']"
      :rows="chartRows"
    >
      <template #beside
        ><span class="quiet condensed key"
          >everything: half dead {{ rangeText(answer.age, whole.median, whole.oldest) }}, nine tenths
          {{ rangeText(answer.age, whole.p90, whole.oldest) }} · shade: 95 %</span
        ></template
      >
    </ChartFigure>
    <p v-if="pairText" class="condensed pair" data-test="curve-pair">{{ pairText }}</p>
    <DenseTable
      data-test="survival-keys"
      :columns="columns"
      :rows="rows"
      :row-key="({ words }) => words.key"
      :chosen="chosen"
      fill
      caption="Lifetimes by key"
      export-name="survival"
      :empty="workspace.find ? `Nothing here matches “${workspace.find}”.` : 'No object was seen in this span.'"
      @choose="({ words }) => workspace.select({ kind: 'key', charge: workspace.charge, key: words.key })"
    >
      <template #cell-key="{ row }"><KeyName :words="row.words" /></template>
      <template #cell-drawn="{ row }"
        ><v-checkbox-btn
          inline
          :aria-label="`Curve of ${row.words.name}`"
          :disabled="row.missing !== ''"
          :model-value="row.missing === '' && drawnKeys.includes(row.words.key)"
          @click.stop
          @update:model-value="toggle(row)"
      /></template>
    </DenseTable>
    <p class="quiet small">
      {{ answer.notes.join(' ') }} What outlives the span, or was no longer followed, is censored.
    </p>
  </div>
</template>

<style scoped>
.pair {
  margin: 2px 0;
}
.shared {
  flex: 0 1 46%;
}
.key {
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
:deep(td.col-median),
:deep(td.col-says) {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}
@container (max-width: 1120px) {
  :deep(.col-past60000),
  :deep(.col-samples) {
    display: none;
  }
}
@container (max-width: 860px) {
  :deep(.col-past1000),
  :deep(.col-past10000) {
    display: none;
  }
}
@container (max-width: 640px) {
  :deep(.col-p90),
  :deep(.col-says) {
    display: none;
  }
}
</style>
