<script setup lang="ts">
import { csvText, formatPercent, type PathsAnswer, Z_95 } from '@brisk-heron/core';
import { computed } from 'vue';
import PathOutlineTree from '../../components/PathOutlineTree.vue';
import TakeTable from '../../components/TakeTable.vue';
import { amountError, amountText } from '../../components/figures.ts';
import { outlineLines } from '../../components/outline-lines.ts';
import { useSites } from './sites-state.ts';

/** Call paths as an outline. Only the rows in sight are in the document. */
const props = defineProps<{ answer: PathsAnswer }>();
const who = useSites();
const lines = computed(() => outlineLines(props.answer.children, props.answer.open));
const figure = (value: number): string => amountText(who.counted, value);
const error = (se: number): string => amountError(who.counted, se);
const selfWord = computed(() => (who.direction === 'entry' ? 'itself' : 'ends here'));
const share = (value: number): number => (props.answer.all > 0 ? value / props.answer.all : 0);

const foldedText = computed(() =>
  who.recursion === 'folded'
    ? ', and what a function calls again, by itself or through others, hangs under its first call'
    : '',
);

// The open lines, each with the whole way to it.
function csv(): string {
  const way: string[] = [];
  const rows = lines.value.map(({ row, depth }) => {
    way.splice(depth);
    way.push(
      row.words
        .map((word) =>
          word.kind === 'through' ? `through ${word.count} of ${word.of}` : `${word.name} ${word.place}`.trim(),
        )
        .join(' > '),
    );
    return [depth + 1, way.join(' > '), row.total, Z_95 * row.totalSe, share(row.total), row.self, Z_95 * row.selfSe];
  });
  return csvText(
    ['level', 'path', 'with all below', 'with all below ±', 'share', selfWord.value, `${selfWord.value} ±`],
    rows,
  );
}
</script>

<template>
  <div class="filling">
    <div class="heads condensed quiet" aria-hidden="true">
      <span class="what">{{ who.direction === 'entry' ? 'from the entry down' : 'from the allocation up' }}</span><span
        class="total"
        >with all below</span
      ><span class="bar">share</span><span class="self">{{ selfWord }}</span>
    </div>
    <PathOutlineTree
      :children="answer.children"
      :open="answer.open"
      label="Call paths"
      test="outline"
      way-key="w"
      @toggle="who.toggle"
      @way="who.openHeaviest"
    >
      <template #default="{ row }">
        <span class="total"
          >{{ figure(row.total) }} <span class="quiet">{{ error(row.totalSe) }}</span></span
        >
        <span class="bar"
          ><span :style="{ width: `${share(row.total) * 60}px` }" />{{ formatPercent(share(row.total)) }}</span
        >
        <span class="self"
          >{{ row.self > 0 ? figure(row.self) : '–' }} <span class="quiet">{{ error(row.selfSe) }}</span></span
        >
      </template>
    </PathOutlineTree>
    <p class="quiet small">
      Arrows move and open, <kbd>w</kbd> opens the heaviest way down. Chains without a branch are one line{{
        foldedText
      }}.<template v-if="answer.withoutPath > 0"> {{ figure(answer.withoutPath) }} have no path.</template
      ><template v-if="answer.leftOut > 0">
        {{ answer.leftOut.toLocaleString('en') }} lines, lighter than those beside them, are left out: use the find
        field.</template
      >
    </p>
    <TakeTable :csv="csv" name="paths" />
  </div>
</template>

<style scoped>
.heads {
  display: flex;
  border-bottom: 1.5px solid var(--ink);
  padding: 3px 0;
  padding-right: 14px;
}
.what {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.total {
  width: 150px;
  text-align: right;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
  font-variant-numeric: tabular-nums;
}
.bar {
  width: 120px;
  padding-left: 14px;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
}
.bar span {
  display: inline-block;
  height: 11px;
  margin-right: 5px;
  background: var(--kept);
  vertical-align: middle;
  min-width: 1px;
}
.self {
  width: 140px;
  text-align: right;
  padding-right: 6px;
  font-family: 'IBM Plex Sans Condensed', sans-serif;
}
kbd {
  font: inherit;
  border: 1px solid var(--rule);
  padding: 0 4px;
}
@container (max-width: 860px) {
  .self {
    width: 84px;
  }
  .self .quiet {
    display: none;
  }
}
@container (max-width: 700px) {
  .bar {
    width: 108px;
  }
  .self {
    display: none;
  }
  .total {
    width: 120px;
  }
}
</style>
